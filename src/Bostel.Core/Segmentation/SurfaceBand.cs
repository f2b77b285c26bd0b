using System.Runtime.CompilerServices;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>
/// Whether points lie near a plane, cylinder, sphere, cone or torus with normals turned like it. The first four are a·ρ + b·h − c from
/// the distance ρ to an axis and the height h along it (a sphere has no axis: ρ is the distance to its centre), so that one root answers
/// both questions without a branch by kind.
/// </summary>
internal readonly struct SurfaceBand
{
    private readonly Vector3D _origin, _axis;
    private readonly double _a, _b, _c, _band, _cosine;

    /// <summary>Radius of the circle in the middle of a torus' tube, whose radius is c then; 0 for all else.</summary>
    private readonly double _circle;

    /// <param name="band">Half width, mm.</param>
    /// <param name="cosine">Of the largest angle between the surface's normal and a point's, whichever way they point.</param>
    public SurfaceBand(Shape shape, double band, double cosine)
    {
        (_origin, _axis, _a, _b, _c) = shape switch
        {
            Plane3D p => (p.Point, p.Normal, 0.0, 1.0, 0.0),
            Cylinder3D c => (c.Point, c.Axis, 1.0, 0.0, c.Radius),
            Sphere3D s => (s.Center, Vector3D.Zero, 1.0, 0.0, s.Radius),
            Cone3D k => (k.Apex, k.Axis, Math.Cos(k.HalfAngle), -Math.Sin(k.HalfAngle), 0.0),
            Torus3D t => (t.Center, t.Axis, 0.0, 0.0, t.MinorRadius),
            _ => throw new ArgumentException($"no band about a {shape.Kind}", nameof(shape)),
        };
        (_band, _cosine, _circle) = (band, cosine, (shape as Torus3D)?.MajorRadius ?? 0);
    }

    /// <summary>
    /// Whether a vertex lies within the band, with its normal turned like the surface. The normal is not read where the place decides.
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool Holds(TriangleMesh mesh, int vertex) => IsNear(mesh.Vertex(vertex), out var across, out var length)
        && Math.Abs(Vector3D.Dot(across, mesh.Normal(vertex))) >= _cosine * length;

    /// <param name="across">The surface's normal there, of the given length.</param>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private bool IsNear(Vector3D point, out Vector3D across, out double length)
    {
        var v = point - _origin;
        var h = Vector3D.Dot(v, _axis);
        var radial = v - (h * _axis);
        var rho = radial.Length;
        if (_circle > 0)
        {
            across = rho > 0 ? ((rho - _circle) / rho * radial) + (h * _axis) : h * _axis;
            length = across.Length;
            return Math.Abs(length - _c) <= _band;
        }

        (across, length) = ((_a * radial) + (_b * rho * _axis), rho);
        return Math.Abs((_a * rho) + (_b * h) - _c) <= _band;
    }
}
