using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Local parameters: displacement along z, tilts about x and y. d = z.</summary>
internal readonly struct PlaneModel(RigidTransform frame) : IShapeModel<PlaneModel>
{
    public static ReadOnlySpan<Parameter> Parameters => [Parameter.Offset, Parameter.Tilt, Parameter.Tilt];

    public RigidTransform Frame { get; } = frame;

    public Vector256<double> Distance(Vector256<double> x, Vector256<double> y, Vector256<double> z, Span<Vector256<double>> g)
    {
        g[0] = -Vector256<double>.One;
        g[1] = x;
        g[2] = y;
        return z;
    }

    public Shape ToShape() => new Plane3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ));

    public static PlaneModel From(Plane3D p) => new(Frames.Along(p.Point, p.Normal));

    public PlaneModel Step(ReadOnlySpan<double> s) => new(Frames.Tilted(Frame, s[1], s[2], new(0, 0, s[0])));

    public PlaneModel Grown(double by) => new(Frames.Tilted(Frame, 0, 0, new(0, 0, by)));
}

/// <summary>Local parameters: centre x y z, radius.</summary>
internal readonly struct SphereModel(Vector3D center, double radius) : IShapeModel<SphereModel>
{
    public static ReadOnlySpan<Parameter> Parameters => [Parameter.ShiftX, Parameter.ShiftY, Parameter.ShiftZ, Parameter.Offset];

    public RigidTransform Frame { get; } = RigidTransform.FromTranslation(center);

    public Vector256<double> Distance(Vector256<double> x, Vector256<double> y, Vector256<double> z, Span<Vector256<double>> g)
    {
        var r = Vector256.Sqrt((x * x) + (y * y) + (z * z));
        var f = -RoundShapes.Inverse(r);
        g[0] = f * x;
        g[1] = f * y;
        g[2] = f * z;
        g[3] = -Vector256<double>.One;
        return r - Vector256.Create(radius);
    }

    public Shape ToShape() => new Sphere3D(Frame.Translation, radius);

    public SphereModel Step(ReadOnlySpan<double> s) => new(Frame.Translation + new Vector3D(s[0], s[1], s[2]), radius + s[3]);

    public SphereModel Grown(double by) => new(Frame.Translation, radius + by);
}

/// <summary>Local parameters: displacement x y, radius; the plane is given and points lie in it.</summary>
internal readonly struct CircleModel(RigidTransform frame, double radius) : IShapeModel<CircleModel>
{
    public static ReadOnlySpan<Parameter> Parameters => [Parameter.ShiftX, Parameter.ShiftY, Parameter.Offset];

    public RigidTransform Frame { get; } = frame;

    public Vector256<double> Distance(Vector256<double> x, Vector256<double> y, Vector256<double> z, Span<Vector256<double>> g)
    {
        var rho = Vector256.Sqrt((x * x) + (y * y));
        var f = -RoundShapes.Inverse(rho);
        g[0] = f * x;
        g[1] = f * y;
        g[2] = -Vector256<double>.One;
        return rho - Vector256.Create(radius);
    }

    public Shape ToShape() => new Circle3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ), radius);

    public CircleModel Step(ReadOnlySpan<double> s) => new(Frames.Tilted(Frame, 0, 0, new(s[0], s[1], 0)), radius + s[2]);

    public CircleModel Grown(double by) => new(Frame, radius + by);
}

/// <summary>Local parameters: displacement x y, tilts of the axis toward x and y, radius.</summary>
internal readonly struct CylinderModel(RigidTransform frame, double radius) : IShapeModel<CylinderModel>
{
    public static ReadOnlySpan<Parameter> Parameters =>
        [Parameter.ShiftX, Parameter.ShiftY, Parameter.Tilt, Parameter.Tilt, Parameter.Offset];

    public RigidTransform Frame { get; } = frame;

    public Vector256<double> Distance(Vector256<double> x, Vector256<double> y, Vector256<double> z, Span<Vector256<double>> g)
    {
        var rho = Vector256.Sqrt((x * x) + (y * y));
        var f = -RoundShapes.Inverse(rho);
        g[0] = f * x;
        g[1] = f * y;
        g[2] = g[0] * z;
        g[3] = g[1] * z;
        g[4] = -Vector256<double>.One;
        return rho - Vector256.Create(radius);
    }

    public Shape ToShape() => new Cylinder3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ), radius);

    public static CylinderModel From(Cylinder3D c) => new(Frames.Along(c.Point, c.Axis), c.Radius);

    public CylinderModel Step(ReadOnlySpan<double> s) => new(Frames.Tilted(Frame, s[2], s[3], new(s[0], s[1], 0)), radius + s[4]);

    public CylinderModel Grown(double by) => new(Frame, radius + by);
}

/// <summary>Local parameters: displacement x y, tilts, half angle, radius at the reference. The cone opens along z.</summary>
internal readonly struct ConeModel(RigidTransform frame, double halfAngle, double radius) : IShapeModel<ConeModel>
{
    public static ReadOnlySpan<Parameter> Parameters =>
        [Parameter.ShiftX, Parameter.ShiftY, Parameter.Tilt, Parameter.Tilt, Parameter.Angle, Parameter.Offset];

    public RigidTransform Frame { get; } = frame;

    public Vector256<double> Distance(Vector256<double> x, Vector256<double> y, Vector256<double> z, Span<Vector256<double>> g)
    {
        var (sin, cos) = Math.SinCos(halfAngle);
        var (s, c) = (Vector256.Create(sin), Vector256.Create(cos));
        var rho = Vector256.Sqrt((x * x) + (y * y));
        var f = -RoundShapes.Inverse(rho) * c;
        var beyond = rho - Vector256.Create(radius);
        g[0] = f * x;
        g[1] = f * y;
        g[2] = (g[0] * z) - (x * s);
        g[3] = (g[1] * z) - (y * s);
        g[4] = -(beyond * s) - (z * c);
        g[5] = -c;
        return (beyond * c) - (z * s);
    }

    public Shape ToShape()
    {
        // A negative angle is the same cone opening the other way.
        var axis = Math.Sign(halfAngle) * Frame.Rotate(Vector3D.UnitZ);
        return new Cone3D(Frame.Translation - (radius / Math.Tan(Math.Abs(halfAngle)) * axis), axis, Math.Abs(halfAngle));
    }

    /// <summary>The cone with its reference at the height of a point.</summary>
    public static ConeModel From(Cone3D cone, Vector3D at)
    {
        var h = (at - cone.Apex).Dot(cone.Axis);
        return new(Frames.Along(cone.Apex + (h * cone.Axis), cone.Axis), cone.HalfAngle, h * Math.Tan(cone.HalfAngle));
    }

    public ConeModel Step(ReadOnlySpan<double> s) =>
        new(Frames.Tilted(Frame, s[2], s[3], new(s[0], s[1], 0)), halfAngle + s[4], radius + s[5]);

    public ConeModel Grown(double by) => new(Frame, halfAngle, radius + (by / Math.Cos(halfAngle)));
}

/// <summary>Local parameters: centre x y z, tilts, major radius, minor radius.</summary>
internal readonly struct TorusModel(RigidTransform frame, double major, double minor) : IShapeModel<TorusModel>
{
    public static ReadOnlySpan<Parameter> Parameters =>
        [Parameter.ShiftX, Parameter.ShiftY, Parameter.ShiftZ, Parameter.Tilt, Parameter.Tilt, Parameter.Extent, Parameter.Offset];

    public RigidTransform Frame { get; } = frame;

    public Vector256<double> Distance(Vector256<double> x, Vector256<double> y, Vector256<double> z, Span<Vector256<double>> g)
    {
        var rho = Vector256.Sqrt((x * x) + (y * y));
        var s = rho - Vector256.Create(major);
        var d = Vector256.Sqrt((s * s) + (z * z));
        var inverse = RoundShapes.Inverse(d);
        var (u, w) = (s * inverse, z * inverse);
        var f = -(u * RoundShapes.Inverse(rho));
        g[0] = f * x;
        g[1] = f * y;
        g[2] = -w;
        g[3] = (g[0] * z) + (w * x);
        g[4] = (g[1] * z) + (w * y);
        g[5] = -u;
        g[6] = -Vector256<double>.One;
        return d - Vector256.Create(minor);
    }

    public Shape ToShape() => new Torus3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ), major, minor);

    public static TorusModel From(Torus3D t) => new(Frames.Along(t.Center, t.Axis), t.MajorRadius, t.MinorRadius);

    public TorusModel Step(ReadOnlySpan<double> s) =>
        new(Frames.Tilted(Frame, s[3], s[4], new(s[0], s[1], s[2])), major + s[5], minor + s[6]);

    public TorusModel Grown(double by) => new(Frame, major, minor + by);
}

/// <summary>
/// Local parameters: displacement x y, turn about z, half the straight length, half the width; the plane is given and points lie in it.
/// </summary>
internal readonly struct SlotModel(RigidTransform frame, double half, double radius) : IShapeModel<SlotModel>
{
    public static ReadOnlySpan<Parameter> Parameters =>
        [Parameter.ShiftX, Parameter.ShiftY, Parameter.Turn, Parameter.Extent, Parameter.Offset];

    public RigidTransform Frame { get; } = frame;

    public Vector256<double> Distance(Vector256<double> x, Vector256<double> y, Vector256<double> z, Span<Vector256<double>> g)
    {
        // Beside the straight part the nearest point of the middle line is the foot, beyond it its end.
        var beyond = Vector256.Max(Vector256.Abs(x) - Vector256.Create(half), Vector256<double>.Zero);
        var u = Vector256.ConditionalSelect(Vector256.LessThan(x, Vector256<double>.Zero), -beyond, beyond);
        var rho = Vector256.Sqrt((u * u) + (y * y));
        var inverse = RoundShapes.Inverse(rho);
        var (nx, ny) = (u * inverse, y * inverse);
        g[0] = -nx;
        g[1] = -ny;
        g[2] = (nx * y) - (ny * x);
        g[3] = -Vector256.Abs(nx);
        g[4] = -Vector256<double>.One;
        return rho - Vector256.Create(radius);
    }

    public Shape ToShape() =>
        new Slot3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ), Frame.Rotate(Vector3D.UnitX), 2 * (half + radius), 2 * radius);

    public static SlotModel From(Slot3D s) => new(
        RigidTransform.FromAxes(s.Direction, s.Normal.Cross(s.Direction), s.Normal, s.Center), (s.Length - s.Width) / 2, s.Width / 2);

    public SlotModel Step(ReadOnlySpan<double> s) =>
        new(Frame.After(RigidTransform.FromAxisAngle(Vector3D.UnitZ, s[2]) with { Translation = new(s[0], s[1], 0) }), half + s[3],
            radius + s[4]);

    public SlotModel Grown(double by) => new(Frame, half, radius + by);
}

/// <summary>Shared by the round shapes.</summary>
internal static class RoundShapes
{
    /// <summary>1/r, and 0 on the axis, where the direction across it is not defined.</summary>
    public static Vector256<double> Inverse(Vector256<double> r) =>
        Vector256.ConditionalSelect(Vector256.GreaterThan(r, Vector256<double>.Zero), Vector256<double>.One / r, Vector256<double>.Zero);
}
