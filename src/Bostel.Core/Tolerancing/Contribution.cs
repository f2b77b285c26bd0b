using Bostel.Core.Fitting;

namespace Bostel.Core.Tolerancing;

/// <summary>One line of an uncertainty budget (JCGM 100:2008, 8).</summary>
/// <param name="Source">What it comes from, in words.</param>
/// <param name="Sigma">Standard uncertainty that it brings to the value, in the value's unit.</param>
/// <param name="Freedom">Degrees of freedom it was told with; null: as many as matter.</param>
public sealed record Contribution(string Source, double Sigma, double? Freedom = null)
{
    /// <summary>Combined standard uncertainty of independent contributions (JCGM 100:2008, 5.1.2).</summary>
    public static double Combined(IEnumerable<Contribution> budget) => Math.Sqrt(budget.Sum(c => c.Sigma * c.Sigma));

    /// <summary>
    /// Expanded uncertainty for 95.45 %: Student's t at the effective degrees of freedom of Welch and Satterthwaite (JCGM 100:2008, G.4).
    /// </summary>
    public static double Expanded(IReadOnlyList<Contribution> budget)
    {
        var combined = Combined(budget);
        var lost = budget.Sum(c => c.Freedom is { } free ? Math.Pow(c.Sigma, 4) / Math.Max(1, free) : 0);
        return CoverageFactor.Of(lost > 0 ? Math.Pow(combined, 4) / lost : double.PositiveInfinity) * combined;
    }

    /// <summary>What is worth saying: contributions of nothing are none, those of one source are one.</summary>
    public static IReadOnlyList<Contribution> Of(params IEnumerable<Contribution> all) =>
        [.. all.Where(c => c.Sigma > 0).GroupBy(c => c.Source).Select(g => new Contribution(g.Key, Combined(g), g.Min(c => c.Freedom)))];
}
