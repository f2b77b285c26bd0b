using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>A judged piece as it stands in a table over many.</summary>
/// <param name="Report">Number of its report; empty: not issued.</param>
/// <param name="Plan">The revision of the plan by which it was judged; empty: unknown.</param>
public sealed record PieceRows(string Piece, string Report, string Plan, IReadOnlyList<CharacteristicResult> Rows)
{
    public Verdict Verdict => InspectionResult.Overall(Rows.Select(r => r.Verdict));
}

/// <summary>All pieces of a part in one workbook: one sheet over all, and one a piece.</summary>
public static class PiecesWorkbook
{
    /// <summary>Sheets a piece; the sheet over all has more.</summary>
    private const int MostSheets = 250;

    public static byte[] Write(IReadOnlyList<PieceRows> pieces) =>
        Workbook.Write([Over(pieces), .. pieces.Take(MostSheets).Select(p => TableWriters.Characteristics(p.Piece, p.Rows))]);

    /// <summary>A column for each number of the plan, under the name that the first piece with it has; the colour is the verdict.</summary>
    private static Sheet Over(IReadOnlyList<PieceRows> pieces)
    {
        var columns = pieces.SelectMany(p => p.Rows).GroupBy(r => r.Plan.No).OrderBy(g => g.Key).Select(g => g.First()).ToList();
        return new(
            "All pieces",
            ["piece", "verdict", "report", "plan", .. columns.Select(c => $"{c.Plan.No} {c.Plan.Name}, {c.Unit}")],
            [.. pieces.Select(p => (IReadOnlyList<SheetCell>)
            [
                new(p.Piece), SheetCell.Of(p.Verdict), new(p.Report), new(p.Plan),
                .. columns.Select(c => p.Rows.FirstOrDefault(r => r.Plan.No == c.Plan.No) is { } row
                    ? new SheetCell(row.Measured, SheetCell.LookOf(row.Verdict), row.Decimals + 1)
                    : new SheetCell(null)),
            ])]);
    }
}
