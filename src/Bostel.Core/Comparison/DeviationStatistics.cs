namespace Bostel.Core.Comparison;

/// <summary>
/// Statistics of a deviation map, each vertex weighted by the area around it so that dense spots do not bias. Percentiles are keyed by
/// their percentage. <see cref="NoData"/> is the share of the area without counterpart.
/// </summary>
public sealed record DeviationStatistics(
    int Count, int NoDataCount, double NoData, double Min, double Max, double Mean, double Std, double Rms, double WithinTolerance,
    IReadOnlyDictionary<string, double> Percentiles, double PlainMean, double PlainRms)
{
    private static readonly double[] Levels = [0.5, 2.5, 5, 25, 50, 75, 95, 97.5, 99.5];

    /// <summary>Statistics over the chosen vertices (null: all).</summary>
    /// <param name="values">Deviations, NaN for no data.</param>
    /// <param name="areas">Weights, same length.</param>
    public static DeviationStatistics Of(double[] values, double[] areas, double lower, double upper, IReadOnlyList<int>? chosen = null)
    {
        var pairs = new List<(double Value, double Weight)>();
        double missing = 0;
        var missingCount = 0;
        for (var k = 0; k < (chosen?.Count ?? values.Length); k++)
        {
            var i = chosen?[k] ?? k;
            if (double.IsNaN(values[i]))
            {
                missing += areas[i];
                missingCount++;
            }
            else
            {
                pairs.Add((values[i], areas[i]));
            }
        }

        if (pairs.Count == 0)
        {
            return new(0, missingCount, 1, double.NaN, double.NaN, double.NaN, double.NaN, double.NaN, double.NaN,
                new Dictionary<string, double>(), double.NaN, double.NaN);
        }

        pairs.Sort();
        double weight = 0, sum = 0, squares = 0, within = 0, plain = 0, plainSquares = 0;
        foreach (var (v, w) in pairs)
        {
            weight += w;
            sum += w * v;
            squares += w * v * v;
            within += v >= lower && v <= upper ? w : 0;
            plain += v;
            plainSquares += v * v;
        }

        weight = Math.Max(weight, 1e-300);
        var mean = sum / weight;
        return new(
            pairs.Count, missingCount, missing / (weight + missing), pairs[0].Value, pairs[^1].Value, mean,
            Math.Sqrt(Math.Max(0, (squares / weight) - (mean * mean))), Math.Sqrt(squares / weight), within / weight, Ranks(pairs, weight),
            plain / pairs.Count, Math.Sqrt(plainSquares / pairs.Count));
    }

    private static Dictionary<string, double> Ranks(List<(double Value, double Weight)> sorted, double total)
    {
        var ranks = new Dictionary<string, double>();
        double sum = 0;
        var next = 0;
        foreach (var (value, weight) in sorted)
        {
            sum += weight;
            while (next < Levels.Length && sum >= Levels[next] / 100 * total)
            {
                ranks[Levels[next++].ToString(System.Globalization.CultureInfo.InvariantCulture)] = value;
            }
        }

        return ranks;
    }
}
