using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Orientation to datums (ISO 1101): the width or diameter of the smallest zone of the prescribed orientation. The first datum gives the
/// direction; whether the zone may still turn about it is told by those after it.
/// </summary>
internal static class Orientation
{
    public static Evaluated Parallelism(FeatureResult f, DatumSystem system, double? filter, bool straight = false) =>
        Of(f, system, filter, straight, parallel: true);

    public static Evaluated Perpendicularity(FeatureResult f, DatumSystem system, double? filter, bool straight = false) =>
        Of(f, system, filter, straight, parallel: false);

    private static Evaluated Of(FeatureResult f, DatumSystem system, double? filter, bool straight, bool parallel)
    {
        var (d, datumIsPlane) = system.First;
        if (f.Shape is Plane3D)
        {
            // A plane's normal points along the datum's direction when it is parallel to a plane or square to an axis.
            return parallel == datumIsPlane ? BetweenPlanes(f, system, d, filter) : Turning(f, system, d, filter);
        }

        var along = parallel == datumIsPlane;
        Vector3D Across(Vector3D v) => along ? v.Dot(d) * d : v - (v.Dot(d) * d);
        var moved = f.Moved(system.Transform);
        var places = AxisPlaces.Of(moved, straight);
        if (places.Places.Length == 1)
        {
            throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no axis.");
        }

        var (value, raw, budget) = new LineZone(Across, SmallestCircle.Diameter)
            .Of(moved, places, RigidTransform.Identity, new Vector3D[places.Places.Length], system);
        return new(value, budget, $"{places.Words}, {(along ? "zone between planes" : "cylindrical zone")}, datums {system.Words}", [f])
        {
            Raw = raw,
            Datums = system.Features,
        };
    }

    /// <summary>The zone may turn about the datum's direction unless a further datum holds it: seen along it, a straight line.</summary>
    private static Evaluated Turning(FeatureResult f, DatumSystem system, Vector3D d, double? filter)
    {
        if (!system.MayTurn)
        {
            var n = f.NominalDirection!.Value;
            return BetweenPlanes(f, system, (n - (n.Dot(d) * d)).Normalized(), filter);
        }

        var surface = Form.Prepared(f, filter).Moved(system.Transform);
        var zone = ExtremalFit.LineInPlane(surface.Points, Criterion.MinimumZone, new() { Normal = d });
        return Width(zone.Form, f, surface, system, d.Cross(((Line3D)zone.Shape).Direction).Normalized(), d, filter);
    }

    private static Evaluated BetweenPlanes(FeatureResult f, DatumSystem system, Vector3D across, double? filter)
    {
        var surface = Form.Prepared(f, filter).Moved(system.Transform);
        var heights = Along(surface.Points, across);
        return Width(heights.Max() - heights.Min(), f, surface, system, across, null, filter);
    }

    private static Evaluated Width(
        double raw, FeatureResult f, EvaluatedSurface surface, DatumSystem system, Vector3D across, Vector3D? turnsFreely,
        double? filter) =>
        Extreme.Of(raw, Along(surface.Smooth, across), surface.Noise, Extreme.Width,
            system.Contributions(surface.Smooth, _ => across, Extreme.Width, turnsFreely),
            $"zone between planes, datums {system.Words}" + Words.Filter(filter), [f])
        with
        { Device = new(0, 0, 1), Datums = system.Features };

    private static double[] Along(double[] points, Vector3D direction) =>
        [.. Enumerable.Range(0, points.Length / 3)
            .Select(i => Vector3D.At(points, i).Dot(direction))];
}
