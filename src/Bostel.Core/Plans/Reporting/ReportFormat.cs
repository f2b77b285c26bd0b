using System.Text.Json.Serialization;

namespace Bostel.Core.Plans;

/// <summary>The files of a report.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ReportFormat>))]
public enum ReportFormat
{
    [JsonStringEnumMemberName("pdf")]
    Pdf,

    [JsonStringEnumMemberName("csv")]
    Csv,

    [JsonStringEnumMemberName("xlsx")]
    Xlsx,

    /// <summary>One page that works alone, with the map inside.</summary>
    [JsonStringEnumMemberName("html")]
    Html,

    [JsonStringEnumMemberName("json")]
    Json,

    /// <summary>Results as quality information, ISO 23952.</summary>
    [JsonStringEnumMemberName("qif")]
    Qif,

    /// <summary>The note to manufacturing as text.</summary>
    [JsonStringEnumMemberName("note")]
    Note,

    /// <summary>The note to manufacturing with its picture, PDF.</summary>
    [JsonStringEnumMemberName("note-pdf")]
    NotePdf,
}

/// <summary>How files of a format are named and told to others.</summary>
public static class ReportFormats
{
    private static readonly Dictionary<ReportFormat, (string Name, string Ending, string MediaType)> Known = new()
    {
        [ReportFormat.Pdf] = ("pdf", ".pdf", "application/pdf"),
        [ReportFormat.Csv] = ("csv", ".csv", "text/csv"),
        [ReportFormat.Xlsx] = ("xlsx", ".xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
        [ReportFormat.Html] = ("html", ".html", "application/octet-stream"),
        [ReportFormat.Json] = ("json", ".json", "application/json"),
        [ReportFormat.Qif] = ("qif", ".qif.xml", "application/xml"),
        [ReportFormat.Note] = ("note", ".txt", "application/octet-stream"),
        [ReportFormat.NotePdf] = ("note-pdf", "-note.pdf", "application/pdf"),
    };

    /// <summary>As addresses and the register write it.</summary>
    public static string NameOf(this ReportFormat format) => Known[format].Name;

    /// <summary>What follows a report's number in the file's name.</summary>
    public static string Ending(this ReportFormat format) => Known[format].Ending;

    /// <summary>HTML that runs a script and plain text are saved, never shown as a page of the server.</summary>
    public static string MediaType(this ReportFormat format) => Known[format].MediaType;

    /// <summary>The format of a name; null: there is none.</summary>
    public static ReportFormat? Named(string name) =>
        Known.Where(k => k.Value.Name == name).Select(k => (ReportFormat?)k.Key).FirstOrDefault();
}
