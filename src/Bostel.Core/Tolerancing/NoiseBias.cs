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
    public static NoiseBias Of(double[] form, PointNoise noise, Func<double, double, double> value) => Of(
        (sigma, independent, flat) => Simulated(flat ? new double[form.Length] : form, sigma, independent, value), noise,
        value(0, noise.Sigma));

    /// <summary>Of the widest of some rings; the points of each are so many of all.</summary>
    /// <param name="rings">Their values without noise, mm.</param>
    public static NoiseBias OfWidest(IReadOnlyList<double[]> rings, PointNoise noise)
    {
        var many = rings.Sum(r => r.Length);
        return Of(
            (sigma, independent, flat) => SimulatedWidest(
                flat ? [.. rings.Select(r => new double[r.Length])] : rings, sigma, Math.Min(1, independent / many)),
            noise, noise.Sigma);
    }

    private static NoiseBias Of(
        Func<double, double, bool, (double Bias, double Scatter)> simulated, PointNoise noise, double ofSinglePoint)
    {
        var (least, scatter) = simulated(noise.Sigma, noise.Independent, false);
        var (flat, _) = simulated(noise.Sigma, noise.Independent, true);
        var (own, _) = simulated(noise.Sigma / Math.Sqrt(noise.Support), Math.Max(1, noise.Independent / noise.Support), true);
        var gap = Math.Max(0, noise.Rounded ? flat - least : Math.Min(flat - least, own));

        // A narrow place of the surface is known no better than the noise of its single points, however surely the extreme repeats.
        var single = Math.Max(scatter, ofSinglePoint);
        return new(least + ((noise.Rounded ? 0.5 : MostlyFlat) * gap), Math.Sqrt((single * single) + (gap * gap / 12)));
    }

    /// <param name="share">Of the points of a ring that err independently.</param>
    private static (double Bias, double Scatter) SimulatedWidest(IReadOnlyList<double[]> rings, double sigma, double share)
    {
        double[][] places = [.. rings.Select(r =>
        {
            var m = Math.Clamp((int)Math.Round(share * r.Length), 1, r.Length);
            return Enumerable.Range(0, m).Select(i => r[(int)((long)i * r.Length / m)]).ToArray();
        })];
        var trials = Math.Clamp(MostDraws / places.Sum(p => p.Length), 12, Trials);
        var values = new double[trials];
        Parallel.For(0, trials, k =>
        {
            var draws = new SeededNoise(k);
            var i = 0;
            values[k] = RunOut.Widest(places.Select(ring => ring.Select(y => y + (sigma * draws.Normal(i++))).ToArray()));
        });
        return AgainstForm(values, RunOut.Widest(places));
    }

    /// <summary>Mean of what noise adds on a form, and the scatter of the value.</summary>
    internal static (double Bias, double Scatter) Simulated(
        double[] form, double sigma, double independent, Func<double, double, double> value)
    {
        var m = Math.Clamp((int)Math.Round(independent), 1, form.Length);
        var places = Enumerable.Range(0, m).Select(i => form[(int)((long)i * form.Length / m)]).ToArray();
        var trials = Math.Clamp(MostDraws / m, 12, Trials);
        var values = new double[trials];
        Parallel.For(0, trials, k =>
        {
            var draws = new SeededNoise(k);
            double low = double.PositiveInfinity, high = double.NegativeInfinity;
            for (var i = 0; i < m; i++)
            {
                var y = places[i] + (sigma * draws.Normal(i));
                low = Math.Min(low, y);
                high = Math.Max(high, y);
            }

            values[k] = value(low, high);
        });
        return AgainstForm(values, value(places.Min(), places.Max()));
    }

    private static (double Bias, double Scatter) AgainstForm(double[] values, double without)
    {
        var mean = values.Average();
        return (Math.Max(0, mean - without), Math.Sqrt(values.Average(v => (v - mean) * (v - mean))));
    }
}
