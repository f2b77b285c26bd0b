using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>Sizes, distances and angles between associated features (ISO 14405-1, -2, -3).</summary>
internal static class Size
{
    public static Evaluated Diameter(FeatureResult f) => f.Radius is { } r
        ? new(2 * r, 2 * f.RadiusSigma, $"{Words.Of(f.Criterion)} {f.Nominal.Kind}", [f])
        : throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no diameter.");

    /// <summary>
    /// Plane to plane and plane to axis: distance of the second feature's centroid foot from the first, along the first's normal. Axis to
    /// axis: between the axes in the plane through the first one's middle.
    /// </summary>
    public static Evaluated Distance(FeatureResult a, FeatureResult b)
    {
        if (b.Shape is Plane3D && a.Shape is not Plane3D)
        {
            (a, b) = (b, a);
        }

        var pb = Foot(b);
        var sigma = Math.Sqrt((a.PositionSigma * a.PositionSigma) + (b.PositionSigma * b.PositionSigma));
        var method = $"{Words.Of(a.Criterion)} {a.Nominal.Kind} to {Words.Of(b.Criterion)} {b.Nominal.Kind}";
        if (a.Shape is Plane3D plane)
        {
            var lever = (pb - Foot(a)).Length;
            return new(Math.Abs(plane.Distance(pb)), Math.Sqrt((sigma * sigma) + (lever * lever * a.DirectionSigma * a.DirectionSigma)),
                method, [a, b]);
        }

        if (a.Axis is { } first && b.Axis is { } second)
        {
            var middle = first.Project(Fitting.PointSums.Centroid(a.Points));
            var other = second.Meet(new(middle, first.Direction)) ?? second.Project(middle);
            return new((other - middle).Length, sigma, method, [a, b]);
        }

        return new((pb - Foot(a)).Length, sigma, method, [a, b]);
    }

    /// <summary>Angle in degrees between two directions; between an axis and a plane it is taken to the plane itself.</summary>
    public static Evaluated Angle(FeatureResult a, FeatureResult b)
    {
        var (u, v) = (Needed(a), Needed(b));
        var angle = u.LineAngleTo(v);
        var mixed = a.Shape is Plane3D != b.Shape is Plane3D;
        var value = mixed ? (Math.PI / 2) - angle : angle;
        var sigma = Math.Sqrt((a.DirectionSigma * a.DirectionSigma) + (b.DirectionSigma * b.DirectionSigma));
        return new(value * 180 / Math.PI, sigma * 180 / Math.PI,
            $"{Words.Of(a.Criterion)} {a.Nominal.Kind} to {Words.Of(b.Criterion)} {b.Nominal.Kind}", [a, b]);
    }

    private static Vector3D Needed(FeatureResult f) =>
        f.Direction ?? throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no direction.");

    private static Vector3D Foot(FeatureResult f)
    {
        var c = Fitting.PointSums.Centroid(f.Points);
        return f.Shape switch { Plane3D s => s.Project(c), Sphere3D s => s.Center, _ => f.Axis!.Project(c) };
    }
}
