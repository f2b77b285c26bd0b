using System.Globalization;
using Bostel.Core.Tolerancing;
using DocumentFormat.OpenXml;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Spreadsheet;

namespace Bostel.Reports;

/// <summary>How a cell of a workbook looks. The order is that of the cell formats in the file.</summary>
public enum CellLook
{
    Plain,
    Head,
    Share,
    Conforming,
    NonConforming,
    NotProven,
    NotMeasured,
}

/// <summary>A cell: a number that stays one, or text.</summary>
/// <param name="Value">A number, a text or null.</param>
/// <param name="Decimals">Shown of a number; null: as many as it has. The number itself is whole in any case.</param>
public readonly record struct SheetCell(object? Value, CellLook Look = CellLook.Plain, int? Decimals = null)
{
    public static SheetCell Of(Verdict verdict) => new(Wording.Of(verdict), LookOf(verdict));

    public static CellLook LookOf(Verdict verdict) => verdict switch
    {
        Verdict.Conforming => CellLook.Conforming,
        Verdict.NonConforming => CellLook.NonConforming,
        Verdict.NotProven => CellLook.NotProven,
        _ => CellLook.NotMeasured,
    };
}

/// <summary>A sheet with its head of columns, which stays in sight, and its rows.</summary>
public sealed record Sheet(string Name, IReadOnlyList<string> Columns, IReadOnlyList<IReadOnlyList<SheetCell>> Rows);

/// <summary>
/// Writes workbooks (XLSX, ISO/IEC 29500): numbers with the decimals that their tolerance asks for, verdicts in their colours.
/// </summary>
public static class Workbook
{
    private const int MostDecimals = 6;
    private const uint FirstFormat = 164;
    private const int MostName = 31;

    /// <summary>Fill and ink of each look that has its own; the same colours as on the screen.</summary>
    private static readonly (string Fill, string Ink)[] Colours =
        [("FFD9E8DF", "FF2E6B4F"), ("FFF3D9DA", "FFA3292F"), ("FFF3E8CF", "FF8A641F"), ("FFE6E8EA", "FF5B6670")];

    public static byte[] Write(IReadOnlyList<Sheet> sheets)
    {
        using var memory = new MemoryStream();
        using (var document = SpreadsheetDocument.Create(memory, SpreadsheetDocumentType.Workbook))
        {
            var book = document.AddWorkbookPart();
            var list = new Sheets();
            book.Workbook = new(list);
            book.AddNewPart<WorkbookStylesPart>().Stylesheet = Styles();
            var names = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
            foreach (var sheet in sheets)
            {
                var part = book.AddNewPart<WorksheetPart>();
                part.Worksheet = Of(sheet);
                list.Append(new DocumentFormat.OpenXml.Spreadsheet.Sheet
                {
                    Id = book.GetIdOfPart(part),
                    SheetId = (uint)names.Count + 1,
                    Name = NameOf(sheet.Name, names),
                });
            }
        }

        return memory.ToArray();
    }

    /// <summary>Names of sheets are short, without some signs, and differ.</summary>
    private static string NameOf(string wanted, HashSet<string> taken)
    {
        var name = string.Concat(wanted.Select(c => "[]:*?/\\".Contains(c, StringComparison.Ordinal) || char.IsControl(c) ? '_' : c))
            .Trim('\'', ' ');
        name = name.Length == 0 ? "Sheet" : name[..Math.Min(name.Length, MostName)];
        for (var k = 2; !taken.Add(name); k++)
        {
            var end = string.Create(CultureInfo.InvariantCulture, $" ({k})");
            name = name[..Math.Min(name.Length, MostName - end.Length)] + end;
        }

        return name;
    }

    private static Worksheet Of(Sheet sheet)
    {
        var data = new SheetData();
        data.Append(RowOf([.. sheet.Columns.Select(c => new SheetCell(c, CellLook.Head))]));
        foreach (var row in sheet.Rows)
        {
            data.Append(RowOf(row));
        }

        var head = new Pane
        { VerticalSplit = 1, TopLeftCell = "A2", ActivePane = PaneValues.BottomLeft, State = PaneStateValues.Frozen };
        var frozen = new SheetView(head) { WorkbookViewId = 0 };
        return new(new SheetViews(frozen), Widths(sheet), data);
    }

    /// <summary>Wide enough for what stands in a column, as far as that is sensible.</summary>
    private static Columns Widths(Sheet sheet)
    {
        var columns = new Columns();
        for (var k = 0; k < sheet.Columns.Count; k++)
        {
            var longest = sheet.Rows.Where(r => k < r.Count).Select(r => r[k].Value is string s ? s.Length : 9)
                .Append(sheet.Columns[k].Length).Max();
            columns.Append(new Column
            {
                Min = (uint)k + 1,
                Max = (uint)k + 1,
                Width = Math.Clamp(longest + 2, 6, 60),
                CustomWidth = true,
            });
        }

        return columns;
    }

    private static Row RowOf(IReadOnlyList<SheetCell> cells)
    {
        var row = new Row();
        foreach (var cell in cells)
        {
            row.Append(cell.Value switch
            {
                // Neither XML nor workbooks know what is no number.
                null or double.NaN or double.PositiveInfinity or double.NegativeInfinity => new Cell { StyleIndex = StyleOf(cell) },
                string s => new Cell(new InlineString(TextOf(s))) { DataType = CellValues.InlineString, StyleIndex = StyleOf(cell) },
                IFormattable number => new Cell(new CellValue(number.ToString(
                    number is double ? "R" : null, CultureInfo.InvariantCulture)))
                { StyleIndex = StyleOf(cell) },
                _ => throw new ArgumentException($"A cell holds a number or a text, not {cell.Value.GetType()}.", nameof(cells)),
            });
        }

        return row;
    }

    private static Text TextOf(string said) => new(Wording.InXml(Wording.Neutral(said))) { Space = SpaceProcessingModeValues.Preserve };

    /// <summary>Looks come in rows of formats: without decimals asked for, then with 0 to the most.</summary>
    private static uint StyleOf(SheetCell cell) =>
        (uint)(((int)cell.Look * (MostDecimals + 2)) + (cell.Decimals is { } d ? Math.Clamp(d, 0, MostDecimals) + 1 : 0));

    private static Stylesheet Styles()
    {
        static ForegroundColor Solid(string rgb) => new() { Rgb = rgb };
        var fonts = new Fonts(new Font(new FontSize { Val = 10 }), new Font(new Bold(), new FontSize { Val = 10 }));
        var fills = new Fills(
            new Fill(new PatternFill { PatternType = PatternValues.None }),
            new Fill(new PatternFill { PatternType = PatternValues.Gray125 }),
            new Fill(new PatternFill(Solid("FFECEFF7")) { PatternType = PatternValues.Solid }));
        foreach (var (fill, ink) in Colours)
        {
            fonts.Append(new Font(new Bold(), new FontSize { Val = 10 }, new Color { Rgb = ink }));
            fills.Append(new Fill(new PatternFill(Solid(fill)) { PatternType = PatternValues.Solid }));
        }

        var numbers = new NumberingFormats();
        for (var d = 0; d <= MostDecimals; d++)
        {
            var code = d == 0 ? "0" : "0." + new string('0', d);
            numbers.Append(new NumberingFormat { NumberFormatId = FirstFormat + (uint)d, FormatCode = code });
        }

        const uint Percent = 10;
        var formats = new CellFormats();
        foreach (var look in Enum.GetValues<CellLook>())
        {
            var (font, fill) = look switch
            {
                CellLook.Head => (1u, 2u),
                >= CellLook.Conforming => ((uint)(look - CellLook.Conforming) + 2, (uint)(look - CellLook.Conforming) + 3),
                _ => (0u, 0u),
            };
            for (var k = 0; k < MostDecimals + 2; k++)
            {
                var number = k == 0 ? 0 : FirstFormat + (uint)(k - 1);
                formats.Append(new CellFormat
                {
                    FontId = font,
                    FillId = fill,
                    BorderId = 0,
                    NumberFormatId = look == CellLook.Share ? Percent : number,
                    ApplyNumberFormat = true,
                    ApplyFont = true,
                    ApplyFill = true,
                });
            }
        }

        return new(numbers, fonts, fills, new Borders(new Border()), new CellStyleFormats(new CellFormat()), formats);
    }
}
