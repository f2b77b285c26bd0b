namespace Bostel.Core.Meshes;

/// <summary>A coarse stand-in for showing a large mesh while it moves. Not for measuring.</summary>
public static class CoarseLevel
{
    /// <summary>
    /// Vertex clustering (Rossignac and Borrel 1993): vertices in one cell of a grid become the first of them, triangles that keep three
    /// different corners remain. The cell is chosen so that about the wanted number remain; vertices are those of the mesh, so one buffer
    /// serves both levels.
    /// </summary>
    /// <returns>Indices, three a triangle.</returns>
    public static int[] Of(TriangleMesh mesh, int triangles)
    {
        // About two triangles a vertex, and one vertex a cell the surface passes through.
        var cell = Math.Sqrt(2 * mesh.Area() / Math.Max(1, triangles));
        for (var attempt = 0; ; attempt++)
        {
            var coarse = Cluster(mesh, cell);
            if (coarse.Length / 3 <= 1.3 * triangles || attempt == 3)
            {
                return coarse;
            }

            cell *= Math.Sqrt(coarse.Length / 3.0 / triangles);
        }
    }

    private static int[] Cluster(TriangleMesh mesh, double cell)
    {
        var low = mesh.Bounds.Min;
        var first = new Dictionary<(int, int, int), int>();
        var representative = new int[mesh.VertexCount];
        for (var v = 0; v < representative.Length; v++)
        {
            var p = mesh.Vertex(v) - low;
            var key = ((int)(p.X / cell), (int)(p.Y / cell), (int)(p.Z / cell));
            if (!first.TryGetValue(key, out representative[v]))
            {
                first[key] = representative[v] = v;
            }
        }

        var kept = new List<int>();
        var seen = new HashSet<(int, int, int)>();
        for (var i = 0; i < 3 * mesh.MeasuredTriangleCount; i += 3)
        {
            var (a, b, c) = (representative[mesh.Indices[i]], representative[mesh.Indices[i + 1]], representative[mesh.Indices[i + 2]]);
            if (a == b || b == c || a == c)
            {
                continue;
            }

            // The same three cells are often met by several triangles.
            var key = a < b && a < c ? (a, b, c) : b < c ? (b, c, a) : (c, a, b);
            if (seen.Add(key))
            {
                kept.AddRange([a, b, c]);
            }
        }

        return [.. kept];
    }
}
