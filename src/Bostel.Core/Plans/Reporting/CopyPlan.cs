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

    /// <summary>Of which reports and which files, in words.</summary>
    [JsonIgnore]
    public string WhatWords => (When switch
    {
        CopyWhen.Conforming => "when it conforms: ",
        CopyWhen.Open => "when it does not conform or is not proven to: ",
        _ => "always: ",
    }) + (Files.Count > 0 ? string.Join(", ", Files.Select(f => f.NameOf())) : "the note");

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

    internal override string? Fault => IsAddress(To) ? null : $"'{To}' is no mail address.";

    /// <summary>The plain form of RFC 5321, somebody@somewhere, without quotes and comments.</summary>
    private static bool IsAddress(string text)
    {
        var at = text.IndexOf('@', StringComparison.Ordinal);
        var somewhere = text[(at + 1)..];
        return at > 0 && text.Length <= MostAddress && somewhere.Length > 0
            && !text.Any(c => char.IsControl(c) || char.IsWhiteSpace(c) || "<>()[],;:\\\"".Contains(c, StringComparison.Ordinal))
            && !somewhere.Contains('@', StringComparison.Ordinal) && somewhere.Split('.').All(l => l.Length > 0);
    }
}

/// <summary>A folder of its own for each report, in the delivery folder of the server.</summary>
/// <param name="Name">Of the folder within; empty: none.</param>
public sealed record FolderCopy(string Name) : CopyPlan
{
    private const int MostName = 60;

    internal override string? Fault
    {
        get
        {
            if (Name.Length > MostName || Name != Name.Trim() || Name.StartsWith('.')
                || !Name.All(c => char.IsLetterOrDigit(c) || c is '-' or '_' or ' ' or '.'))
            {
                return $"'{Name}' is no name of a folder: letters, digits, spaces, - _ . and at most {MostName} of them.";
            }

            return Files.Count == 0 ? "a copy for a folder needs at least one file." : null;
        }
    }
}
