using Bostel.Core.Fitting;

namespace Bostel.Core.Statistics;

/// <summary>
/// How a number moves from piece to piece: the slope of the least-squares line through values in their order, with the interval that
/// their scatter about the line leaves (Draper and Smith, Applied Regression Analysis, 3rd ed., 1.4).
/// </summary>
/// <param name="Slope">Per piece, in the values' unit.</param>
/// <param name="Interval">
/// Half of it, for <see cref="Share"/>: of many numbers that stay where they are, hardly one is told to move.
/// </param>
public sealed record Drift(double Slope, double Interval)
{
    /// <summary>Three standard deviations, as on control charts (ISO 7870-2).</summary>
    public const double Share = 0.9973;

    /// <summary>Fewer values say nothing of a drift.</summary>
    public const int Fewest = 5;

    public bool StandsOut => Math.Abs(Slope) > Interval;

    /// <param name="values">In their order; NaN where a piece has none.</param>
    /// <returns>Null with too few values.</returns>
    public static Drift? Of(IReadOnlyList<double> values)
    {
        var known = Enumerable.Range(0, values.Count).Where(i => double.IsFinite(values[i])).ToList();
        if (known.Count < Fewest)
        {
            return null;
        }

        var (order, mean) = (known.Average(), known.Average(i => values[i]));
        var spread = known.Sum(i => (i - order) * (i - order));
        var slope = known.Sum(i => (i - order) * (values[i] - mean)) / spread;
        var left = known.Sum(i => Math.Pow(values[i] - mean - (slope * (i - order)), 2));
        var freedom = known.Count - 2;
        return new(slope, CoverageFactor.Of(freedom, Share) * Math.Sqrt(left / freedom / spread));
    }
}
