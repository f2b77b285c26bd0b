using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>The table of characteristics as CSV, XLSX and JSON, full precision.</summary>
public static class TableWriters
{
    private static readonly (string Name, Func<CharacteristicResult, SheetCell> Cell)[] Columns =
    [
        ("no", r => new(r.Plan.No)), ("characteristic", r => new(r.Plan.Name)), ("kind", r => new(Wording.Kind(r.Plan.Kind))),
        ("datums", r => new(string.Join("|", r.Plan.Refers.Datums))), ("alignment", r => new(r.Plan.Alignment ?? "")),
        ("nominal", r => Shown(r, r.Nominal)), ("lower limit", r => Shown(r, r.LowerLimit)), ("upper limit", r => Shown(r, r.UpperLimit)),
        ("measured", r => Shown(r, r.Measured)), ("deviation", r => Shown(r, r.Deviation)), ("beyond", r => Shown(r, r.Beyond)),
        ("U (95 %)", r => Shown(r, r.Uncertainty)), ("unit", r => new(r.Unit)), ("verdict", r => SheetCell.Of(r.Verdict)),
        ("method", r => new(r.Method)), ("points", r => new(r.Points)), ("coverage", r => new(r.Coverage, CellLook.Share)),
        ("remark", r => new(r.Remark ?? "")),
        ("other ways", r => new(Written.In(r.Unit, ShownUnit.Millimetre).RestsOn(r) ?? "")),
    ];

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals,
    };

    public static byte[] Csv(ReportModel report)
    {
        var text = new StringBuilder();
        // Rows of many pieces are put under one another: each says whose it is. No two reports have the same file, then.
        object[] whose = [report.Header.Part, report.Header.Piece, report.Header.Number];
        void Line(IEnumerable<object?> cells) => text.Append(string.Join(',', cells.Select(Cell))).Append('\n');
        Line([.. Columns.Select(c => c.Name), "part", "piece", "report"]);
        foreach (var row in report.Rows)
        {
            Line([.. Columns.Select(c => c.Cell(row).Value), .. whose]);
        }

        return Encoding.UTF8.GetBytes(text.ToString());
    }

    public static byte[] Xlsx(ReportModel report)
    {
        static SheetCell[] About(string what, object value) => [new(what), new(value)];
        IReadOnlyList<IReadOnlyList<SheetCell>> about =
        [
            About("report", report.Header.Number), About("part", report.Header.Part), About("revision", report.Header.Revision),
            About("piece", report.Header.Piece),
            About("plan", report.Header.Plan), About("inspector", report.Header.Inspector),
            About("date", report.Header.Date.ToString("O", CultureInfo.InvariantCulture)),
            [new("verdict"), SheetCell.Of(report.Verdict)], About("alignment", report.Aligned.How.Words),
            About("alignment RMS, mm", report.Alignment.Rms),
            .. report.Named.Select(n => About($"alignment {n.Name}", Wording.Of(n))),
            About("map stands in alignment", report.Plan.Compare.Alignment ?? Wording.OwnAlignment),
            About("comparison", MethodWords.Of(report.Compared.How)),
            About("device", report.Plan.Device.Words), About("temperature", report.Plan.Temperature.Words),
            About("band, lower limit, mm", report.Compared.Lower), About("band, upper limit, mm", report.Compared.Upper),
            [new("within band, share"), new(report.Statistics.WithinTolerance, CellLook.Share)],
        ];
        return Workbook.Write(
        [
            Characteristics("Characteristics", report.Rows), FeatureTable.SheetOf(report.Features), new("About", ["what", "value"], about),
        ]);
    }

    /// <summary>The rows of a piece as a sheet.</summary>
    internal static Sheet Characteristics(string name, IReadOnlyList<CharacteristicResult> rows) => new(
        name, [.. Columns.Select(c => c.Name)], [.. rows.Select(r => (IReadOnlyList<SheetCell>)[.. Columns.Select(c => c.Cell(r))])]);

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
            report.Features,
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

    /// <summary>A figure is shown with a decimal more than its tolerance asks for.</summary>
    private static SheetCell Shown(CharacteristicResult row, double? value) => new(value, CellLook.Plain, row.Decimals + 1);

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
