using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Features as they might as well have been measured: moved and turned at random by their own uncertainty, places and directions together.
/// What is made of many such shows how sure it is (propagation of distributions, JCGM 101:2008).
/// </summary>
internal static class Shaken
{
    public const int Trials = 200;

    /// <summary>The ordinal of the toleranced feature: after any datum's.</summary>
    public const int Toleranced = 1000;

    /// <param name="trial">Which of the trials; the same gives the same.</param>
    /// <param name="ordinal">Which of the features of a trial.</param>
    public static FeatureResult Once(FeatureResult f, int trial, int ordinal)
    {
        const int Each = 6;
        var noise = new SeededNoise(trial);
        var moved = f.ErrorMotions.Select((m, i) => m.Times(noise.Normal(((long)Each * ordinal) + i)))
            .Aggregate(RigidTransform.Identity, (all, one) => one.After(all));
        return f with { Shape = f.Shape.Transformed(moved) };
    }

    /// <summary>The value that a share of the sizes does not exceed.</summary>
    public static double Quantile(double[] sizes, double share)
    {
        Array.Sort(sizes);
        return sizes[Math.Min(sizes.Length - 1, (int)(share * sizes.Length))];
    }
}
