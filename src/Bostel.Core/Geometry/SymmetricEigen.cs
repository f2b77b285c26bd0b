namespace Bostel.Core.Geometry;

/// <summary>Eigenvalues and vectors of a small symmetric matrix by cyclic Jacobi rotations (Golub and Van Loan, 8.5).</summary>
public static class SymmetricEigen
{
    /// <summary>Eigenvalues ascending, and the matching unit eigenvectors of a symmetric 3×3 matrix.</summary>
    public static (double[] Values, Vector3D[] Vectors) Solve3(double xx, double xy, double xz, double yy, double yz, double zz)
    {
        var (values, vectors) = Solve(new[,] { { xx, xy, xz }, { xy, yy, yz }, { xz, yz, zz } });
        return (values, [.. Enumerable.Range(0, 3).Select(k => new Vector3D(vectors[0, k], vectors[1, k], vectors[2, k]))]);
    }

    /// <summary>Eigenvalues ascending; column k of the vectors belongs to value k. The input is not changed.</summary>
    public static (double[] Values, double[,] Vectors) Solve(double[,] symmetric)
    {
        var n = symmetric.GetLength(0);
        var a = (double[,])symmetric.Clone();
        var v = new double[n, n];
        for (var i = 0; i < n; i++)
        {
            v[i, i] = 1;
        }

        for (var sweep = 0; sweep < 60 && OffDiagonal(a) > 0; sweep++)
        {
            for (var p = 0; p < n - 1; p++)
            {
                for (var q = p + 1; q < n; q++)
                {
                    Rotate(a, v, p, q);
                }
            }
        }

        var order = Enumerable.Range(0, n).OrderBy(i => a[i, i]).ToArray();
        var sorted = new double[n, n];
        for (var k = 0; k < n; k++)
        {
            for (var i = 0; i < n; i++)
            {
                sorted[i, k] = v[i, order[k]];
            }
        }

        return ([.. order.Select(i => a[i, i])], sorted);
    }

    private static double OffDiagonal(double[,] a)
    {
        var n = a.GetLength(0);
        double sum = 0, diagonal = 0;
        for (var i = 0; i < n; i++)
        {
            diagonal += a[i, i] * a[i, i];
            for (var j = i + 1; j < n; j++)
            {
                sum += a[i, j] * a[i, j];
            }
        }

        return sum > 1e-36 * diagonal ? sum : 0;
    }

    private static void Rotate(double[,] a, double[,] v, int p, int q)
    {
        if (a[p, q] == 0)
        {
            return;
        }

        var n = a.GetLength(0);
        var theta = (a[q, q] - a[p, p]) / (2 * a[p, q]);
        var t = (theta >= 0 ? 1 : -1) / (Math.Abs(theta) + Math.Sqrt((theta * theta) + 1));
        var c = 1 / Math.Sqrt((t * t) + 1);
        var s = t * c;
        for (var i = 0; i < n; i++)
        {
            (a[i, p], a[i, q]) = ((c * a[i, p]) - (s * a[i, q]), (s * a[i, p]) + (c * a[i, q]));
        }

        for (var i = 0; i < n; i++)
        {
            (a[p, i], a[q, i]) = ((c * a[p, i]) - (s * a[q, i]), (s * a[p, i]) + (c * a[q, i]));
        }

        for (var i = 0; i < n; i++)
        {
            (v[i, p], v[i, q]) = ((c * v[i, p]) - (s * v[i, q]), (s * v[i, p]) + (c * v[i, q]));
        }
    }
}
