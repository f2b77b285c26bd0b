using Bostel.Core.Geometry;

namespace Bostel.Core.Meshes;

/// <summary>
/// One closed run of border edges: a hole, or the outer border of an open scan. <see cref="Vertices"/> go round in the sense in which a
/// patch that closes the loop has to, so that it is oriented like its surroundings.
/// </summary>
/// <param name="Vertices">Vertex numbers, each once.</param>
/// <param name="Perimeter">mm.</param>
/// <param name="Diameter">Greatest extent of the loop, mm: twice the largest distance from its centre.</param>
/// <param name="Center">Mean of the vertices.</param>
public sealed record BoundaryLoop(int[] Vertices, double Perimeter, double Diameter, Vector3D Center);

/// <summary>Finds the closed border loops of a mesh.</summary>
public static class BoundaryLoops
{
    /// <summary>All loops, largest first. Loops that touch in a vertex are kept apart.</summary>
    public static IReadOnlyList<BoundaryLoop> Find(TriangleMesh mesh)
    {
        var topology = mesh.Topology;
        var used = new bool[mesh.Indices.Length];
        var loops = new List<BoundaryLoop>();
        for (var h = 0; h < used.Length; h++)
        {
            if (topology.Neighbours[h] < 0 && !used[h])
            {
                loops.AddRange(Walk(mesh, topology, h, used));
            }
        }

        return [.. loops.OrderByDescending(l => l.Diameter).ThenBy(l => l.Vertices.Min())];
    }

    /// <summary>Follows a border round. Where it comes back to a vertex it has passed, what lies between is a loop of its own.</summary>
    private static IEnumerable<BoundaryLoop> Walk(TriangleMesh mesh, MeshTopology topology, int first, bool[] used)
    {
        var path = new List<int>();
        var place = new Dictionary<int, int>();
        for (var h = first; h >= 0 && !used[h]; h = Following(mesh.Indices, topology.Neighbours, h))
        {
            used[h] = true;
            place[mesh.Indices[h]] = path.Count;
            path.Add(mesh.Indices[h]);
            if (place.TryGetValue(mesh.Indices[MeshTopology.Next(h)], out var start))
            {
                var loop = path[start..];
                path.RemoveRange(start, path.Count - start);
                loop.ForEach(v => place.Remove(v));
                if (loop.Count >= 3)
                {
                    loop.Reverse();
                    yield return Measure(mesh, [.. loop]);
                }
            }
        }
    }

    /// <summary>
    /// The border edge that leaves the end of a border edge, found by turning about that vertex; −1 where the triangles disagree in
    /// sense.
    /// </summary>
    private static int Following(int[] indices, int[] neighbours, int border)
    {
        var h = MeshTopology.Next(border);
        var pivot = indices[h];
        for (var turn = 0; turn < 10_000; turn++)
        {
            var across = neighbours[h];
            if (across < 0)
            {
                return h;
            }

            // The shared edge runs the other way in the neighbour, so it ends at the pivot there.
            var to = indices[MeshTopology.Next(h)];
            var g = Enumerable.Range(3 * across, 3).FirstOrDefault(e => indices[e] == to && indices[MeshTopology.Next(e)] == pivot, -1);
            if (g < 0)
            {
                return -1;
            }

            h = MeshTopology.Next(g);
        }

        return -1;
    }

    private static BoundaryLoop Measure(TriangleMesh mesh, int[] vertices)
    {
        var center = vertices.Aggregate(Vector3D.Zero, (sum, v) => sum + mesh.Vertex(v)) / vertices.Length;
        double perimeter = 0, reach = 0;
        for (var i = 0; i < vertices.Length; i++)
        {
            var p = mesh.Vertex(vertices[i]);
            perimeter += Vector3D.Distance(p, mesh.Vertex(vertices[(i + 1) % vertices.Length]));
            reach = Math.Max(reach, Vector3D.Distance(p, center));
        }

        return new(vertices, perimeter, 2 * reach, center);
    }
}
