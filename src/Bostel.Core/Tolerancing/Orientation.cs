using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>Orientation to a single datum (ISO 1101): the width or diameter of the smallest zone of the prescribed orientation.</summary>
internal static class Orientation
{
    public static Evaluated Parallelism(FeatureResult f, (FeatureResult Feature, string Label) datum, double? filter)
    {
        var d = Direction(datum.Feature);
        return (f.Shape, datum.Feature.Shape) switch
        {
            (Plane3D, Plane3D) => Range(f, d, datum, filter),
            (Plane3D, _) => Turning(f, d, datum, filter),
            (_, Plane3D) => Segment(f, datum, s => Math.Abs(s.Dot(d)), "zone between planes"),
            _ => Segment(f, datum, s => (s - (s.Dot(d) * d)).Length, "cylindrical zone"),
        };
    }

    public static Evaluated Perpendicularity(FeatureResult f, (FeatureResult Feature, string Label) datum, double? filter)
    {
        var d = Direction(datum.Feature);
        return (f.Shape, datum.Feature.Shape) switch
        {
            (Plane3D, Plane3D) => Turning(f, d, datum, filter),
            (Plane3D, _) => Range(f, d, datum, filter),
            (_, Plane3D) => Segment(f, datum, s => (s - (s.Dot(d) * d)).Length, "cylindrical zone"),
            _ => Segment(f, datum, s => Math.Abs(s.Dot(d)), "zone between planes"),
        };
    }

    /// <summary>The nominal extent of the axis, at the measured place and direction.</summary>
    internal static (Vector3D Start, Vector3D End) Ends(FeatureResult f)
    {
        var nominal = f.NominalAxis!;
        var axis = f.Axis!;
        Vector3D At(double h) => axis.Meet(new(nominal.Point + (h * nominal.Direction), nominal.Direction)) ?? axis.Point;
        return (At(f.Nominal.Start), At(f.Nominal.End));
    }

    private static Evaluated Range(FeatureResult f, Vector3D d, (FeatureResult Feature, string Label) datum, double? filter)
    {
        var surface = Form.Prepared(f, filter);
        var heights = Along(surface.Points, d);
        return BetweenPlanes(heights.Max() - heights.Min(), surface, d, f, datum, filter);
    }

    /// <summary>The zone may turn about the datum's direction: seen along it, the minimum-zone straight line.</summary>
    private static Evaluated Turning(FeatureResult f, Vector3D d, (FeatureResult Feature, string Label) datum, double? filter)
    {
        var surface = Form.Prepared(f, filter);
        var zone = ExtremalFit.LineInPlane(surface.Points, Criterion.MinimumZone, new() { Normal = d });
        return BetweenPlanes(zone.Form, surface, d.Cross(((Line3D)zone.Shape).Direction).Normalized(), f, datum, filter);
    }

    private static Evaluated BetweenPlanes(
        double raw, EvaluatedSurface surface, Vector3D across, FeatureResult f, (FeatureResult Feature, string Label) datum,
        double? filter) =>
        Extreme.Of(raw, Along(surface.Smooth, across), surface.Noise, Extreme.Width, datum.Feature.DirectionSigma * Reach(f),
            $"zone between planes, datum {datum.Label}" + Words.Filter(filter), [f])
        with
        { DeviceFactor = 0, Datums = [datum.Feature] };

    private static Evaluated Segment(
        FeatureResult f, (FeatureResult Feature, string Label) datum, Func<Vector3D, double> value, string zone)
    {
        if (f.Axis is null)
        {
            throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no axis.");
        }

        var (start, end) = Ends(f);
        var sigma = (end - start).Length * Math.Sqrt(Square(f.DirectionSigma) + Square(datum.Feature.DirectionSigma));
        return new(value(end - start), sigma, $"axis of {Words.Of(f.Criterion)} {f.Nominal.Kind}, {zone}, datum {datum.Label}", [f])
        {
            DeviceFactor = 0,
            Datums = [datum.Feature],
        };
    }

    private static double[] Along(double[] points, Vector3D direction) =>
        [.. Enumerable.Range(0, points.Length / 3)
            .Select(i => new Vector3D(points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]).Dot(direction))];

    private static Vector3D Direction(FeatureResult f) =>
        f.Direction ?? throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} gives no direction.");

    private static double Reach(FeatureResult f)
    {
        var c = Fitting.PointSums.Centroid(f.Points);
        double most = 0;
        for (var i = 0; i < f.Points.Length; i += 3)
        {
            most = Math.Max(most, (new Vector3D(f.Points[i], f.Points[i + 1], f.Points[i + 2]) - c).Length);
        }

        return 2 * most;
    }

    private static double Square(double v) => v * v;
}
