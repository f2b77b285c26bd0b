using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;

namespace Bostel.Core.Fitting;

/// <summary>
/// JᵀWJ, JᵀWd and Σwd² over all points, accumulated in fixed chunks and combined in order: the same bits for any thread count.
/// </summary>
internal static class NormalEquations
{
    /// <summary>Vectors of four points in a block that stays in the nearest cache.</summary>
    private const int Block = 16;

    /// <param name="points">3·N coordinates.</param>
    /// <param name="weights">N weights; null counts every point once.</param>
    /// <param name="model">The shape linearised.</param>
    public static NormalSums Accumulate<TModel>(double[] points, double[]? weights, TModel model)
        where TModel : struct, IShapeModel<TModel>
    {
        var sums = new NormalSums(TModel.Parameters.Length);
        Accumulate(points, weights, model, sums);
        return sums;
    }

    /// <inheritdoc cref="Accumulate{TModel}(double[], double[], TModel)"/>
    /// <param name="sums">Where they are left.</param>
    public static void Accumulate<TModel>(double[] points, double[]? weights, TModel model, NormalSums sums)
        where TModel : struct, IShapeModel<TModel>
    {
        var n = points.Length / 3;
        if (n <= PointBlocks.Chunk)
        {
            Accumulate(points, weights, model, 0, n, sums.All);
            return;
        }

        var width = sums.All.Length;
        var chunks = (n + PointBlocks.Chunk - 1) / PointBlocks.Chunk;
        var partial = new double[chunks * width];
        PointBlocks.ForChunks(n, (chunk, from, to) =>
            Accumulate(points, weights, model, from, to, partial.AsSpan(chunk * width, width)));
        Pairwise(partial, 0, chunks, width).CopyTo(sums.All);
    }

    [SkipLocalsInit]
    private static void Accumulate<TModel>(double[] points, double[]? weights, TModel model, int from, int to, Span<double> total)
        where TModel : struct, IShapeModel<TModel>
    {
        // Columns of J and, last, d; each a block of points long. The same weighted.
        var m = TModel.Parameters.Length;
        Span<Vector256<double>> columns = stackalloc Vector256<double>[(m + 1) * Block];
        Span<Vector256<double>> weighted = stackalloc Vector256<double>[(m + 1) * Block];
        Span<Vector256<double>> sums = stackalloc Vector256<double>[total.Length];
        sums.Clear();
        for (var i = from; i < to; i += 4 * Block)
        {
            Fill(points, weights, model, i, to, columns, weighted);
            var at = 0;
            for (var r = 0; r <= m; r++)
            {
                for (var c = 0; c <= r; c++)
                {
                    sums[at] = Dot(sums[at], weighted.Slice(r * Block, Block), columns.Slice(c * Block, Block));
                    at++;
                }
            }
        }

        for (var k = 0; k < total.Length; k++)
        {
            total[k] = Vector256.Sum(sums[k]);
        }
    }

    private static void Fill<TModel>(double[] points, double[]? weights, TModel model, int from, int end, Span<Vector256<double>> columns,
        Span<Vector256<double>> weighted)
        where TModel : struct, IShapeModel<TModel>
    {
        var m = TModel.Parameters.Length;
        Span<Vector256<double>> g = stackalloc Vector256<double>[8];
        var blocks = new PointBlocks(model.Frame);
        for (var k = 0; k < Block; k++)
        {
            var i = from + (4 * k);
            if (i >= end)
            {
                for (var r = 0; r <= m; r++)
                {
                    columns[(r * Block) + k] = weighted[(r * Block) + k] = Vector256<double>.Zero;
                }

                continue;
            }

            blocks.Load(points, i, end, out var x, out var y, out var z);
            g[m] = model.Distance(x, y, z, g);
            var w = Weights(weights, i, end);
            for (var r = 0; r <= m; r++)
            {
                columns[(r * Block) + k] = g[r];
                weighted[(r * Block) + k] = g[r] * w;
            }
        }
    }

    private static Vector256<double> Dot(Vector256<double> sum, ReadOnlySpan<Vector256<double>> a, ReadOnlySpan<Vector256<double>> b)
    {
        for (var k = 0; k < a.Length && k < b.Length; k++)
        {
            sum = Vector256.FusedMultiplyAdd(a[k], b[k], sum);
        }

        return sum;
    }

    /// <summary>Weights of four points; past the end zero.</summary>
    private static Vector256<double> Weights(double[]? weights, int i, int end)
    {
        double W(int k) => i + k >= end ? 0 : weights is null ? 1 : weights[i + k];
        return weights is null && i + 4 <= end ? Vector256<double>.One : Vector256.Create(W(0), W(1), W(2), W(3));
    }

    private static double[] Pairwise(double[] partial, int from, int to, int width)
    {
        if (to - from == 1)
        {
            return partial.AsSpan(from * width, width).ToArray();
        }

        var middle = (from + to) / 2;
        var left = Pairwise(partial, from, middle, width);
        var right = Pairwise(partial, middle, to, width);
        for (var i = 0; i < width; i++)
        {
            left[i] += right[i];
        }

        return left;
    }
}
