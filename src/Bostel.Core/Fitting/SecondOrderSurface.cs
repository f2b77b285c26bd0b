using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// The surface z = a + bx + cy + dx² + exy + fy² over a plane: to second order every smooth surface near it (Monge form; do Carmo,
/// Differential Geometry of Curves and Surfaces, 3-3). Where it is no better than the plane, neither is a cylinder, sphere or cone.
/// </summary>
internal static class SecondOrderSurface
{
    private const int Terms = 6;

    /// <summary>Standard deviation of points from the best such surface, mm; 0 when they do not determine one.</summary>
    /// <param name="points">3·N coordinates with one height each over the plane.</param>
    /// <param name="over">A plane near them.</param>
    public static double Scatter(double[] points, Plane3D over)
    {
        var n = points.Length / 3;
        if (n <= Terms)
        {
            return 0;
        }

        // Lengths are divided by the extent, so that all terms are of one size.
        var centroid = PointSums.Centroid(points);
        var scale = 1 / PointSums.Extent(points, centroid);
        var frame = Frames.Along(centroid, over.Normal).Inverse();
        var (matrix, right, solution) = (new double[Terms, Terms], new double[Terms], new double[Terms]);
        Span<double> row = stackalloc double[Terms];
        double squares = 0;
        for (var i = 0; i < points.Length; i += 3)
        {
            var z = Row(frame.Apply(new(points[i], points[i + 1], points[i + 2])), scale, row);
            squares += z * z;
            for (var r = 0; r < Terms; r++)
            {
                right[r] += row[r] * z;
                for (var c = 0; c <= r; c++)
                {
                    matrix[r, c] += row[r] * row[c];
                }
            }
        }

        for (var r = 0; r < Terms; r++)
        {
            for (var c = 0; c < r; c++)
            {
                matrix[c, r] = matrix[r, c];
            }
        }

        if (!LinearSolve.Cholesky(matrix, right, solution))
        {
            return 0;
        }

        var explained = right.Zip(solution, (b, x) => b * x).Sum();
        return Math.Sqrt(Math.Max(0, squares - explained) / (n - Terms));
    }

    private static double Row(Vector3D local, double scale, Span<double> row)
    {
        var (x, y) = (scale * local.X, scale * local.Y);
        (row[0], row[1], row[2], row[3], row[4], row[5]) = (1, x, y, x * x, x * y, y * y);
        return local.Z;
    }
}
