using Bostel.Core.Alignment;
using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>Position to a datum system (ISO 5458, ISO 5459): twice the greatest distance from the true place.</summary>
internal static class Location
{
    /// <summary>
    /// Axis: cut by the planes through the ends of the nominal axis. Sphere: its centre. Plane: its points along the nominal normal.
    /// </summary>
    /// <param name="asAligned">Motions that the datums leave free stay as the alignment has them, instead of making the value
    /// least.</param>
    public static Evaluated Position(FeatureResult f, DatumSystem system, bool asAligned = false)
    {
        var free = asAligned ? [] : system.FreeMotions;
        return (f.Shape, f.Axis) switch
        {
            (Sphere3D, _) => Radial(f, system, free, [((Sphere3D)f.Nominal.Shape!).Center], "spherical zone",
                (shape, pose) => [pose.Apply(((Sphere3D)shape.Shape).Center)]),
            (Plane3D, _) => OfPlane(f, system, free),
            (_, null) => throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no place."),
            _ => Radial(f, system, free, NominalEnds(f), $"axis of {Words.Of(f.Criterion)} {f.Nominal.Kind}, cylindrical zone", EndsIn),
        };
    }

    /// <summary>
    /// Twice the greatest distance of places from where they should be. Its uncertainty is how far they stray in any direction, the worse
    /// end counting: a radial error is not one-dimensional.
    /// </summary>
    private static Evaluated Radial(FeatureResult f, DatumSystem system, IReadOnlyList<SmallMotion> free, Vector3D[] nominal, string method,
        Func<FeatureResult, RigidTransform, Vector3D[]> places)
    {
        // Directions around each place stand for the distance: to one part in 1800 about an axis, to 1 % in space.
        var (pose, _) = FreeZone.Best(system.Transform, free, t => [.. places(f, t)
            .SelectMany((p, i) => Around(f).Select(d => new ZoneRow((p - nominal[i]).Dot(d), p, d)))]);
        var still = places(f, pose);
        var freed = system.Transform.Inverse().After(pose);
        var strays = system.ShakenPoses.Select((t, k) => places(Shaken.Once(f, k, Shaken.Toleranced), t.After(freed))
            .Zip(still, Vector3D.Distance).Max()).ToArray();
        return new(2 * still.Zip(nominal, Vector3D.Distance).Max(), Shaken.Quantile(strays, 0.9545),
            $"{method}, datums {system.Labels}{Words.Freed(free)}", [f])
        {
            DeviceFactor = 2,
            Datums = system.Features,
            Remark = Kept(system, free),
        };
    }

    private static IEnumerable<Vector3D> Around(FeatureResult f)
    {
        if (f.NominalDirection is not { } axis)
        {
            // A spiral over the half sphere (both signs of a direction bind).
            const int Many = 120;
            var golden = Math.PI * (3 - Math.Sqrt(5));
            return Enumerable.Range(0, Many).Select(k => (Z: (k + 0.5) / Many, Angle: golden * k))
                .Select(s =>
                    new Vector3D(Math.Sqrt(1 - (s.Z * s.Z)) * Math.Cos(s.Angle), Math.Sqrt(1 - (s.Z * s.Z)) * Math.Sin(s.Angle), s.Z));
        }

        var (u, v) = (axis.Perpendicular(), axis.Cross(axis.Perpendicular()));
        const int Even = 48;
        return Enumerable.Range(0, Even).Select(k => (Math.Cos(Math.PI * k / Even) * u) + (Math.Sin(Math.PI * k / Even) * v));
    }

    private static string? Kept(DatumSystem system, IReadOnlyList<SmallMotion> free) => system.FreeDegrees > 0 && free.Count == 0
        ? $"{system.FreeDegrees} degrees of freedom are left to the alignment"
        : null;

    private static Vector3D[] NominalEnds(FeatureResult f) =>
        [f.NominalAxis!.Point + (f.Nominal.Start * f.NominalAxis.Direction),
            f.NominalAxis.Point + (f.Nominal.End * f.NominalAxis.Direction)];

    private static Vector3D[] EndsIn(FeatureResult f, RigidTransform pose)
    {
        var (start, end) = Orientation.Ends(f with { Shape = f.Shape.Transformed(pose) });
        return [start, end];
    }

    private static Evaluated OfPlane(FeatureResult f, DatumSystem system, IReadOnlyList<SmallMotion> free)
    {
        var nominal = (Plane3D)f.Nominal.Shape!;
        var surface = Form.Prepared(f, null);
        var (pose, rows) = FreeZone.Best(system.Transform, free, t => [.. Moved(surface.Points, t).Chunk(3).Select(Vector3D.FromArray)
            .Select(p => new ZoneRow(nominal.Distance(p), p, nominal.Normal))]);
        var raw = Extreme.Doubled(rows.Min(r => r.Distance), rows.Max(r => r.Distance));
        var across = nominal.Distances(Moved(surface.Smooth, pose));
        return Extreme.Of(raw, across, surface.Noise, Extreme.Doubled, 2 * system.SigmaAt(nominal.Point, nominal.Normal),
            $"zone between planes, datums {system.Labels}{Words.Freed(free)}", [f])
        with
        { DeviceFactor = 2, Datums = system.Features, Remark = Kept(system, free) };
    }

    private static double[] Moved(double[] points, RigidTransform pose)
    {
        var moved = new double[points.Length];
        for (var i = 0; i < points.Length; i += 3)
        {
            (moved[i], moved[i + 1], moved[i + 2]) = pose.Apply(new(points[i], points[i + 1], points[i + 2]));
        }

        return moved;
    }
}
