namespace Bostel.Core.Meshes;

/// <summary>
/// Which triangles share an edge. <see cref="Neighbours"/> has 3·T entries: the triangle across edge k of triangle t (from corner k to
/// k+1), −1 at a boundary. Where more than two triangles meet, one pair is linked and the edge counts as non-manifold.
/// </summary>
public sealed class MeshTopology
{
    private const int Chunk = 8192;

    private MeshTopology(int[] neighbours, int boundaryEdges, int nonManifoldEdges)
    {
        Neighbours = neighbours;
        BoundaryEdges = boundaryEdges;
        NonManifoldEdges = nonManifoldEdges;
    }

    public int[] Neighbours { get; }
    public int BoundaryEdges { get; }
    public int NonManifoldEdges { get; }

    /// <summary>Builds the adjacency by bucketing half-edges on their smaller vertex: linear time, no hashing.</summary>
    public static MeshTopology Build(TriangleMesh mesh)
    {
        var idx = mesh.Indices;
        var starts = new int[mesh.VertexCount + 1];
        for (var h = 0; h < idx.Length; h++)
        {
            starts[Math.Min(idx[h], idx[Next(h)]) + 1]++;
        }

        for (var v = 0; v < mesh.VertexCount; v++)
        {
            starts[v + 1] += starts[v];
        }

        var bucket = new int[idx.Length];
        var fill = (int[])starts.Clone();
        for (var h = 0; h < idx.Length; h++)
        {
            bucket[fill[Math.Min(idx[h], idx[Next(h)])]++] = h;
        }

        var neighbours = new int[idx.Length];
        Array.Fill(neighbours, -1);
        var nonManifold = 0;

        // Both half-edges of an edge lie in the bucket of its smaller vertex: buckets are independent.
        Parallel.For(0, (mesh.VertexCount + Chunk - 1) / Chunk, chunk =>
        {
            var more = 0;
            for (var v = chunk * Chunk; v < Math.Min(mesh.VertexCount, (chunk + 1) * Chunk); v++)
            {
                more += Match(idx, bucket.AsSpan(starts[v], starts[v + 1] - starts[v]), neighbours);
            }

            Interlocked.Add(ref nonManifold, more);
        });
        return new(neighbours, neighbours.Count(n => n < 0), nonManifold / 3);
    }

    /// <summary>Pairs the half-edges of one bucket; returns how many of them share their edge with more than one other.</summary>
    private static int Match(int[] idx, ReadOnlySpan<int> bucket, int[] neighbours)
    {
        var crowded = 0;
        for (var i = 0; i < bucket.Length; i++)
        {
            var h = bucket[i];
            var high = Math.Max(idx[h], idx[Next(h)]);
            var sharing = 0;
            for (var j = 0; j < bucket.Length; j++)
            {
                var g = bucket[j];
                if (j == i || Math.Max(idx[g], idx[Next(g)]) != high)
                {
                    continue;
                }

                sharing++;
                if (neighbours[h] < 0 && (neighbours[g] < 0 || neighbours[g] == h / 3) && g / 3 != h / 3)
                {
                    neighbours[h] = g / 3;
                    neighbours[g] = h / 3;
                }
            }

            crowded += sharing > 1 ? 1 : 0;
        }

        return crowded;
    }

    /// <summary>The half-edge that follows in the same triangle.</summary>
    public static int Next(int halfEdge) => halfEdge % 3 == 2 ? halfEdge - 2 : halfEdge + 1;

    /// <summary>Labels each triangle with its connected piece, numbered by first appearance. Returns the labels and the count.</summary>
    public (int[] Labels, int Count) Pieces()
    {
        var labels = new int[Neighbours.Length / 3];
        Array.Fill(labels, -1);
        var count = 0;
        var stack = new Stack<int>();
        for (var seed = 0; seed < labels.Length; seed++)
        {
            if (labels[seed] >= 0)
            {
                continue;
            }

            labels[seed] = count;
            stack.Push(seed);
            while (stack.TryPop(out var t))
            {
                for (var k = 0; k < 3; k++)
                {
                    var n = Neighbours[(3 * t) + k];
                    if (n >= 0 && labels[n] < 0)
                    {
                        labels[n] = count;
                        stack.Push(n);
                    }
                }
            }

            count++;
        }

        return (labels, count);
    }
}
