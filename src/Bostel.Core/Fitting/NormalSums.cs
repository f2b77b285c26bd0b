namespace Bostel.Core.Fitting;

/// <summary>JᵀWJ (its lower triangle), JᵀWd and Σwd² of one model, in memory that serves one step of a fit after the other.</summary>
internal sealed class NormalSums(int parameters)
{
    private readonly double[] _all = new double[(parameters + 1) * (parameters + 2) / 2];

    /// <summary>The lower triangle row after row, then the right side, then the sum of squares.</summary>
    public Span<double> All => _all;

    public ReadOnlySpan<double> Right => _all.AsSpan(_all.Length - 1 - parameters, parameters);

    public double SumOfSquares => _all[^1];

    /// <summary>JᵀWJ whole.</summary>
    public double[,] Matrix()
    {
        var matrix = new double[parameters, parameters];
        for (var r = 0; r < parameters; r++)
        {
            for (var c = 0; c <= r; c++)
            {
                matrix[r, c] = matrix[c, r] = At(r, c);
            }
        }

        return matrix;
    }

    /// <summary>An element of JᵀWJ with c ≤ r.</summary>
    public double At(int r, int c) => _all[(r * (r + 1) / 2) + c];
}
