using MathNet.Numerics.Distributions;

namespace Bostel.Core.Statistics;

/// <summary>
/// Capability of a process and its control limits from consecutive subgroups (ISO 22514-2, ISO 7870-2). Long-term figures rest on the
/// standard deviation of all values, those within subgroups on their mean range over d₂.
/// </summary>
/// <param name="Values">How many.</param>
/// <param name="Deviation">Standard deviation of all, with n − 1.</param>
public sealed record Capability(
    int Values, double Mean, double Deviation, double? Pp, double? Ppk, double? Cp, double? Cpk, SubgroupCharts? Charts)
{
    /// <param name="subgroup">Consecutive values form subgroups of so many; 1: none.</param>
    /// <exception cref="BadInputException">Too few values, no limit, or subgroups that do not come out even.</exception>
    public static Capability Of(IReadOnlyList<double> values, double? lower, double? upper, int subgroup)
    {
        if (values.Count < 2 || !values.All(double.IsFinite))
        {
            throw new BadInputException("values: at least two numbers are needed.");
        }

        if (lower is null && upper is null)
        {
            throw new BadInputException("lower and upper: at least one limit is needed.");
        }

        var mean = values.Average();
        var deviation = Math.Sqrt(values.Sum(v => (v - mean) * (v - mean)) / (values.Count - 1));
        var charts = subgroup > 1 ? SubgroupCharts.Of(values, subgroup) : null;
        return new(values.Count, mean, deviation, Width(deviation), Nearer(deviation), charts is null ? null : Width(charts.SigmaWithin),
            charts is null ? null : Nearer(charts.SigmaWithin), charts);

        double? Width(double sigma) => (upper - lower) / (6 * sigma);
        double? Nearer(double sigma) => Math.Min((upper - mean) / (3 * sigma) ?? double.PositiveInfinity,
            (mean - lower) / (3 * sigma) ?? double.PositiveInfinity);
    }
}

/// <summary>Mean and range charts of subgroups (ISO 7870-2): centre lines and limits.</summary>
/// <param name="SigmaWithin">Mean range over d₂.</param>
public sealed record SubgroupCharts(
    double SigmaWithin, double MeanRange, double MeanUpper, double MeanLower, double RangeUpper, double RangeLower)
{
    /// <summary>Integrals run over so many standard deviations to either side, in such steps.</summary>
    private const double Reach = 8, Step = 0.04;

    private const int Most = 100;

    internal static SubgroupCharts Of(IReadOnlyList<double> values, int size)
    {
        if (size > Most || values.Count % size != 0)
        {
            throw new BadInputException($"subgroupSize: {values.Count} values do not make subgroups of {size}, or it is above {Most}.");
        }

        var ranges = values.Chunk(size).Select(g => g.Max() - g.Min()).ToList();
        var (mean, range) = (values.Average(), ranges.Average());
        var (d2, d3) = RangeOfNormals(size);
        var a2 = 3 / (d2 * Math.Sqrt(size));
        return new(range / d2, range, mean + (a2 * range), mean - (a2 * range), (1 + (3 * d3 / d2)) * range,
            Math.Max(0, 1 - (3 * d3 / d2)) * range);
    }

    /// <summary>Mean and standard deviation of the range of n standard normal numbers (Tippett 1925), by integration.</summary>
    internal static (double D2, double D3) RangeOfNormals(int n)
    {
        var cdf = Enumerable.Range(0, (int)(2 * Reach / Step) + 1).Select(i => Normal.CDF(0, 1, (i * Step) - Reach)).ToArray();
        double Weight(int i) => i == 0 || i == cdf.Length - 1 ? Step / 2 : Step;
        double first = 0, second = 0;
        for (var y = 0; y < cdf.Length; y++)
        {
            first += Weight(y) * (1 - Math.Pow(1 - cdf[y], n) - Math.Pow(cdf[y], n));
            for (var x = 0; x <= y; x++)
            {
                // On the diagonal the inner integral ends: half a step.
                var inner = x == y ? Weight(x) / 2 : Weight(x);
                second += 2 * Weight(y) * inner * (1 - Math.Pow(cdf[y], n) - Math.Pow(1 - cdf[x], n) + Math.Pow(cdf[y] - cdf[x], n));
            }
        }

        return (first, Math.Sqrt(second - (first * first)));
    }
}
