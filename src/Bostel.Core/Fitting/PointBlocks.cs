using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Takes points four at a time into a local frame: Rᵀ(p − t), so that nothing is lost far from the origin.</summary>
internal readonly struct PointBlocks(RigidTransform frame)
{
    private readonly Vector256<double> _tx = Vector256.Create(frame.Translation.X), _ty = Vector256.Create(frame.Translation.Y),
        _tz = Vector256.Create(frame.Translation.Z);
    private readonly Vector256<double> _r00 = Vector256.Create(frame.R00), _r01 = Vector256.Create(frame.R01),
        _r02 = Vector256.Create(frame.R02);
    private readonly Vector256<double> _r10 = Vector256.Create(frame.R10), _r11 = Vector256.Create(frame.R11),
        _r12 = Vector256.Create(frame.R12);
    private readonly Vector256<double> _r20 = Vector256.Create(frame.R20), _r21 = Vector256.Create(frame.R21),
        _r22 = Vector256.Create(frame.R22);

    /// <summary>Fixed sizes of parallel chunks, a multiple of four: the same bits for any thread count.</summary>
    public const int Chunk = 8192;

    /// <summary>Points i to i + 3; past the end the last point is repeated.</summary>
    public void Load(double[] points, int i, int end, out Vector256<double> x, out Vector256<double> y, out Vector256<double> z)
    {
        var (a, b, c, d) = i + 4 <= end
            ? (3 * i, (3 * i) + 3, (3 * i) + 6, (3 * i) + 9)
            : (3 * i, 3 * Math.Min(i + 1, end - 1), 3 * Math.Min(i + 2, end - 1), 3 * (end - 1));
        var dx = Vector256.Create(points[a], points[b], points[c], points[d]) - _tx;
        var dy = Vector256.Create(points[a + 1], points[b + 1], points[c + 1], points[d + 1]) - _ty;
        var dz = Vector256.Create(points[a + 2], points[b + 2], points[c + 2], points[d + 2]) - _tz;
        x = (_r00 * dx) + (_r10 * dy) + (_r20 * dz);
        y = (_r01 * dx) + (_r11 * dy) + (_r21 * dz);
        z = (_r02 * dx) + (_r12 * dy) + (_r22 * dz);
    }

    /// <summary>Runs a body over fixed chunks of n items, in parallel when there are several.</summary>
    public static void ForChunks(int n, Action<int, int, int> body)
    {
        var chunks = (n + Chunk - 1) / Chunk;
        if (chunks > 1)
        {
            Parallel.For(0, chunks, c => body(c, c * Chunk, Math.Min(n, (c + 1) * Chunk)));
        }
        else if (n > 0)
        {
            body(0, 0, n);
        }
    }

    /// <summary>Signed distances of all points from a model.</summary>
    public static double[] Distances<TModel>(double[] points, TModel model)
        where TModel : struct, IShapeModel<TModel>
    {
        var n = points.Length / 3;
        var distances = new double[n];
        ForChunks(n, (_, from, to) =>
        {
            Span<Vector256<double>> g = stackalloc Vector256<double>[8];
            var blocks = new PointBlocks(model.Frame);
            for (var i = from; i < to; i += 4)
            {
                blocks.Load(points, i, to, out var x, out var y, out var z);
                var d = model.Distance(x, y, z, g);
                if (i + 4 <= to)
                {
                    d.CopyTo(distances, i);
                    continue;
                }

                for (var k = 0; k < to - i; k++)
                {
                    distances[i + k] = d[k];
                }
            }
        });
        return distances;
    }
}
