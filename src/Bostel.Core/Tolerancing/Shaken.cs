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

    public static FeatureResult Once(FeatureResult f, ref Draws draws)
    {
        var center = PointSums.Centroid(f.Points);
        var (place, angle) = (f.PositionSigma, f.DirectionSigma);
        var (shift, turn) = (Vector3D.Zero, RigidTransform.Identity);
        if (f.Direction is { } d)
        {
            var (u, v) = (d.Perpendicular(), d.Cross(d.Perpendicular()));
            shift = f.Shape is Plane3D ? place * draws.Normal() * d : (place * draws.Normal() * u) + (place * draws.Normal() * v);
            turn = RigidTransform.FromAxisAngle(u, angle * draws.Normal()).After(RigidTransform.FromAxisAngle(v, angle * draws.Normal()));
        }
        else
        {
            shift = place * new Vector3D(draws.Normal(), draws.Normal(), draws.Normal());
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
