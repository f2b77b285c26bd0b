using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>JᵀJ, Jᵀd and Σd² over all points, accumulated in fixed chunks and combined in order: the same bits for any thread count.</summary>
internal static class NormalEquations
{
    private const int Chunk = 8192;

    public static (double[,] Matrix, double[] Right, double SumOfSquares) Accumulate<TModel>(double[] points, TModel model)
        where TModel : struct, IShapeModel
    {
        var m = TModel.Count;
        var n = points.Length / 3;
        var chunks = (n + Chunk - 1) / Chunk;
        var width = ((m * (m + 1)) / 2) + m + 1;
        var partial = new double[chunks * width];
        void Work(int chunk)
        {
            Span<double> g = stackalloc double[8];
            var sums = partial.AsSpan(chunk * width, width);
            var inverse = model.Frame.Inverse();
            for (var i = chunk * Chunk; i < Math.Min(n, (chunk + 1) * Chunk); i++)
            {
                var p = inverse.Apply(new(points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]));
                var d = model.Distance(p.X, p.Y, p.Z, g);
                var at = 0;
                for (var r = 0; r < m; r++)
                {
                    for (var c = 0; c <= r; c++)
                    {
                        sums[at++] += g[r] * g[c];
                    }
                }

                for (var r = 0; r < m; r++)
                {
                    sums[at++] += g[r] * d;
                }

                sums[at] += d * d;
            }
        }

        if (chunks > 1)
        {
            Parallel.For(0, chunks, Work);
        }
        else
        {
            Work(0);
        }

        var total = Pairwise(partial, 0, chunks, width);
        var matrix = new double[m, m];
        var right = new double[m];
        var k = 0;
        for (var r = 0; r < m; r++)
        {
            for (var c = 0; c <= r; c++)
            {
                matrix[r, c] = matrix[c, r] = total[k++];
            }
        }

        for (var r = 0; r < m; r++)
        {
            right[r] = total[k++];
        }

        return (matrix, right, total[k]);
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
