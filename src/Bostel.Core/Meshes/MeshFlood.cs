namespace Bostel.Core.Meshes;

/// <summary>Spreads over the triangles of a mesh from a seed, breadth first. One flood may be used again and again; its cost is that of what it reaches.</summary>
public sealed class MeshFlood(TriangleMesh mesh)
{
    private readonly int[] _neighbours = mesh.Topology.Neighbours;
    private readonly int[] _stamps = new int[mesh.TriangleCount];
    private int[] _queue = new int[Math.Min(mesh.TriangleCount, 4096)];
    private int _stamp;

    /// <summary>Triangles reached over edges that pass, the seed first; at most so many. Valid until the next call.</summary>
    /// <param name="passes">Whether to go from a triangle to its neighbour.</param>
    public ReadOnlySpan<int> Spread(int seed, int most, Func<int, int, bool> passes)
    {
        _stamp++;
        _stamps[seed] = _stamp;
        _queue[0] = seed;
        var count = 1;
        for (var at = 0; at < count && count < most; at++)
        {
            var t = _queue[at];
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                var n = _neighbours[h];
                if (n < 0 || _stamps[n] == _stamp || !passes(t, n))
                {
                    continue;
                }

                _stamps[n] = _stamp;
                if (count == _queue.Length)
                {
                    Array.Resize(ref _queue, Math.Min(mesh.TriangleCount, 2 * count));
                }

                _queue[count++] = n;
            }
        }

        return _queue.AsSpan(0, count);
    }
}
