using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>What a report says of its verdict as a whole, from its rows.</summary>
public static class Verdicts
{
    /// <summary>More rows than these are counted, not named.</summary>
    private const int MostNamed = 4;

    /// <summary>By shape, for readers who see no colours.</summary>
    public static string Mark(Verdict v) =>
        v switch { Verdict.Conforming => "✓", Verdict.NonConforming => "✕", Verdict.NotProven => "◐", _ => "◌" };

    /// <summary>Of style sheets.</summary>
    public static string Class(Verdict v) => Wording.Of(v).Replace(' ', '-');

    /// <summary>"2 of 25 characteristics do not conform: 2 Main bore diameter, by 0.018 mm; …"</summary>
    public static string Sentence(ReportModel model)
    {
        var rows = model.Rows;
        if (rows.Count == 0)
        {
            return "The plan asks for no characteristic.";
        }

        var said = new List<string>();
        Say(Verdict.NonConforming, (n, of) => $"{n} of {of} characteristics {(n == 1 ? "does" : "do")} not conform");
        Say(Verdict.NotProven, (n, _) => $"{n} {(n == 1 ? "is" : "are")} not proven either way");
        Say(Verdict.NotMeasured, (n, _) => $"{n} {(n == 1 ? "was" : "were")} not measured");
        return said.Count == 0
            ? rows.Count == 1 ? "The one characteristic conforms." : $"All {rows.Count} characteristics conform."
            : string.Join(". ", said) + ".";

        void Say(Verdict verdict, Func<int, int, string> sentence)
        {
            var of = rows.Where(r => r.Verdict == verdict).ToList();
            if (of.Count > 0)
            {
                var named = of.Take(MostNamed).Select(r => $"{r.Plan.No} {r.Plan.Name}" + By(r, model.Plan.Shown));
                said.Add(sentence(of.Count, rows.Count) + ": " + string.Join("; ", named)
                    + (of.Count > MostNamed ? $" and {of.Count - MostNamed} more" : ""));
            }
        }
    }

    private static string By(CharacteristicResult row, ShownUnit shown) => row.Beyond > 0
        ? $", {Written.In(row.Unit, shown).Full(row.Beyond, row.Decimals)} beyond its limit"
        : "";
}
