using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Nominals;

/// <summary>Measures a face's extent, side and centre from its triangles and its exact surface.</summary>
public static class NominalFaceBuilder
{
    /// <summary>Builds a face from the triangles that belong to it. A plane's normal is turned out of the material.</summary>
    public static NominalFace Build(int id, Shape? shape, TriangleMesh mesh, IReadOnlyList<int> triangles)
    {
        double area = 0, agreement = 0;
        var center = Vector3D.Zero;
        foreach (var t in triangles)
        {
            var (a, b, c) = mesh.Triangle(t);
            var cross = (b - a).Cross(c - a);
            var middle = (a + b + c) / 3;
            area += 0.5 * cross.Length;
            center += 0.5 * cross.Length * middle;
            agreement += shape is null ? 0 : cross.Dot(shape.Gradient(middle));
        }

        center = area > 0 ? center / area : center;
        var inside = agreement < 0;
        if (shape is Plane3D plane)
        {
            shape = new Plane3D(plane.Project(center), inside ? -plane.Normal : plane.Normal);
            inside = false;
        }

        var (start, end, sweep) = Extent(shape, mesh, triangles);
        return new(id, shape?.Kind ?? "freeform", area, inside, start, end, sweep, center) { Shape = shape };
    }

    /// <summary>The axis of a round shape with the point its extents are measured from; null for others.</summary>
    public static Line3D? AxisOf(Shape? shape) => shape switch
    {
        Cylinder3D s => s.AxisLine,
        Cone3D s => new(s.Apex, s.Axis),
        Torus3D s => new(s.Center, s.Axis),
        Circle3D s => new(s.Center, s.Normal),
        Slot3D s => new(s.Center, s.Normal),
        Line3D s => s,
        _ => null,
    };

    /// <summary>Direction of a plane's normal or a round shape's axis; null for others.</summary>
    public static Vector3D? DirectionOf(Shape? shape) => shape is Plane3D plane ? plane.Normal : AxisOf(shape)?.Direction;

    private static (double Start, double End, double Sweep) Extent(Shape? shape, TriangleMesh mesh, IReadOnlyList<int> triangles)
    {
        if (AxisOf(shape) is not { } axis)
        {
            return (0, 0, 0);
        }

        const int Sectors = 72;
        var frame = axis.Direction.Perpendicular();
        var other = axis.Direction.Cross(frame);
        var seen = new bool[Sectors];
        double start = double.PositiveInfinity, end = double.NegativeInfinity;
        foreach (var t in triangles)
        {
            var (a, b, c) = mesh.Triangle(t);
            double low = double.PositiveInfinity, high = double.NegativeInfinity;
            var middle = Angle((a + b + c) / 3);
            foreach (var p in (ReadOnlySpan<Vector3D>)[a, b, c])
            {
                var h = (p - axis.Point).Dot(axis.Direction);
                start = Math.Min(start, h);
                end = Math.Max(end, h);
                var turn = Math.IEEERemainder(Angle(p) - middle, 2 * Math.PI);
                low = Math.Min(low, turn);
                high = Math.Max(high, turn);
            }

            var first = (int)Math.Floor((middle + low) / (2 * Math.PI) * Sectors + 1e-6);
            var last = (int)Math.Ceiling((middle + high) / (2 * Math.PI) * Sectors - 1e-6);
            for (var s = first; s < Math.Max(last, first + 1); s++)
            {
                seen[((s % Sectors) + Sectors) % Sectors] = true;
            }
        }

        return (start, end, 2 * Math.PI * seen.Count(s => s) / Sectors);

        double Angle(Vector3D p) => Math.Atan2((p - axis.Point).Dot(other), (p - axis.Point).Dot(frame));
    }
}
