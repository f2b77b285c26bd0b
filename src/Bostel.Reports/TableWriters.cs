using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Core.Comparison;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using MiniExcelLibs;

namespace Bostel.Reports;

/// <summary>The table of characteristics as CSV, XLSX and JSON, full precision.</summary>
public static class TableWriters
{
    private static readonly string[] Columns =
        ["no", "characteristic", "kind", "datums", "alignment", "nominal", "lower limit", "upper limit", "measured", "deviation", "beyond",
            "U (95 %)", "unit", "verdict", "method", "points", "coverage", "remark"];

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals,
    };

    public static byte[] Csv(ReportModel report)
    {
        var text = new StringBuilder();
        text.Append(string.Join(',', Columns)).Append('\n');
        foreach (var row in report.Rows)
        {
            text.Append(string.Join(',', Cells(row).Select(Cell))).Append('\n');
        }

        return Encoding.UTF8.GetBytes(text.ToString());
    }

    public static byte[] Xlsx(ReportModel report)
    {
        var rows = report.Rows.Select(r =>
        {
            var cells = Cells(r);
            return Enumerable.Range(0, Columns.Length)
                .ToDictionary(i => Columns[i], i => cells[i] is string s ? Wording.Neutral(s) : cells[i]);
        }).ToList();
        List<Dictionary<string, object?>> about =
        [
            About("report", report.Header.Number), About("part", report.Header.Part), About("revision", report.Header.Revision),
            About("piece", report.Header.Piece),
            About("plan", report.Header.Plan), About("inspector", report.Header.Inspector),
            About("date", report.Header.Date.ToString("O", CultureInfo.InvariantCulture)),
            About("verdict", Wording.Of(report.Verdict)), About("alignment", report.Aligned.How.Words),
            About("alignment RMS, mm", report.Alignment.Rms),
            .. report.Named.Select(n => About($"alignment {n.Name}", Wording.Of(n))),
            About("map stands in alignment", report.Plan.Compare.Alignment ?? Wording.OwnAlignment),
            About("comparison", MethodWords.Of(report.Compared.How)),
            About("device", report.Plan.Device.Words), About("temperature", report.Plan.Temperature.Words),
            About("band, lower limit, mm", report.Compared.Lower), About("band, upper limit, mm", report.Compared.Upper),
            About("within band, share", report.Statistics.WithinTolerance),
        ];
        using var memory = new MemoryStream();
        memory.SaveAs(new Dictionary<string, object> { ["Characteristics"] = rows, ["About"] = about });
        return memory.ToArray();
    }

    /// <summary>Header, preparation, alignment, statistics and all rows.</summary>
    public static byte[] ToJson(ReportModel report) => JsonSerializer.SerializeToUtf8Bytes(
        new
        {
            report.Header,
            report.Verdict,
            report.Preparation,
            alignment = new { method = report.Aligned.How, said = report.Aligned.How.Words, result = report.Alignment },
            alignments = report.Named,
            mapStandsIn = report.Plan.Compare.Alignment,
            comparison = report.Compared,
            labels = report.Figures.SelectMany(f => f.Labels),
            areas = report.Areas,
            explained = Explained(report.Explained),
            maps = report.Maps.Select(m => new
            {
                plan = m.Plan,
                said = m.Plan.Words(report.Plan),
                m.Plan.Unit,
                m.Statistics,
                m.Remarks,
            }),
            sections = report.Sections.Select(s => new
            {
                s.Plan.Name,
                s.Plan.Point,
                s.Plan.Normal,
                s.Sheet.Statistics,
                s.Sheet.Parts,
                s.Sheet.Remarks,
            }),
            report.Plan.Decision,
            report.Plan.Device,
            report.Plan.Temperature,
            report.Rows,
        }, Json);

    /// <summary>What the deviation is made of, for data files; null where nobody asked.</summary>
    public static object? Explained(PieceExplanation? explained) => explained is null ? null
        : explained.Made is not { } made ? new { failure = explained.Failure }
        : new
        {
            made.Rms,
            made.Usual,
            made.Steps,
            findings = made.Findings.Select(f => new { said = f.Words(explained.FaceName), finding = f }),
            made.Faces,
        };

    private static Dictionary<string, object?> About(string what, object value) =>
        new() { ["what"] = Wording.Neutral(what), ["value"] = value is string s ? Wording.Neutral(s) : value };

    private static object?[] Cells(CharacteristicResult r) =>
    [
        r.Plan.No, r.Plan.Name, Wording.Kind(r.Plan.Kind), string.Join("|", r.Plan.Refers.Datums), r.Plan.Alignment ?? "",
        r.Nominal, r.LowerLimit, r.UpperLimit, r.Measured, r.Deviation, r.Beyond,
        r.Uncertainty, r.Unit, Wording.Of(r.Verdict), r.Method, r.Points, r.Coverage, r.Remark ?? "",
    ];

    /// <summary>A value as a cell of CSV: numbers in full, text quoted where it must be and never read as a formula.</summary>
    public static string Cell(object? value) => value switch
    {
        null => "",
        double d => d.ToString("R", CultureInfo.InvariantCulture),
        string s => Quoted(Wording.Neutral(s)),
        _ => Convert.ToString(value, CultureInfo.InvariantCulture)!,
    };

    private static string Quoted(string s) =>
        s.AsSpan().IndexOfAny(",\"\n\r") >= 0 ? $"\"{s.Replace("\"", "\"\"", StringComparison.Ordinal)}\"" : s;
}
