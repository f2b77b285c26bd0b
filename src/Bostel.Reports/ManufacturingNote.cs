using System.Text;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>
/// Half a page for who makes the part: what is out, by how much, which way to correct. Corrections of sizes lead to the middle of the
/// tolerance; what stands behind them is said by the explained deviation, only what stands out of its uncertainty.
/// </summary>
/// <param name="About">Which piece of which part.</param>
/// <param name="Out">What does not conform, a line each.</param>
/// <param name="Findings">What the deviation of the surface is made of, a line each.</param>
public sealed record ManufacturingNote(
    string Title, string About, string Sentence, IReadOnlyList<string> Out, IReadOnlyList<string> Findings, string Foot)
{
    public const string OutTitle = "What is out, and which way to correct it:";

    public const string FindingsTitle =
        "What the deviation of the surface is made of (± is for 95 %); to correct, the opposite of it:";

    private const int MostFindings = 12;

    public static ManufacturingNote Of(ReportModel model)
    {
        var h = model.Header;
        return new(
            $"Note to manufacturing, of report {h.Number}", $"{h.Part} rev {h.Revision}, {h.PartName}, piece {h.Piece}",
            Verdicts.Sentence(model),
            [.. model.Rows.Where(r => r.Verdict == Verdict.NonConforming).Select(r => Line(r, model.Plan.Shown))],
            [.. (model.Explained?.Made?.Findings ?? []).Take(MostFindings).Select(f => f.Words(model.Explained!.FaceName))],
            $"Aligned by {model.Aligned.How.Words}. {h.Date:yyyy-MM-dd}, {h.Inspector}.");
    }

    /// <summary>As plain text.</summary>
    public string Text()
    {
        var text = new StringBuilder().AppendLine(Title).AppendLine().AppendLine(About).AppendLine().AppendLine(Sentence);
        void Lines(string title, IReadOnlyList<string> lines)
        {
            if (lines.Count > 0)
            {
                text.AppendLine().AppendLine(title);
                foreach (var line in lines)
                {
                    text.AppendLine("- " + line);
                }
            }
        }

        Lines(OutTitle, Out);
        Lines(FindingsTitle, Findings);
        return text.AppendLine().AppendLine(Foot).ToString();
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
