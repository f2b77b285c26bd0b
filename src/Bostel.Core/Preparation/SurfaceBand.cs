using Bostel.Core.Geometry;

namespace Bostel.Core.Preparation;

/// <summary>
/// Whether points lie near a plane, cylinder, sphere, cone or torus with normals turned like it. The first four are a·ρ + b·h − c from the distance ρ to an axis
/// and the height h along it (a sphere has no axis: ρ is the distance to its centre), so that one root answers both questions without a branch by kind.
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

    /// <summary>Whether a point with a unit normal lies within the band.</summary>
    public bool Holds(Vector3D point, Vector3D normal)
    {
        var v = point - _origin;
        var h = Vector3D.Dot(v, _axis);
        var radial = v - (h * _axis);
        var rho = radial.Length;
        if (_circle > 0)
        {
            var fromTube = rho > 0 ? ((rho - _circle) / rho * radial) + (h * _axis) : h * _axis;
            var off = fromTube.Length;
            return Math.Abs(off - _c) <= _band && Math.Abs(Vector3D.Dot(fromTube, normal)) >= _cosine * off;
        }

        return Math.Abs((_a * rho) + (_b * h) - _c) <= _band
            && Math.Abs((_a * Vector3D.Dot(radial, normal)) + (_b * rho * Vector3D.Dot(_axis, normal))) >= _cosine * rho;
    }
}
