namespace Bostel.Core.Geometry;

/// <summary>Eigenvalues and vectors of a small symmetric matrix by cyclic Jacobi rotations (Golub and Van Loan, 8.5).</summary>
public static class SymmetricEigen
{
    private const int MostSweeps = 60;

    /// <summary>Eigenvalues ascending, and the matching unit eigenvectors of a symmetric 3×3 matrix.</summary>
    public static (double[] Values, Vector3D[] Vectors) Solve3(double xx, double xy, double xz, double yy, double yz, double zz)
    {
        Span<double> a = [xx, xy, xz, xy, yy, yz, xz, yz, zz];
        Span<double> v = stackalloc double[9];
        Diagonalise(a, v, 3);
        Span<int> order = stackalloc int[3];
        Rising(a, order);
        var (values, vectors) = (new double[3], new Vector3D[3]);
        for (var k = 0; k < 3; k++)
        {
            values[k] = a[4 * order[k]];
            vectors[k] = new(v[order[k]], v[3 + order[k]], v[6 + order[k]]);
        }

        return (values, vectors);
    }

    /// <summary>Eigenvalues ascending; column k of the vectors belongs to value k. The input is not changed.</summary>
    public static (double[] Values, double[,] Vectors) Solve(double[,] symmetric)
    {
        var n = symmetric.GetLength(0);
        var a = (double[,])symmetric.Clone();
        var v = new double[n, n];
        Diagonalise(a.AsSpan(), v.AsSpan(), n);
        var order = new int[n];
        Rising(a.AsSpan(), order);
        var (values, sorted) = (new double[n], new double[n, n]);
        for (var k = 0; k < n; k++)
        {
            values[k] = a[order[k], order[k]];
            for (var i = 0; i < n; i++)
            {
                sorted[i, k] = v[i, order[k]];
            }
        }

        return (values, sorted);
    }

    /// <summary>Leaves the eigenvalues on the diagonal of a and the eigenvectors in the columns of v, both n×n row after row.</summary>
    private static void Diagonalise(Span<double> a, Span<double> v, int n)
    {
        v.Clear();
        for (var i = 0; i < n; i++)
        {
            v[(i * n) + i] = 1;
        }

        for (var sweep = 0; sweep < MostSweeps && OffDiagonal(a, n) > 0; sweep++)
        {
            for (var p = 0; p < n - 1; p++)
            {
                for (var q = p + 1; q < n; q++)
                {
                    Rotate(a, v, n, p, q);
                }
            }
        }
    }

    /// <summary>Which diagonal element comes first, second …; equal ones as they stand.</summary>
    private static void Rising(ReadOnlySpan<double> a, Span<int> order)
    {
        var n = order.Length;
        for (var i = 0; i < n; i++)
        {
            var at = i;
            for (; at > 0 && a[order[at - 1] * (n + 1)] > a[i * (n + 1)]; at--)
            {
                order[at] = order[at - 1];
            }

            order[at] = i;
        }
    }

    private static double OffDiagonal(ReadOnlySpan<double> a, int n)
    {
        double sum = 0, diagonal = 0;
        for (var i = 0; i < n; i++)
        {
            var row = a.Slice(i * n, n);
            diagonal += row[i] * row[i];
            for (var j = i + 1; j < n; j++)
            {
                sum += row[j] * row[j];
            }
        }

        return sum > 1e-36 * diagonal ? sum : 0;
    }

    private static void Rotate(Span<double> a, Span<double> v, int n, int p, int q)
    {
        var rowP = a.Slice(p * n, n);
        var rowQ = a.Slice(q * n, n);
        if (rowP[q] == 0)
        {
            return;
        }

        var theta = (rowQ[q] - rowP[p]) / (2 * rowP[q]);
        var t = (theta >= 0 ? 1 : -1) / (Math.Abs(theta) + Math.Sqrt((theta * theta) + 1));
        var c = 1 / Math.Sqrt((t * t) + 1);
        var s = t * c;
        TurnColumns(a, n, p, q, c, s);
        for (var i = 0; i < n; i++)
        {
            (rowP[i], rowQ[i]) = ((c * rowP[i]) - (s * rowQ[i]), (s * rowP[i]) + (c * rowQ[i]));
        }

        TurnColumns(v, n, p, q, c, s);
    }

    private static void TurnColumns(Span<double> a, int n, int p, int q, double c, double s)
    {
        for (var at = 0; at < n * n; at += n)
        {
            (a[at + p], a[at + q]) = ((c * a[at + p]) - (s * a[at + q]), (s * a[at + p]) + (c * a[at + q]));
        }
    }
}
