namespace Bostel.Core.Geometry;

/// <summary>Small dense systems: Cholesky for normal equations, Gauss–Jordan for the rest.</summary>
public static class LinearSolve
{
    /// <summary>
    /// Solves A x = b for a symmetric positive definite A (n×n). Returns false when A is not positive definite to working precision.
    /// </summary>
    public static bool Cholesky(double[,] a, double[] b, double[] x)
    {
        b.AsSpan().CopyTo(x);
        return Cholesky(((double[,])a.Clone()).AsSpan(), x.AsSpan(0, b.Length));
    }

    /// <summary>The same in place, without memory of its own.</summary>
    /// <param name="a">A, n×n row after row; L in its lower triangle afterwards.</param>
    /// <param name="x">b, and x afterwards.</param>
    public static bool Cholesky(Span<double> a, Span<double> x)
    {
        if (!Factor(a, x.Length))
        {
            return false;
        }

        ForwardSubstitute(a, x);
        BackSubstitute(a, x);
        return true;
    }

    /// <summary>Solves L x = b for a lower triangular L, in place of b.</summary>
    private static void ForwardSubstitute(ReadOnlySpan<double> l, Span<double> x)
    {
        for (var i = 0; i < x.Length; i++)
        {
            var row = l.Slice(i * x.Length, i + 1);
            var sum = x[i];
            for (var k = 0; k < i; k++)
            {
                sum -= row[k] * x[k];
            }

            x[i] = sum / row[i];
        }
    }

    /// <summary>Solves Lᵀ x = b for a lower triangular L, in place of b.</summary>
    public static void BackSubstitute(double[,] l, double[] x) => BackSubstitute(l.AsSpan(), x);

    private static void BackSubstitute(ReadOnlySpan<double> l, Span<double> x)
    {
        var n = x.Length;
        for (var i = n - 1; i >= 0; i--)
        {
            var sum = x[i];
            for (var k = i + 1; k < n; k++)
            {
                sum -= l[(k * n) + i] * x[k];
            }

            x[i] = sum / l[(i * n) + i];
        }
    }

    /// <summary>The lower triangular L with L Lᵀ = A; null when A is not positive definite to working precision.</summary>
    public static double[,]? CholeskyFactor(double[,] a)
    {
        var l = (double[,])a.Clone();
        if (!Factor(l.AsSpan(), l.GetLength(0)))
        {
            return null;
        }

        for (var i = 0; i < l.GetLength(0); i++)
        {
            l.AsSpan().Slice(i * l.GetLength(0), l.GetLength(0))[(i + 1)..].Clear();
        }

        return l;
    }

    /// <summary>L in place of the lower triangle of A.</summary>
    private static bool Factor(Span<double> a, int n)
    {
        for (var i = 0; i < n; i++)
        {
            var row = a.Slice(i * n, n);
            for (var j = 0; j <= i; j++)
            {
                var above = a.Slice(j * n, n);
                var sum = row[j];
                for (var k = 0; k < j; k++)
                {
                    sum -= row[k] * above[k];
                }

                if (i != j)
                {
                    row[j] = sum / above[j];
                    continue;
                }

                if (!(sum > 1e-15 * Math.Abs(row[i])))
                {
                    return false;
                }

                row[i] = Math.Sqrt(sum);
            }
        }

        return true;
    }

    /// <summary>Solves a general system with partial pivoting; null when a pivot vanishes.</summary>
    public static double[]? Gauss(double[,] matrix, double[] right)
    {
        var x = (double[])right.Clone();
        return Gauss(((double[,])matrix.Clone()).AsSpan(), x) ? x : null;
    }

    /// <summary>The same in place, without memory of its own.</summary>
    /// <param name="a">The matrix, n×n row after row; destroyed.</param>
    /// <param name="b">The right side, and the solution afterwards.</param>
    public static bool Gauss(Span<double> a, Span<double> b)
    {
        var n = b.Length;
        for (var col = 0; col < n; col++)
        {
            var pivot = col;
            for (var row = col + 1; row < n; row++)
            {
                if (Math.Abs(a[(row * n) + col]) > Math.Abs(a[(pivot * n) + col]))
                {
                    pivot = row;
                }
            }

            if (Math.Abs(a[(pivot * n) + col]) < 1e-300)
            {
                return false;
            }

            var from = a.Slice(col * n, n);
            if (pivot != col)
            {
                var to = a.Slice(pivot * n, n);
                for (var k = 0; k < n; k++)
                {
                    (from[k], to[k]) = (to[k], from[k]);
                }

                (b[col], b[pivot]) = (b[pivot], b[col]);
            }

            for (var row = col + 1; row < n; row++)
            {
                var below = a.Slice(row * n, n);
                var f = below[col] / from[col];
                for (var k = col; k < n; k++)
                {
                    below[k] -= f * from[k];
                }

                b[row] -= f * b[col];
            }
        }

        for (var row = n - 1; row >= 0; row--)
        {
            for (var k = row + 1; k < n; k++)
            {
                b[row] -= a[(row * n) + k] * b[k];
            }

            b[row] /= a[(row * n) + row];
        }

        return true;
    }

    /// <summary>Inverse of a symmetric positive definite matrix; null when singular.</summary>
    public static double[,]? Inverse(double[,] a) => CholeskyFactor(a) is { } l ? InverseOf(l) : null;

    /// <summary>(L Lᵀ)⁻¹ of a lower triangular L.</summary>
    public static double[,] InverseOf(double[,] l)
    {
        var n = l.GetLength(0);
        var inverse = new double[n, n];
        var x = new double[n];
        for (var c = 0; c < n; c++)
        {
            Array.Clear(x);
            x[c] = 1;
            ForwardSubstitute(l.AsSpan(), x);
            BackSubstitute(l, x);
            for (var r = 0; r < n; r++)
            {
                inverse[r, c] = x[r];
            }
        }

        return inverse;
    }
}
