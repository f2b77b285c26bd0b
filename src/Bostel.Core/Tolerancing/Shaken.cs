using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Features as they might as well have been measured: moved and turned at random by their own uncertainty about the middle of their points.
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
        const int Each = 5;
        var noise = new SeededNoise(trial);
        double Normal(int which) => noise.Normal(((long)Each * ordinal) + which);
        var center = PointSums.Centroid(f.Points);
        var (place, angle) = (f.PositionSigma, f.DirectionSigma);
        var (shift, turn) = (Vector3D.Zero, RigidTransform.Identity);
        if (f.Direction is { } d)
        {
            var (u, v) = (d.Perpendicular(), d.Cross(d.Perpendicular()));
            shift = f.Shape is Plane3D ? place * Normal(0) * d : place * ((Normal(0) * u) + (Normal(1) * v));
            turn = RigidTransform.FromAxisAngle(u, angle * Normal(3)).After(RigidTransform.FromAxisAngle(v, angle * Normal(4)));
        }
        else
        {
            shift = place * new Vector3D(Normal(0), Normal(1), Normal(2));
        }

        return f with { Shape = f.Shape.Transformed(turn with { Translation = center + shift - turn.Rotate(center) }) };
    }

    /// <summary>The value that a share of the sizes does not exceed.</summary>
    public static double Quantile(double[] sizes, double share)
    {
        Array.Sort(sizes);
        return sizes[Math.Min(sizes.Length - 1, (int)(share * sizes.Length))];
    }
}
