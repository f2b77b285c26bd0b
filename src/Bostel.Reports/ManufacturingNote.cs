using System.Text;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>
/// Half a page for who makes the part: what is out, by how much, which way to correct. Corrections of sizes lead to the middle of the
/// tolerance; what stands behind them is said by the explained deviation, only what stands out of its uncertainty.
/// </summary>
public static class ManufacturingNote
{
    private const int MostFindings = 12;

    public static string Of(ReportModel model)
    {
        var h = model.Header;
        var text = new StringBuilder();
        text.AppendLine($"Note to manufacturing, of report {h.Number}").AppendLine();
        text.AppendLine($"{h.Part} rev {h.Revision}, {h.PartName}, piece {h.Piece}").AppendLine().AppendLine(Verdicts.Sentence(model));
        var open = model.Rows.Where(r => r.Verdict == Verdict.NonConforming).ToList();
        if (open.Count > 0)
        {
            text.AppendLine().AppendLine("What is out, and which way to correct it:");
            foreach (var row in open)
            {
                text.AppendLine("- " + Line(row, model.Plan.Shown));
            }
        }

        if (model.Explained?.Made is { Findings: { Count: > 0 } findings })
        {
            text.AppendLine().AppendLine("What the deviation of the surface is made of (± is for 95 %); to correct, the opposite of it:");
            foreach (var finding in findings.Take(MostFindings))
            {
                text.AppendLine("- " + finding.Words(model.Explained.FaceName));
            }
        }

        return text.AppendLine().AppendLine($"Aligned by {model.Aligned.How.Words}. {h.Date:yyyy-MM-dd}, {h.Inspector}.").ToString();
    }

    private static string Line(CharacteristicResult row, ShownUnit shown)
    {
        var (w, d) = (Written.In(row.Unit, shown), row.Decimals);
        var said = $"{row.Plan.No} {row.Plan.Name}: {w.Full(row.Measured, d)}, limits {w.Limits(row)}, {w.Full(row.Beyond, d)} beyond.";
        if (row.Plan is DimensionalPlan && row is { Measured: { } measured, LowerLimit: { } low, UpperLimit: { } high })
        {
            var off = measured - ((low + high) / 2);
            said += $" Make it {w.Full(Math.Abs(off), d)} {(off > 0 ? "smaller" : "larger")}, to the middle of its tolerance.";
        }

        return said;
    }
}
