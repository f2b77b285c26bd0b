using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Local parameters: displacement x y, turn about z, half the straight length, half the width; the plane is given and points lie in it.</summary>
internal readonly struct SlotModel(RigidTransform frame, double half, double radius) : IShapeModel
{
    public static int Count => 5;

    public RigidTransform Frame { get; } = frame;

    public double Distance(double x, double y, double z, Span<double> g)
    {
        // Beside the straight part the nearest point of the middle line is the foot, beyond it its end.
        var beyond = Math.Abs(x) - half;
        var (u, v) = beyond > 0 ? (Math.Sign(x) * beyond, y) : (0, y);
        var rho = Math.Sqrt((u * u) + (v * v));
        var (nx, ny) = rho > 0 ? (u / rho, v / rho) : (0, 0);
        g[0] = -nx;
        g[1] = -ny;
        g[2] = (nx * y) - (ny * x);
        g[3] = -Math.Abs(nx);
        g[4] = -1;
        return rho - radius;
    }

    public Shape ToShape() => new Slot3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ), Frame.Rotate(Vector3D.UnitX), 2 * (half + radius), 2 * radius);

    public SlotModel Step(double[] s) => new(Frame.After(RigidTransform.FromAxisAngle(Vector3D.UnitZ, s[2]) with { Translation = new(s[0], s[1], 0) }), half + s[3], radius + s[4]);
}

/// <summary>A first slot for points in a plane.</summary>
internal static class SlotStart
{
    private const int Directions = 180;

    /// <summary>The direction in which the points are narrowest across; length and width are their extents along and across it.</summary>
    /// <param name="flat">Points in the plane.</param>
    /// <param name="frame">The plane is its xy plane.</param>
    public static SlotModel For(double[] flat, RigidTransform frame)
    {
        var local = frame.Inverse();
        var points = flat.Chunk(3).Select(p => local.Apply(Vector3D.FromArray(p))).ToArray();
        (double Low, double High) Extent(double angle)
        {
            var (s, c) = Math.SinCos(angle);
            var along = points.Select(p => (c * p.X) + (s * p.Y)).ToList();
            return (along.Min(), along.Max());
        }

        var across = Enumerable.Range(0, Directions).Select(i => i * Math.PI / Directions).MinBy(a => Extent(a).High - Extent(a).Low);
        var direction = across - (Math.PI / 2);
        var (w, l) = (Extent(across), Extent(direction));
        var (sin, cos) = Math.SinCos(direction);
        var (x, y) = ((l.Low + l.High) / 2, (w.Low + w.High) / 2);
        var turned = frame.After(RigidTransform.FromAxisAngle(Vector3D.UnitZ, direction) with { Translation = new((cos * x) - (sin * y), (sin * x) + (cos * y), 0) });
        var radius = (w.High - w.Low) / 2;
        return new(turned, Math.Max(0.02 * radius, ((l.High - l.Low) / 2) - radius), radius);
    }
}
