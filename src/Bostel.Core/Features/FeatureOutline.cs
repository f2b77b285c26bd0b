using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>A measured feature as lines to be drawn: its axis, its rims, its centre.</summary>
public static class FeatureOutline
{
    private const int Around = 64;

    /// <summary>How much an axis stands out at either end, as a share of its length.</summary>
    private const double Beyond = 0.15;

    /// <summary>Polylines of 3·K coordinates each, in the coordinates of the nominal, mm.</summary>
    /// <param name="mark">Half the size of a cross that marks a point, mm.</param>
    public static IReadOnlyList<double[]> Of(FeatureResult f, double mark) => f.Shape switch
    {
        Plane3D s => [Square(f, s), .. Cross(s.Project(f.Place), mark)],
        Line3D s => [Axis(s, Ends(f, s), mark)],
        Circle3D s => [Rim(s.Center, s.Normal, s.Radius), .. Cross(s.Center, mark)],
        Slot3D s => [Obround(s), .. Cross(s.Center, mark)],
        Sphere3D { Radius: 0 } s => Cross(s.Center, mark),
        Sphere3D s => [.. ((Vector3D[])[Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ]).Select(n => Rim(s.Center, n, s.Radius)),
            .. Cross(s.Center, mark)],
        Cylinder3D s => Round(f, s.AxisLine, _ => s.Radius, mark),
        Cone3D s => Round(f, new(s.Apex, s.Axis), h => Math.Abs(h) * Math.Tan(s.HalfAngle), mark),
        Torus3D s => [Rim(s.Center, s.Axis, s.MajorRadius), Axis(new(s.Center, s.Axis), (-s.MinorRadius, s.MinorRadius), mark)],
        _ => [],
    };

    private static IReadOnlyList<double[]> Round(FeatureResult f, Line3D axis, Func<double, double> radiusAt, double mark)
    {
        var (low, high) = Ends(f, axis);
        Vector3D At(double h) => axis.Point + (h * axis.Direction);
        return [Axis(axis, (low, high), mark), Rim(At(low), axis.Direction, radiusAt(low)), Rim(At(high), axis.Direction, radiusAt(high))];
    }

    /// <summary>Heights along an axis between which the feature's points lie.</summary>
    private static (double Low, double High) Ends(FeatureResult f, Line3D axis)
    {
        var heights = f.Points.Chunk(3).Select(p => (Vector3D.FromArray(p) - axis.Point).Dot(axis.Direction)).ToArray();
        return (heights.Min(), heights.Max());
    }

    private static double[] Axis(Line3D axis, (double Low, double High) ends, double mark)
    {
        var more = Math.Max(mark, Beyond * (ends.High - ends.Low));
        Vector3D At(double h) => axis.Point + (h * axis.Direction);
        return [.. At(ends.Low - more).ToArray(), .. At(ends.High + more).ToArray()];
    }

    private static double[] Rim(Vector3D center, Vector3D axis, double radius)
    {
        var (u, v) = (radius * axis.Perpendicular(), radius * axis.Cross(axis.Perpendicular()));
        return [.. Enumerable.Range(0, Around + 1).Select(k => 2 * Math.PI * k / Around)
            .SelectMany(a => (center + (Math.Cos(a) * u) + (Math.Sin(a) * v)).ToArray())];
    }

    private static double[] Obround(Slot3D s)
    {
        var (x, y, radius) = (s.Direction, s.Normal.Cross(s.Direction), s.Width / 2);
        var half = (s.Length - s.Width) / 2;
        return [.. Enumerable.Range(0, Around + 1).Select(k => (2 * Math.PI * k / Around) - (Math.PI / 2)).Select(a =>
            s.Center + (((Math.Cos(a) >= 0 ? half : -half) + (radius * Math.Cos(a))) * x) + (radius * Math.Sin(a) * y))
            .SelectMany(p => p.ToArray())];
    }

    /// <summary>The rectangle of the plane in which the points lie.</summary>
    private static double[] Square(FeatureResult f, Plane3D plane)
    {
        var (x, y) = (plane.Normal.Perpendicular(), plane.Normal.Cross(plane.Normal.Perpendicular()));
        var at = plane.Project(f.Place);
        var flat = f.Points.Chunk(3).Select(p => Vector3D.FromArray(p) - at).Select(d => (U: d.Dot(x), V: d.Dot(y))).ToArray();
        var (u0, u1, v0, v1) = (flat.Min(p => p.U), flat.Max(p => p.U), flat.Min(p => p.V), flat.Max(p => p.V));
        (double U, double V)[] corners = [(u0, v0), (u1, v0), (u1, v1), (u0, v1), (u0, v0)];
        return [.. corners.SelectMany(c => (at + (c.U * x) + (c.V * y)).ToArray())];
    }

    private static double[][] Cross(Vector3D at, double mark) =>
        [.. ((Vector3D[])[Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ])
            .Select(a => (double[])[.. (at - (mark * a)).ToArray(), .. (at + (mark * a)).ToArray()])];
}
