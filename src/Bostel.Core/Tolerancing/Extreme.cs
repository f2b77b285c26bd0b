using Bostel.Core.Features;

namespace Bostel.Core.Tolerancing;

/// <summary>Values that rest on the extreme points of a surface: what noise adds is taken off, and said.</summary>
internal static class Extreme
{
    /// <summary>A zone of any place: as wide as the surface.</summary>
    public static double Width(double low, double high) => high - low;

    /// <summary>A zone about the nominal: as far to both sides as the farthest point.</summary>
    public static double Doubled(double low, double high) => 2 * Math.Max(Math.Abs(low), Math.Abs(high));

    /// <summary>The widest of some lines of a surface, each from its least to its greatest value.</summary>
    /// <param name="raw">Of the points as they are.</param>
    /// <param name="smooth">Of each line the values without noise.</param>
    /// <param name="noise">Null when it cannot be told: then there is no uncertainty.</param>
    /// <param name="datums">What the datums add to the uncertainty.</param>
    public static Evaluated OfWidest(double raw, IReadOnlyList<double[]> smooth, PointNoise? noise,
        IReadOnlyList<Contribution> datums, string method, IReadOnlyList<FeatureResult> evidence)
    {
        if (noise is null)
        {
            return new(raw, null, method, evidence) { Raw = raw };
        }

        var bias = NoiseBias.Of(smooth, noise, Width);
        return new(Math.Max(0, raw - bias.Bias), Contribution.Of([new("noise in the extreme points", bias.Sigma), .. datums]),
            method + Words.Less(bias), evidence)
        { Raw = raw };
    }

    /// <param name="raw">Of the points as they are.</param>
    /// <param name="across">The surface without noise, across the zone.</param>
    /// <param name="noise">Null when it cannot be told: then there is no uncertainty.</param>
    /// <param name="zone">The value from the least and the greatest.</param>
    /// <param name="datums">What the datums add to the uncertainty.</param>
    public static Evaluated Of(double raw, double[] across, PointNoise? noise, Func<double, double, double> zone,
        IReadOnlyList<Contribution> datums, string method, IReadOnlyList<FeatureResult> evidence)
    {
        if (noise is null)
        {
            return new(raw, null, method, evidence) { Raw = raw };
        }

        var bias = NoiseBias.Of(across, noise, zone);
        return new(Math.Max(0, raw - bias.Bias), Contribution.Of([new("noise in the extreme points", bias.Sigma), .. datums]),
            method + Words.Less(bias), evidence)
        { Raw = raw };
    }
}
