namespace Bostel.Core.Geometry;

/// <summary>Small dense systems: Cholesky for normal equations, Gauss–Jordan for the rest.</summary>
public static class LinearSolve
{
    /// <summary>
    /// Solves A x = b for a symmetric positive definite A (n×n). Returns false when A is not positive definite to working precision.
    /// </summary>
    public static bool Cholesky(double[,] a, double[] b, double[] x)
    {
        var n = b.Length;
        if (CholeskyFactor(a) is not { } l)
        {
            return false;
        }

        b.AsSpan(0, n).CopyTo(x);
        ForwardSubstitute(l, x);
        BackSubstitute(l, x);
        return true;
    }

    /// <summary>Solves L x = b for a lower triangular L, in place of b.</summary>
    private static void ForwardSubstitute(double[,] l, double[] x)
    {
        for (var i = 0; i < x.Length; i++)
        {
            var sum = x[i];
            for (var k = 0; k < i; k++)
            {
                sum -= l[i, k] * x[k];
            }

            x[i] = sum / l[i, i];
        }
    }

    /// <summary>Solves Lᵀ x = b for a lower triangular L, in place of b.</summary>
    public static void BackSubstitute(double[,] l, double[] x)
    {
        for (var i = x.Length - 1; i >= 0; i--)
        {
            var sum = x[i];
            for (var k = i + 1; k < x.Length; k++)
            {
                sum -= l[k, i] * x[k];
            }

            x[i] = sum / l[i, i];
        }
    }

    /// <summary>The lower triangular L with L Lᵀ = A; null when A is not positive definite to working precision.</summary>
    public static double[,]? CholeskyFactor(double[,] a)
    {
        var n = a.GetLength(0);
        var l = new double[n, n];
        for (var i = 0; i < n; i++)
        {
            for (var j = 0; j <= i; j++)
            {
                var sum = a[i, j];
                for (var k = 0; k < j; k++)
                {
                    sum -= l[i, k] * l[j, k];
                }

                if (i == j)
                {
                    if (!(sum > 1e-15 * Math.Abs(a[i, i])))
                    {
                        return null;
                    }

                    l[i, i] = Math.Sqrt(sum);
                }
                else
                {
                    l[i, j] = sum / l[j, j];
                }
            }
        }

        return l;
    }

    /// <summary>Solves a general system with partial pivoting; null when a pivot vanishes.</summary>
    public static double[]? Gauss(double[,] matrix, double[] right)
    {
        var n = right.Length;
        var a = (double[,])matrix.Clone();
        var b = (double[])right.Clone();
        for (var col = 0; col < n; col++)
        {
            var pivot = col;
            for (var row = col + 1; row < n; row++)
            {
                if (Math.Abs(a[row, col]) > Math.Abs(a[pivot, col]))
                {
                    pivot = row;
                }
            }

            if (Math.Abs(a[pivot, col]) < 1e-300)
            {
                return null;
            }

            if (pivot != col)
            {
                for (var k = 0; k < n; k++)
                {
                    (a[col, k], a[pivot, k]) = (a[pivot, k], a[col, k]);
                }

                (b[col], b[pivot]) = (b[pivot], b[col]);
            }

            for (var row = col + 1; row < n; row++)
            {
                var f = a[row, col] / a[col, col];
                for (var k = col; k < n; k++)
                {
                    a[row, k] -= f * a[col, k];
                }

                b[row] -= f * b[col];
            }
        }

        for (var row = n - 1; row >= 0; row--)
        {
            for (var k = row + 1; k < n; k++)
            {
                b[row] -= a[row, k] * b[k];
            }

            b[row] /= a[row, row];
        }

        return b;
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
            ForwardSubstitute(l, x);
            BackSubstitute(l, x);
            for (var r = 0; r < n; r++)
            {
                inverse[r, c] = x[r];
            }
        }

        return inverse;
    }
}
