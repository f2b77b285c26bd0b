using Bostel.Core.Geometry;

namespace Bostel.Core.Comparison;

/// <summary>What small symmetric systems are worked out with.</summary>
internal static class SmallSystems
{
    /// <summary>Of a symmetric matrix whose columns may tell nearly the same: each is scaled to 1, and a little is added to all.</summary>
    public static double[,] Inverse(double[,] matrix) => InverseAndLogDeterminant(matrix).Inverse;

    /// <summary>The same, and the logarithm of the matrix's determinant.</summary>
    public static (double[,] Inverse, double LogDeterminant) InverseAndLogDeterminant(double[,] matrix)
    {
        const double Little = 1e-10;
        var n = matrix.GetLength(0);
        var scale = Enumerable.Range(0, n).Select(k => 1 / Math.Sqrt(Math.Max(1e-300, matrix[k, k]))).ToArray();
        var scaled = new double[n, n];
        for (var r = 0; r < n; r++)
        {
            for (var c = 0; c < n; c++)
            {
                scaled[r, c] = (scale[r] * matrix[r, c] * scale[c]) + (r == c ? Little : 0);
            }
        }

        var factor = LinearSolve.CholeskyFactor(scaled) ?? throw new InvalidOperationException("What is added makes it positive definite.");
        var inverse = LinearSolve.InverseOf(factor);
        double logDeterminant = 0;
        for (var r = 0; r < n; r++)
        {
            logDeterminant += 2 * Math.Log(factor[r, r] / scale[r]);
            for (var c = 0; c < n; c++)
            {
                inverse[r, c] *= scale[r] * scale[c];
            }
        }

        return (inverse, logDeterminant);
    }

    public static double[] Times(double[,] matrix, double[] vector)
    {
        var product = new double[matrix.GetLength(0)];
        for (var r = 0; r < product.Length; r++)
        {
            for (var c = 0; c < vector.Length; c++)
            {
                product[r] += matrix[r, c] * vector[c];
            }
        }

        return product;
    }

    public static double Dot(ReadOnlySpan<double> a, ReadOnlySpan<double> b)
    {
        double sum = 0;
        for (var k = 0; k < a.Length; k++)
        {
            sum += a[k] * b[k];
        }

        return sum;
    }

    public static double[,] Block(double[,] matrix, int from, int count)
    {
        var block = new double[count, count];
        for (var r = 0; r < count; r++)
        {
            for (var c = 0; c < count; c++)
            {
                block[r, c] = matrix[from + r, from + c];
            }
        }

        return block;
    }
}
