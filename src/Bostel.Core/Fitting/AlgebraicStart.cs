using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Linear fits that give a first shape.</summary>
internal static class AlgebraicStart
{
    /// <summary>A round shape about an axis through a point; the radius at the point grows by the slope along the axis.</summary>
    public readonly record struct RoundStart(Vector3D Axis, Vector3D Point, double Radius, double Slope, double Error);

    /// <summary>
    /// For each axis direction the linear least-squares fit of x² + y² = 2ax + 2by + k²z² + 2kmz + c, a cone (or with k = 0 a cylinder)
    /// about an axis parallel to z; the directions with the smallest residual come first.
    /// </summary>
    public static List<RoundStart> Round(double[] centred, IEnumerable<Vector3D> axes, bool cone)
    {
        var found = new List<RoundStart>();
        foreach (var axis in axes)
        {
            if (Algebraic(centred, Frames.Along(Vector3D.Zero, axis), axis, cone) is { } start)
            {
                found.Add(start);
            }
        }

        return [.. found.OrderBy(f => f.Error)];
    }

    /// <summary>Linear sphere |p|² = 2c·p + k.</summary>
    public static (Vector3D Center, double Radius)? Sphere(double[] points)
    {
        var (a, b) = Normal(points, 4, (p, row) =>
        {
            (row[0], row[1], row[2], row[3]) = (p.X, p.Y, p.Z, 1);
            return p.LengthSquared;
        });
        if (LinearSolve.Gauss(a, b) is not { } x)
        {
            return null;
        }

        var center = new Vector3D(x[0], x[1], x[2]) * 0.5;
        var r2 = x[3] + center.LengthSquared;
        return r2 > 0 && double.IsFinite(r2) ? (center, Math.Sqrt(r2)) : null;
    }

    /// <summary>Sphere with its centre at q + s u: |p − q|² = 2s (p − q)·u + k, linear in s and k.</summary>
    /// <returns>Centre and radius; null when the points do not determine where on the line.</returns>
    public static (Vector3D Center, double Radius)? SphereOnLine(double[] points, Vector3D q, Vector3D u)
    {
        var (a, b) = Normal(points, 2, (p, row) =>
        {
            (row[0], row[1]) = (2 * (p - q).Dot(u), 1);
            return (p - q).LengthSquared;
        });
        var x = LinearSolve.Gauss(a, b);
        var r2 = x is null ? double.NaN : x[1] + (x[0] * x[0]);
        return r2 > 0 && double.IsFinite(r2) ? (q + (x![0] * u), Math.Sqrt(r2)) : null;
    }

    /// <summary>A cone about a known axis: the straight line of the radius over the height, either way round; none without slope.</summary>
    public static IEnumerable<ConeModel> ConesAbout(double[] points, Line3D axis, double? halfAngle)
    {
        var (a, b) = Normal(points, 2, (p, row) =>
        {
            (row[0], row[1]) = ((p - axis.Point).Dot(axis.Direction), 1);
            return axis.Distance(p);
        });
        var x = LinearSolve.Gauss(a, b);
        var (slope, radius) = x is null
            ? (0.0, PointBlocks.Distances(points, new CylinderModel(Frames.Along(axis.Point, axis.Direction), 0)).Average())
            : (x[0], x[1]);
        return Math.Abs(slope) > 1e-9 || halfAngle is not null
            ? [new(Frames.Along(axis.Point, slope >= 0 ? axis.Direction : -axis.Direction), halfAngle ?? Math.Atan(Math.Abs(slope)),
                radius)]
            : [];
    }

    private static RoundStart? Algebraic(double[] points, RigidTransform frame, Vector3D axis, bool cone)
    {
        var inverse = frame.Inverse();
        var (a, b) = Normal(points, cone ? 5 : 3, (world, row) =>
        {
            var p = inverse.Apply(world);
            (row[0], row[1], row[2]) = (p.X, p.Y, 1);
            if (cone)
            {
                (row[3], row[4]) = (p.Z * p.Z, p.Z);
            }

            return (p.X * p.X) + (p.Y * p.Y);
        });
        if (LinearSolve.Gauss(a, b) is not { } x)
        {
            return null;
        }

        var (cx, cy) = (0.5 * x[0], 0.5 * x[1]);
        var r2 = x[2] + (cx * cx) + (cy * cy);
        if (!(r2 > 0) || (cone && x[3] < 0))
        {
            return null;
        }

        var radius = Math.Sqrt(r2);
        var slope = cone ? x[4] / (2 * radius) : 0;
        double error = 0;
        for (var i = 0; i < points.Length; i += 3)
        {
            var p = inverse.Apply(new(points[i], points[i + 1], points[i + 2]));
            var d = (Math.Sqrt(((p.X - cx) * (p.X - cx)) + ((p.Y - cy) * (p.Y - cy))) - radius - (slope * p.Z))
                / Math.Sqrt(1 + (slope * slope));
            error += d * d;
        }

        return double.IsFinite(error) ? new RoundStart(axis, frame.Apply(new(cx, cy, 0)), radius, slope, error) : null;
    }

    private delegate double Row(Vector3D p, Span<double> row);

    private static (double[,] Matrix, double[] Right) Normal(double[] points, int m, Row fill)
    {
        var a = new double[m, m];
        var b = new double[m];
        Span<double> row = stackalloc double[m];
        for (var i = 0; i < points.Length; i += 3)
        {
            var s = fill(new(points[i], points[i + 1], points[i + 2]), row);
            for (var r = 0; r < m; r++)
            {
                for (var c = 0; c < m; c++)
                {
                    a[r, c] += row[r] * row[c];
                }

                b[r] += row[r] * s;
            }
        }

        return (a, b);
    }
}
