using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// A shape in its own local frame (axis along z, reference at the origin), linearised as in Forbes (NPL DITC 140/89): the distance of a local
/// point and its derivatives by the local parameters at zero.
/// </summary>
internal interface IShapeModel
{
    /// <summary>Number of parameters, the tilts and displacements first, the sizes last.</summary>
    static abstract int Count { get; }

    /// <summary>From local to world coordinates.</summary>
    RigidTransform Frame { get; }

    double Distance(double x, double y, double z, Span<double> gradient);

    Shape ToShape();
}

/// <summary>Local parameters: displacement along z, tilts about x and y. d = z.</summary>
internal readonly struct PlaneModel(RigidTransform frame) : IShapeModel
{
    public static int Count => 3;

    public RigidTransform Frame { get; } = frame;

    public double Distance(double x, double y, double z, Span<double> g)
    {
        g[0] = -1;
        g[1] = x;
        g[2] = y;
        return z;
    }

    public Shape ToShape() => new Plane3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ));

    public static PlaneModel From(Plane3D p) => new(Frames.Along(p.Point, p.Normal));

    public PlaneModel Step(double[] s) => new(Frames.Tilted(Frame, s[1], s[2], new(0, 0, s[0])));
}

/// <summary>Local parameters: centre x y z, radius.</summary>
internal readonly struct SphereModel(Vector3D center, double radius) : IShapeModel
{
    public static int Count => 4;

    public RigidTransform Frame { get; } = RigidTransform.FromTranslation(center);

    public double Distance(double x, double y, double z, Span<double> g)
    {
        var r = Math.Sqrt((x * x) + (y * y) + (z * z));
        var f = r > 0 ? -1 / r : 0;
        g[0] = f * x;
        g[1] = f * y;
        g[2] = f * z;
        g[3] = -1;
        return r - radius;
    }

    public Shape ToShape() => new Sphere3D(Frame.Translation, radius);

    public SphereModel Step(double[] s) => new(Frame.Translation + new Vector3D(s[0], s[1], s[2]), radius + s[3]);
}

/// <summary>Local parameters: displacement x y, radius; the plane is given and points lie in it.</summary>
internal readonly struct CircleModel(RigidTransform frame, double radius) : IShapeModel
{
    public static int Count => 3;

    public RigidTransform Frame { get; } = frame;

    public double Distance(double x, double y, double z, Span<double> g)
    {
        var rho = Math.Sqrt((x * x) + (y * y));
        var f = rho > 0 ? -1 / rho : 0;
        g[0] = f * x;
        g[1] = f * y;
        g[2] = -1;
        return rho - radius;
    }

    public Shape ToShape() => new Circle3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ), radius);

    public CircleModel Step(double[] s) => new(Frames.Tilted(Frame, 0, 0, new(s[0], s[1], 0)), radius + s[2]);
}

/// <summary>Local parameters: displacement x y, tilts of the axis toward x and y, radius.</summary>
internal readonly struct CylinderModel(RigidTransform frame, double radius) : IShapeModel
{
    public static int Count => 5;

    public RigidTransform Frame { get; } = frame;

    public double Distance(double x, double y, double z, Span<double> g)
    {
        var rho = Math.Sqrt((x * x) + (y * y));
        var f = rho > 0 ? -1 / rho : 0;
        g[0] = f * x;
        g[1] = f * y;
        g[2] = f * x * z;
        g[3] = f * y * z;
        g[4] = -1;
        return rho - radius;
    }

    public Shape ToShape() => new Cylinder3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ), radius);

    public static CylinderModel From(Cylinder3D c) => new(Frames.Along(c.Point, c.Axis), c.Radius);

    public CylinderModel Step(double[] s) => new(Frames.Tilted(Frame, s[2], s[3], new(s[0], s[1], 0)), radius + s[4]);
}

/// <summary>Local parameters: displacement x y, tilts, half angle, radius at the reference. The cone opens along z.</summary>
internal readonly struct ConeModel(RigidTransform frame, double halfAngle, double radius) : IShapeModel
{
    public static int Count => 6;

    public RigidTransform Frame { get; } = frame;

    public double Distance(double x, double y, double z, Span<double> g)
    {
        var (s, c) = Math.SinCos(halfAngle);
        var rho = Math.Sqrt((x * x) + (y * y));
        var f = rho > 0 ? -1 / rho : 0;
        g[0] = f * x * c;
        g[1] = f * y * c;
        g[2] = (f * x * z * c) - (x * s);
        g[3] = (f * y * z * c) - (y * s);
        g[4] = (-(rho - radius) * s) - (z * c);
        g[5] = -c;
        return ((rho - radius) * c) - (z * s);
    }

    public Shape ToShape()
    {
        var axis = Frame.Rotate(Vector3D.UnitZ);
        return new Cone3D(Frame.Translation - (radius / Math.Tan(halfAngle) * axis), axis, halfAngle);
    }

    public ConeModel Step(double[] s) => new(Frames.Tilted(Frame, s[2], s[3], new(s[0], s[1], 0)), halfAngle + s[4], radius + s[5]);
}

/// <summary>Local parameters: centre x y z, tilts, major radius, minor radius.</summary>
internal readonly struct TorusModel(RigidTransform frame, double major, double minor) : IShapeModel
{
    public static int Count => 7;

    public RigidTransform Frame { get; } = frame;

    public double Distance(double x, double y, double z, Span<double> g)
    {
        var rho = Math.Sqrt((x * x) + (y * y));
        var f = rho > 0 ? 1 / rho : 0;
        var s = rho - major;
        var d = Math.Sqrt((s * s) + (z * z));
        var (u, w) = d > 0 ? (s / d, z / d) : (0, 0);
        g[0] = -u * f * x;
        g[1] = -u * f * y;
        g[2] = -w;
        g[3] = (-u * f * x * z) + (w * x);
        g[4] = (-u * f * y * z) + (w * y);
        g[5] = -u;
        g[6] = -1;
        return d - minor;
    }

    public Shape ToShape() => new Torus3D(Frame.Translation, Frame.Rotate(Vector3D.UnitZ), major, minor);

    public TorusModel Step(double[] s) => new(Frames.Tilted(Frame, s[3], s[4], new(s[0], s[1], s[2])), major + s[5], minor + s[6]);
}

/// <summary>Local frames and their first-order motion.</summary>
internal static class Frames
{
    public static RigidTransform Along(Vector3D origin, Vector3D axis)
    {
        var z = axis.Normalized();
        var x = z.Perpendicular();
        return RigidTransform.FromAxes(x, z.Cross(x), z, origin);
    }

    /// <summary>Moves the frame by a local displacement and turns its z axis toward local (a, b, 1).</summary>
    public static RigidTransform Tilted(RigidTransform frame, double a, double b, Vector3D move)
    {
        var origin = frame.Apply(move);
        if (a == 0 && b == 0)
        {
            return frame with { Translation = origin };
        }

        var tilt = RigidTransform.Between(Vector3D.UnitZ, new Vector3D(a, b, 1).Normalized());
        return frame.After(tilt) with { Translation = origin };
    }
}
