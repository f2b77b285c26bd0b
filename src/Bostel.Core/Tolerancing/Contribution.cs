using MathNet.Numerics.Distributions;

namespace Bostel.Core.Tolerancing;

/// <summary>One line of an uncertainty budget (JCGM 100:2008, 8).</summary>
/// <param name="Source">What it comes from, in words.</param>
/// <param name="Sigma">Standard uncertainty that it brings to the value, in the value's unit.</param>
/// <param name="Freedom">Degrees of freedom it was told with; null: as many as matter.</param>
public sealed record Contribution(string Source, double Sigma, double? Freedom = null)
{
    private const double Share = 0.9545;

    /// <summary>From so many degrees of freedom on the factor is 2 to 0.3 %.</summary>
    private const double Many = 1000;

    /// <summary>Combined standard uncertainty of independent contributions (JCGM 100:2008, 5.1.2).</summary>
    public static double Combined(IEnumerable<Contribution> budget) => Math.Sqrt(budget.Sum(c => c.Sigma * c.Sigma));

    /// <summary>
    /// Expanded uncertainty for 95.45 %: Student's t at the effective degrees of freedom of Welch and Satterthwaite (JCGM 100:2008, G.4).
    /// </summary>
    public static double Expanded(IReadOnlyList<Contribution> budget)
    {
        var combined = Combined(budget);
        var lost = budget.Sum(c => c.Freedom is { } free ? Math.Pow(c.Sigma, 4) / Math.Max(1, free) : 0);
        var free = lost > 0 ? Math.Pow(combined, 4) / lost : double.PositiveInfinity;
        return (free < Many ? StudentT.InvCDF(0, 1, free, (1 + Share) / 2) : 2) * combined;
    }

    /// <summary>What is worth saying: contributions of nothing are none, those of one source are one.</summary>
    public static IReadOnlyList<Contribution> Of(params IEnumerable<Contribution> all) =>
        [.. all.Where(c => c.Sigma > 0).GroupBy(c => c.Source).Select(g => new Contribution(g.Key, Combined(g), g.Min(c => c.Freedom)))];
}
