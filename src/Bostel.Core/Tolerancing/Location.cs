using Bostel.Core.Alignment;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Tolerancing;

/// <summary>Position to a datum system (ISO 5458, ISO 5459): twice the greatest distance from the true place.</summary>
internal static class Location
{
    /// <summary>
    /// Axis: between the planes through the ends of the nominal axis. Sphere: its centre. Plane: its points along the nominal normal.
    /// </summary>
    /// <param name="straight">An axis is taken as the associated one, not as the extracted median line.</param>
    /// <param name="asAligned">
    /// Motions that the datums leave free stay as the alignment has them, instead of making the value least.
    /// </param>
    public static Evaluated Position(FeatureResult f, DatumSystem system, bool straight = false, bool asAligned = false)
    {
        var free = asAligned ? [] : system.FreeMotions;
        var evaluated = f is { Shape: Plane3D, Construction: null } ? OfPlane(f, system, free) : Radial(f, system, free, straight);
        return evaluated with
        {
            Device = new(2, f.Nominal.Center.DistanceToMiddleOf(system.Features), f.Shape is Plane3D ? 2 : 0),
            Datums = system.Features,
            Remark = system.FreeDegrees > 0 && free.Count == 0
                ? $"{system.FreeDegrees} degrees of freedom are left to the alignment"
                : null,
        };
    }

    private static Evaluated Radial(FeatureResult f, DatumSystem system, IReadOnlyList<SmallMotion> free, bool straight)
    {
        var moved = f.Moved(system.Transform);
        var places = AxisPlaces.Of(moved, straight);

        // A hole of a sheet has its place within the sheet, a constructed circle in space.
        var axis = f is { Shape: Circle3D, Construction: not null } ? null : f.NominalAxis;
        var flat = f.Nominal.Shape as Plane3D;
        Vector3D Across(Vector3D v) => flat is not null ? v.Dot(flat.Normal) * flat.Normal
            : axis is { } a ? v - (v.Dot(a.Direction) * a.Direction) : v;
        var from = places.Places.Select(_ => flat?.Point ?? axis?.Point ?? Centre(f.Nominal)).ToArray();

        // Directions around each place stand for the distance: to one part in 1800 about an axis, to 1 % in space.
        var around = flat is not null ? [flat.Normal] : Around(axis?.Direction).ToList();
        var (freed, _) = FreeZone.Best(RigidTransform.Identity, free, t => [.. places.Places.Select(t.Apply)
            .SelectMany((p, i) => around.Select(d => new ZoneRow((p - from[i]).Dot(d), p, d)))]);
        var (value, raw, budget) = new LineZone(Across, LineZone.Doubled).Of(moved, places, freed, from, system);
        var zone = flat is not null ? "zone between planes" : axis is null ? "spherical zone" : "cylindrical zone";
        return new(value, budget, $"{places.Words}, {zone}, datums {system.Words}{Words.Freed(free)}", [f]) { Raw = raw };
    }

    private static Vector3D Centre(NominalFace face) => face.Shape is Sphere3D s ? s.Center : face.Center;

    private static IEnumerable<Vector3D> Around(Vector3D? axis)
    {
        if (axis is not { } a)
        {
            // A spiral over the half sphere (both signs of a direction bind).
            const int Many = 120;
            var golden = Math.PI * (3 - Math.Sqrt(5));
            return Enumerable.Range(0, Many).Select(k => (Z: (k + 0.5) / Many, Angle: golden * k)).Select(s =>
                new Vector3D(Math.Sqrt(1 - (s.Z * s.Z)) * Math.Cos(s.Angle), Math.Sqrt(1 - (s.Z * s.Z)) * Math.Sin(s.Angle), s.Z));
        }

        var (u, v) = (a.Perpendicular(), a.Cross(a.Perpendicular()));
        const int Even = 48;
        return Enumerable.Range(0, Even).Select(k => (Math.Cos(Math.PI * k / Even) * u) + (Math.Sin(Math.PI * k / Even) * v));
    }

    private static Evaluated OfPlane(FeatureResult f, DatumSystem system, IReadOnlyList<SmallMotion> free)
    {
        var nominal = (Plane3D)f.Nominal.Shape!;
        var surface = Form.Prepared(f, null);
        var (pose, rows) = FreeZone.Best(system.Transform, free, t => [.. surface.Moved(t).Points.Chunk(3).Select(Vector3D.FromArray)
            .Select(p => new ZoneRow(nominal.Distance(p), p, nominal.Normal))]);
        var raw = Extreme.Doubled(rows.Min(r => r.Distance), rows.Max(r => r.Distance));
        var smooth = surface.Moved(pose).Smooth;
        return Extreme.Of(raw, nominal.Distances(smooth), surface.Noise, Extreme.Doubled,
            system.Contributions(smooth, _ => nominal.Normal, Extreme.Doubled),
            $"zone between planes, datums {system.Words}{Words.Freed(free)}", [f]);
    }

    private static double DistanceToMiddleOf(this Vector3D p, IReadOnlyList<FeatureResult> features) =>
        Vector3D.Distance(p, features.Aggregate(Vector3D.Zero, (sum, f) => sum + (f.Nominal.Center / features.Count)));
}
