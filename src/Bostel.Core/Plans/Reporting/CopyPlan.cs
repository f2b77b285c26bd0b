using System.Net.Mail;
using System.Text.Json.Serialization;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>Of which reports a copy goes out.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<CopyWhen>))]
public enum CopyWhen
{
    [JsonStringEnumMemberName("always")]
    Always,

    [JsonStringEnumMemberName("conforming")]
    Conforming,

    /// <summary>Not proven to conform, or proven not to.</summary>
    [JsonStringEnumMemberName("open")]
    Open,
}

/// <summary>Where copies of an issued report go by themselves. The kinds are a closed set.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(MailCopy), "mail")]
[JsonDerivedType(typeof(FolderCopy), "folder")]
public abstract record CopyPlan
{
    public const int Most = 20;

    public CopyWhen When { get; init; }

    public IReadOnlyList<ReportFormat> Files { get; init; } = [];

    /// <summary>Where it goes, in words.</summary>
    [JsonIgnore]
    public string Words => this switch
    {
        MailCopy mail => $"mail to {mail.To}",
        FolderCopy { Name.Length: > 0 } folder => $"folder {folder.Name}",
        _ => "delivery folder",
    };

    /// <summary>What is wrong with it; null when nothing.</summary>
    internal abstract string? Fault { get; }

    public bool GoesOut(Verdict verdict) => When switch
    {
        CopyWhen.Conforming => verdict == Verdict.Conforming,
        CopyWhen.Open => verdict != Verdict.Conforming,
        _ => true,
    };
}

/// <summary>A letter whose text is the note to manufacturing, the files with it.</summary>
/// <param name="To">One address.</param>
public sealed record MailCopy(string To) : CopyPlan
{
    private const int MostAddress = 254;

    internal override string? Fault => To.Length > MostAddress || To.Any(char.IsControl) || !MailAddress.TryCreate(To, out var read)
        || read.Address != To
            ? $"'{To}' is no mail address."
            : null;
}

/// <summary>A folder of its own for each report, in the delivery folder of the server.</summary>
/// <param name="Name">Of the folder within; empty: none.</param>
public sealed record FolderCopy(string Name) : CopyPlan
{
    private const int MostName = 60;

    internal override string? Fault => Name.Length > MostName || Name is "." or ".."
        || !Name.All(c => char.IsLetterOrDigit(c) || c is '-' or '_' or ' ' or '.') || Name != Name.Trim() || Name.StartsWith('.')
            ? $"'{Name}' is no name of a folder: letters, digits, spaces, - _ . and at most {MostName} of them."
            : Files.Count == 0 ? "a copy for a folder needs at least one file." : null;
}
