using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>Position to a datum system (ISO 5458, ISO 5459): twice the greatest distance from the true place.</summary>
internal static class Location
{
    /// <summary>
    /// Axis: between the planes through the ends of the nominal axis. Sphere: its centre. Plane: its points along the nominal normal.
    /// Several features are judged at once (simultaneous requirement, ISO 5458): one motion for all of them, and that with the least
    /// reserve counts.
    /// </summary>
    /// <param name="straight">An axis is taken as the associated one, not as the extracted median line.</param>
    /// <param name="asAligned">
    /// Motions that the datums leave free stay as the alignment has them, instead of making the value least.
    /// </param>
    /// <param name="shift">By which the part may move in a datum at its boundary; null: it may not.</param>
    /// <param name="material">Applied to each of them.</param>
    /// <param name="projectedBy">How far the zone goes out of the first datum's plane, mm; null: it lies about the feature.</param>
    /// <param name="orientationOnly">The datums hold the turn alone: the places count among themselves.</param>
    public static Evaluated Position(
        IReadOnlyList<FeatureResult> features, DatumSystem system, bool straight = false, bool asAligned = false, DatumShift? shift = null,
        MaterialRequirement? material = null, double? projectedBy = null, bool orientationOnly = false)
    {
        var rows = EachPosition(features, system, straight, asAligned, shift, material, projectedBy, orientationOnly);
        var worst = rows.MaxBy(r => r.Value - r.Bonus)!;
        return rows.Count == 1 ? worst : worst with
        {
            Evidence = features,
            Remark = "of " + string.Join(", ", rows.Select((r, i) => Invariant($"{features[i].Plan.Name} {r.Value:0.000}")
                + (r.Bonus > 0 ? Invariant($" (bonus {r.Bonus:0.000})") : ""))),
        };
    }

    /// <summary>The position of each feature, all of them moved together.</summary>
    internal static IReadOnlyList<Evaluated> EachPosition(
        IReadOnlyList<FeatureResult> features, DatumSystem system, bool straight, bool asAligned, DatumShift? shift,
        MaterialRequirement? material, double? projectedBy = null, bool orientationOnly = false)
    {
        IReadOnlyList<SmallMotion> free = orientationOnly ? [.. system.FreeMotions.Where(m => m.Turn != Vector3D.Zero), .. Shifts]
            : asAligned ? []
            : system.FreeMotions;
        var f = features[0];
        if (f is { Shape: Plane3D, Construction: null })
        {
            return features.Count == 1 && shift is null && material is null
                ? [Said(f, OfPlane(f, system, free), system, free)]
                : throw new BadInputException($"{f.Plan.Name}: a face has its position alone, and no material requirement.");
        }

        Radials[] all = [.. features.Select(x => Radials.Of(x, system, straight, projectedBy))];
        var freed = FreeZone.Best(RigidTransform.Identity, free, t => [.. all.SelectMany(a => a.Rows(t))]).Pose;
        if (shift is { Radius: > 0 })
        {
            double Over(Radials a, Vector3D by) =>
                LineZone.Doubled([.. a.Places.Places.Select((p, i) => a.Across(freed.Apply(p) + by - a.From[i]))])
                    - (material is { } m && a.Feature.Radius is { } r ? m.Bonus(2 * r, a.Feature.Nominal.Internal) : 0);
            var by = shift.Best(d => all.Max(a => Over(a, d)));
            freed = RigidTransform.FromTwist(Vector3D.Zero, by, Vector3D.Zero).After(freed);
        }

        return [.. all.Select(a =>
        {
            var row = Said(a.Feature, a.Value(freed, free, system), system, free);
            row = material?.Applied(row, a.Feature) ?? row;
            return shift is null ? row : row with
            {
                Budget = row.Budget is { } b && shift.Sigma > 0
                    ? Contribution.Of([.. b, new("size of the datum at its boundary", 2 * shift.Sigma)])
                    : row.Budget,
                Method = row.Method + Invariant($"; moved within {shift.Radius:0.0000} mm about the datum at its boundary"),
            };
        })];
    }

    private static readonly SmallMotion[] Shifts =
        [.. ((Vector3D[])[Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ]).Select(d => new SmallMotion(Vector3D.Zero, d, Vector3D.Zero))];

    private static Evaluated Said(FeatureResult f, Evaluated evaluated, DatumSystem system, IReadOnlyList<SmallMotion> free)
    {
        return evaluated with
        {
            Device = new(2, f.Nominal.Center.DistanceToMiddleOf(system.Features), f.Shape is Plane3D ? 2 : 0),
            Datums = system.Features,
            Remark = system.FreeDegrees > 0 && free.Count == 0
                ? $"{system.FreeDegrees} degrees of freedom are left to the alignment"
                : null,
        };
    }

    /// <summary>An axis or a centre, and where it should be.</summary>
    private sealed record Radials(
        FeatureResult Feature, FeatureResult Moved, AxisPlaces Places, Vector3D[] From, Func<Vector3D, Vector3D> Across,
        Vector3D[] Directions, string Zone)
    {
        public static Radials Of(FeatureResult f, DatumSystem system, bool straight, double? projectedBy)
        {
            var moved = f.Moved(system.Transform);
            var places = AxisPlaces.Of(moved, straight, projectedBy, system);

            // A hole of a sheet has its place within the sheet, a constructed circle in space.
            var axis = f is { Shape: Circle3D, Construction: not null } ? null : f.NominalAxis;
            var flat = f.Nominal.Shape as Plane3D;
            Vector3D Across(Vector3D v) => flat is not null ? v.Dot(flat.Normal) * flat.Normal
                : axis is { } a ? v - (v.Dot(a.Direction) * a.Direction) : v;
            var from = places.Places.Select(_ => flat?.Point ?? axis?.Point ?? Centre(f.Nominal)).ToArray();

            // Directions around each place stand for the distance: to one part in 1800 about an axis, to 1 % in space.
            return new(f, moved, places, from, Across, flat is not null ? [flat.Normal] : [.. Around(axis?.Direction)],
                flat is not null ? "zone between planes" : axis is null ? "spherical zone" : "cylindrical zone");
        }

        public IEnumerable<ZoneRow> Rows(RigidTransform pose) => Places.Places.Select(pose.Apply)
            .SelectMany((p, i) => Directions.Select(d => new ZoneRow((p - From[i]).Dot(d), p, d)));

        public Evaluated Value(RigidTransform freed, IReadOnlyList<SmallMotion> free, DatumSystem system)
        {
            var (value, raw, budget) = new LineZone(Across, LineZone.Doubled).Of(Moved, Places, freed, From, system);
            return new(value, budget, $"{Places.Words}, {Zone}, datums {system.Words}{Words.Freed(free)}", [Feature]) { Raw = raw };
        }
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
