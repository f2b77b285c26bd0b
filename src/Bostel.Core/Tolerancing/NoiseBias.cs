using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// How much noise adds to an extreme value, and how sure that is. The extreme of many noisy points grows with their number: a perfect
/// surface reads several standard deviations. Estimated by the parametric bootstrap (Efron and Tibshirani, An Introduction to the
/// Bootstrap, 1993, 6.5 and 10.2): noise is drawn anew on the smoothed form, once for each independent point.
/// </summary>
/// <param name="Bias">To be taken off, mm.</param>
/// <param name="Sigma">Standard uncertainty of the value with the bias taken off, mm.</param>
internal readonly record struct NoiseBias(double Bias, double Sigma)
{
    private const int Trials = 60;

    /// <summary>
    /// A form that no edge disturbs is most often smaller than its own noise, which then adds nearly all it can; where it is larger the
    /// difference lies within the uncertainty.
    /// </summary>
    private const double MostlyFlat = 0.75;

    /// <summary>So many draws are enough for mean and scatter of an extreme; fewer trials where each has many points.</summary>
    private const int MostDraws = 300_000;

    /// <summary>
    /// The bias lies between that on the smoothed form and a larger one: the smoothed form holds some noise of its own, and where it rounds
    /// off edges it shows too few points at the extremes; on a flat surface noise adds the most. Taken is a place between, uniform (GUM
    /// 4.3.7).
    /// </summary>
    /// <param name="form">The surface without noise, mm.</param>
    /// <param name="noise">How the noise is.</param>
    /// <param name="value">The value from the least and the greatest.</param>
    public static NoiseBias Of(double[] form, PointNoise noise, Func<double, double, double> value) => Of([form], noise, value);

    /// <summary>Of several lines of a surface the largest value.</summary>
    /// <param name="lines">Each without noise, mm.</param>
    /// <param name="noise">How the noise is, over all of them.</param>
    /// <param name="value">Of one line, from its least and its greatest.</param>
    public static NoiseBias Of(IReadOnlyList<double[]> lines, PointNoise noise, Func<double, double, double> value)
    {
        double[][] level = [.. lines.Select(l => new double[l.Length])];
        var (least, scatter) = Simulated(lines, noise.Sigma, noise.Independent, value);
        var (flat, _) = Simulated(level, noise.Sigma, noise.Independent, value);
        var (own, _) = Simulated(level, noise.Sigma / Math.Sqrt(noise.Support), Math.Max(1, noise.Independent / noise.Support), value);
        var gap = Math.Max(0, noise.Rounded ? flat - least : Math.Min(flat - least, own));

        // A narrow place of the surface is known no better than the noise of its single points, however surely the extreme repeats.
        var single = Math.Max(scatter, value(0, noise.Sigma));
        return new(least + ((noise.Rounded ? 0.5 : MostlyFlat) * gap), Math.Sqrt((single * single) + (gap * gap / 12)));
    }

    /// <summary>Mean of what noise adds to the largest value of some lines, and the scatter of that.</summary>
    /// <param name="independent">How many of all points err independently.</param>
    internal static (double Bias, double Scatter) Simulated(
        IReadOnlyList<double[]> lines, double sigma, double independent, Func<double, double, double> value)
    {
        var all = lines.Sum(l => (long)l.Length);
        double[][] places = [.. lines.Select(line =>
        {
            var m = Math.Clamp((int)Math.Round(independent * line.Length / all), 1, line.Length);
            return Enumerable.Range(0, m).Select(i => line[(int)((long)i * line.Length / m)]).ToArray();
        })];
        var trials = Math.Clamp(MostDraws / places.Sum(p => p.Length), 12, Trials);
        var values = new double[trials];
        Parallel.For(0, trials, k =>
        {
            var draws = new SeededNoise(k);
            var i = 0;
            values[k] = double.NegativeInfinity;
            foreach (var line in places)
            {
                double low = double.PositiveInfinity, high = double.NegativeInfinity;
                foreach (var place in line)
                {
                    var y = place + (sigma * draws.Normal(i++));
                    low = Math.Min(low, y);
                    high = Math.Max(high, y);
                }

                values[k] = Math.Max(values[k], value(low, high));
            }
        });
        var mean = values.Average();
        return (Math.Max(0, mean - places.Max(p => value(p.Min(), p.Max()))), Math.Sqrt(values.Average(v => (v - mean) * (v - mean))));
    }
}
