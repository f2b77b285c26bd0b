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
    /// <summary>The best direction of a zone that may turn lies within so much of the nominal's, rad.</summary>
    private const double MostTurn = 0.02;

    public static Evaluated Parallelism(
        FeatureResult f, DatumSystem system, double? filter, bool straight = false, double? projectedBy = null) =>
        Of(f, system, filter, straight, projectedBy, parallel: true);

    public static Evaluated Perpendicularity(
        FeatureResult f, DatumSystem system, double? filter, bool straight = false, double? projectedBy = null) =>
        Of(f, system, filter, straight, projectedBy, parallel: false);

    /// <summary>
    /// Angularity: the zone has the nominal's direction; it may turn about the first datum's unless a further one holds that (ISO 1101,
    /// 18.13).
    /// </summary>
    public static Evaluated Angularity(
        FeatureResult f, DatumSystem system, double? filter, bool straight = false, double? projectedBy = null)
    {
        if (f.NominalDirection is not { } direction)
        {
            throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no direction.");
        }

        if (f.Shape is Plane3D)
        {
            return AnglePlane(f, system, direction, filter);
        }

        var moved = f.Moved(system.Transform);
        var places = AxisPlaces.Of(moved, straight, projectedBy, system);
        if (places.Places.Length == 1)
        {
            throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no axis.");
        }

        var turned = system.MayTurn ? Turned(places.Places, direction, system.First.Direction) : direction;
        var (value, raw, budget) = new LineZone(v => v - (v.Dot(turned) * turned), SmallestCircle.Diameter)
            .Of(moved, places, RigidTransform.Identity, new Vector3D[places.Places.Length], system);
        return new(value, budget, $"{places.Words}, cylindrical zone at the nominal angle, datums {system.Words}", [f])
        {
            Raw = raw,
            Datums = system.Features,
        };
    }

    /// <summary>
    /// Orientation of the tangent plane outside the material (T): the zone between planes that holds it over the feature's extent. Where it
    /// may turn about the datum's direction, it turns with the plane.
    /// </summary>
    /// <param name="f">A face, associated from outside the material.</param>
    /// <exception cref="BadInputException">The feature is no plane.</exception>
    public static Evaluated OfTangentPlane(FeatureResult f, DatumSystem system)
    {
        if (f is not { Shape: Plane3D, Construction: null })
        {
            throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no tangent plane.");
        }

        var moved = f.Moved(system.Transform);
        var plane = (Plane3D)moved.Shape;
        var nominal = f.NominalDirection!.Value;
        var across = system.MayTurn ? LeanFrom(nominal, plane.Normal, system.First.Direction) : nominal;
        var places = AxisPlaces.OfPlane(moved, plane);
        double Range(Vector3D[] off) => off.Max(v => v.Dot(across)) - off.Min(v => v.Dot(across));
        var (value, raw, budget) = new LineZone(v => v.Dot(across) * across, Range)
            .Of(moved, places, RigidTransform.Identity, new Vector3D[places.Places.Length], system);
        return new(value, budget, $"{places.Words}, zone between planes, datums {system.Words}", [f])
        {
            Raw = raw,
            Device = new(0, 0, 1),
            Datums = system.Features,
        };
    }

    /// <summary>A direction turned about another to the side where the measured one points.</summary>
    private static Vector3D LeanFrom(Vector3D nominal, Vector3D measured, Vector3D about)
    {
        var rise = nominal.Dot(about);
        var flat = measured - (measured.Dot(about) * about);
        return 1 - Math.Abs(rise) < 1 - Math.Cos(MostTurn)
            ? Math.Sign(rise) * about
            : (rise * about) + (Math.Sqrt(1 - (rise * rise)) * flat.Normalized());
    }

    /// <summary>The zone between planes at the nominal angle, turned about the datum's direction to where it is narrowest.</summary>
    private static Evaluated AnglePlane(FeatureResult f, DatumSystem system, Vector3D normal, double? filter)
    {
        if (!system.MayTurn)
        {
            return BetweenPlanes(f, system, normal, filter);
        }

        var d = system.First.Direction;
        var surface = Form.Prepared(f, filter).Moved(system.Transform);
        var center = Fitting.PointSums.Centroid(surface.Points);
        var reach = Math.Max(1, Fitting.PointSums.Extent(surface.Points, center));
        SmallMotion[] free = [new(d / reach, Vector3D.Zero, center), new(Vector3D.Zero, normal, center)];
        var (pose, _) = FreeZone.Best(RigidTransform.Identity, free, t => [.. surface.Points.Chunk(3).Select(Vector3D.FromArray)
            .Select(p => new ZoneRow((t.Apply(p) - center).Dot(normal), t.Apply(p), normal))]);
        var across = pose.Inverse().Rotate(normal);
        var heights = Along(surface.Points, across);
        return Width(heights.Max() - heights.Min(), f, surface, system, across, d, filter);
    }

    /// <summary>A direction turned about another to where the places seen along it lie closest together.</summary>
    internal static Vector3D Turned(Vector3D[] places, Vector3D direction, Vector3D about)
    {
        Vector3D At(double angle) => RigidTransform.FromAxisAngle(about, angle).Rotate(direction);
        double Size(double angle)
        {
            var along = At(angle);
            return SmallestCircle.Diameter([.. places.Select(p => p - (p.Dot(along) * along))]);
        }

        // A diameter seen along a turning direction is smooth and has one valley near the nominal.
        return At(GoldenSection.Least(-MostTurn, MostTurn, Size));
    }

    private static Evaluated Of(FeatureResult f, DatumSystem system, double? filter, bool straight, double? projectedBy, bool parallel)
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
        var places = AxisPlaces.Of(moved, straight, projectedBy, system);
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
