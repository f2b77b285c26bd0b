using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Starts for the iterative fits that need no guess from outside: linear algebraic fits over a fan of axis directions.</summary>
internal static class StartValues
{
    /// <summary>At most <paramref name="most"/> points, evenly picked.</summary>
    public static double[] Thin(double[] points, int most)
    {
        var n = points.Length / 3;
        if (n <= most)
        {
            return points;
        }

        var thin = new double[3 * most];
        for (var i = 0; i < most; i++)
        {
            points.AsSpan(3 * (int)((long)i * n / most), 3).CopyTo(thin.AsSpan(3 * i));
        }

        return thin;
    }

    /// <summary>Even directions over the half sphere by the golden spiral.</summary>
    public static IEnumerable<Vector3D> HalfSphere(int count)
    {
        for (var i = 0; i < count; i++)
        {
            var z = (i + 0.5) / count;
            var r = Math.Sqrt(1 - (z * z));
            var phi = i * Math.PI * (3 - Math.Sqrt(5));
            yield return new(r * Math.Cos(phi), r * Math.Sin(phi), z);
        }
    }

    /// <summary>
    /// For each axis direction the linear least-squares fit of x² + y² = 2ax + 2by + k²z² + 2kmz + c, a cone (or with k = 0 a cylinder) about an
    /// axis parallel to z; the directions with the smallest residual come first.
    /// </summary>
    public static List<(Vector3D Axis, Vector3D Point, double Radius, double Slope, double Error)> Round(double[] centred, bool cone)
    {
        var found = new List<(Vector3D, Vector3D, double, double, double)>();
        var thin = Thin(centred, 400);
        foreach (var axis in HalfSphere(400))
        {
            var frame = Frames.Along(Vector3D.Zero, axis);
            if (Algebraic(thin, frame, cone) is var (x, y, r, k, error))
            {
                found.Add((axis, frame.Apply(new(x, y, 0)), r, k, error));
            }
        }

        return [.. found.OrderBy(f => f.Item5)];
    }

    private static (double X, double Y, double Radius, double Slope, double Error)? Algebraic(double[] points, RigidTransform frame, bool cone)
    {
        var m = cone ? 5 : 3;
        var a = new double[m, m];
        var b = new double[m];
        var inverse = frame.Inverse();
        Span<double> row = stackalloc double[5];
        for (var i = 0; i < points.Length; i += 3)
        {
            var p = inverse.Apply(new(points[i], points[i + 1], points[i + 2]));
            Row(p, row);
            var s = (p.X * p.X) + (p.Y * p.Y);
            for (var r = 0; r < m; r++)
            {
                for (var c = 0; c < m; c++)
                {
                    a[r, c] += row[r] * row[c];
                }

                b[r] += row[r] * s;
            }
        }

        var x = LinearSolve.Gauss(a, b);
        if (x is null)
        {
            return null;
        }

        var (cx, cy) = (0.5 * x[0], 0.5 * x[1]);
        var slope2 = cone ? x[3] : 0;
        var r2 = x[2] + (cx * cx) + (cy * cy);
        if (!(r2 > 0) || slope2 < 0)
        {
            return null;
        }

        var radius = Math.Sqrt(r2);
        var slope = cone ? x[4] / (2 * radius) : 0;
        double error = 0;
        for (var i = 0; i < points.Length; i += 3)
        {
            var p = inverse.Apply(new(points[i], points[i + 1], points[i + 2]));
            var d = (Math.Sqrt(((p.X - cx) * (p.X - cx)) + ((p.Y - cy) * (p.Y - cy))) - radius - (slope * p.Z)) / Math.Sqrt(1 + (slope * slope));
            error += d * d;
        }

        return double.IsFinite(error) ? (cx, cy, radius, slope, error) : null;

        static void Row(Vector3D p, Span<double> row)
        {
            row[0] = p.X;
            row[1] = p.Y;
            row[2] = 1;
            row[3] = p.Z * p.Z;
            row[4] = p.Z;
        }
    }

    /// <summary>Linear sphere |p|² = 2c·p + k.</summary>
    public static (Vector3D Center, double Radius)? Sphere(double[] points)
    {
        var a = new double[4, 4];
        var b = new double[4];
        Span<double> row = stackalloc double[4];
        for (var i = 0; i < points.Length; i += 3)
        {
            (row[0], row[1], row[2], row[3]) = (points[i], points[i + 1], points[i + 2], 1);
            var s = (row[0] * row[0]) + (row[1] * row[1]) + (row[2] * row[2]);
            for (var r = 0; r < 4; r++)
            {
                for (var c = 0; c < 4; c++)
                {
                    a[r, c] += row[r] * row[c];
                }

                b[r] += row[r] * s;
            }
        }

        var x = LinearSolve.Gauss(a, b);
        if (x is null)
        {
            return null;
        }

        var center = new Vector3D(x[0], x[1], x[2]) * 0.5;
        var r2 = x[3] + center.LengthSquared;
        return r2 > 0 && double.IsFinite(r2) ? (center, Math.Sqrt(r2)) : null;
    }

    /// <summary>Starts for a torus: axes over the half sphere, through the mean point (whole ring) or beside it (a piece of the ring).</summary>
    public static IEnumerable<Torus3D> Torus(double[] centred)
    {
        var reach = 0.0;
        foreach (var p in centred)
        {
            reach = Math.Max(reach, Math.Abs(p));
        }

        foreach (var axis in HalfSphere(40))
        {
            yield return new(Vector3D.Zero, axis, 0.75 * reach, 0.25 * reach);
            var u = axis.Perpendicular();
            for (var k = 0; k < 6; k++)
            {
                var aside = RigidTransform.FromAxisAngle(axis, k * Math.PI / 3).Rotate(u);
                yield return new(reach * aside, axis, reach, 0.4 * reach);
            }
        }
    }
}
