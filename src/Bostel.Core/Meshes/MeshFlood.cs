namespace Bostel.Core.Meshes;

/// <summary>Where a flood may go. A struct, so that the flood is compiled with it: large regions ask millions of times.</summary>
public interface IFloodRule
{
    bool Passes(int from, int to);
}

/// <summary>
/// Spreads over the triangles of a mesh from a seed, breadth first. One flood may be used again and again; its cost is that of what it
/// reaches.
/// </summary>
public sealed class MeshFlood(TriangleMesh mesh)
{
    private readonly int[] _neighbours = mesh.Topology.Neighbours;

    /// <summary>Of each triangle the flood that reached it last, in a byte: the whole of a large mesh stays near the processor.</summary>
    private readonly byte[] _stamps = new byte[mesh.TriangleCount];
    private int[] _queue = new int[Math.Min(mesh.TriangleCount, 4096)];
    private byte _stamp;

    /// <summary>Triangles reached over edges that pass, the seed first; hardly more than so many. Valid until the next call.</summary>
    /// <param name="passes">Whether to go from a triangle to its neighbour.</param>
    public ReadOnlySpan<int> Spread(int seed, int most, Func<int, int, bool> passes) => Spread(seed, most, new Rule(passes));

    /// <inheritdoc cref="Spread(int, int, Func{int, int, bool})"/>
    public ReadOnlySpan<int> Spread<TRule>(int seed, int most, TRule rule)
        where TRule : struct, IFloodRule
    {
        if (++_stamp == 0)
        {
            Array.Clear(_stamps);
            _stamp = 1;
        }

        _stamps[seed] = _stamp;
        _queue[0] = seed;
        var count = 1;
        for (var at = 0; at < count && count < most; at++)
        {
            var t = _queue[at];
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                var n = _neighbours[h];
                if (n < 0 || _stamps[n] == _stamp || !rule.Passes(t, n))
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

    private readonly struct Rule(Func<int, int, bool> passes) : IFloodRule
    {
        public bool Passes(int from, int to) => passes(from, to);
    }
}
