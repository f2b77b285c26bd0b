using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>A hole that was closed.</summary>
/// <param name="Diameter">Of the hole, mm.</param>
/// <param name="Center">Of its border.</param>
/// <param name="Triangles">In the patch.</param>
/// <param name="Area">Of the patch, mm².</param>
public sealed record FilledHole(double Diameter, Vector3D Center, int Triangles, double Area);

/// <summary>Closes holes with patches. A patch is a guess, not a measurement: it is appended behind what was measured.</summary>
public static class HoleFilling
{
    /// <summary>A loop of more border edges than this is an outer border, not a hole that can be guessed.</summary>
    private const int LongestLoop = 20_000;

    /// <summary>
    /// Spans each loop (Liepa 2003), refines the span to the density around it and, when curved, bends it as a thin plate carrying on the
    /// curvature of its surroundings; flat leaves the least-area span as it is. Loops are independent and done in parallel; the result does
    /// not depend on it.
    /// </summary>
    /// <param name="mesh">Any mesh; its own vertices are not moved.</param>
    /// <param name="wanted">Which loops to close.</param>
    /// <param name="curved">Follow the curvature.</param>
    /// <param name="bordersToo">Also close loops that look like the outer border of a sheet: where the loop is known to be a cut.</param>
    public static (TriangleMesh Mesh, IReadOnlyList<FilledHole> Filled) Fill(
        TriangleMesh mesh, Func<BoundaryLoop, bool> wanted, bool curved, bool bordersToo = false, CancellationToken cancel = default)
    {
        var rings = mesh.Rings;
        var outer = bordersToo ? _ => false : OuterBorders(mesh, rings);
        var loops = BoundaryLoops.Find(mesh).Where(l => l.Vertices.Length <= LongestLoop && !outer(l) && wanted(l)).ToList();
        if (loops.Count == 0)
        {
            return (mesh, []);
        }

        var patches = new Patch[loops.Count];
        Parallel.For(
            0, loops.Count, new ParallelOptions { CancellationToken = cancel }, i => patches[i] = Close(mesh, rings, loops[i], curved));
        var filled = new FilledHole[loops.Count];
        for (var i = 0; i < filled.Length; i++)
        {
            filled[i] = new(loops[i].Diameter, loops[i].Center, patches[i].Triangles.Count, patches[i].Area());
        }

        return (Append(mesh, loops, patches), filled);
    }

    /// <summary>
    /// The border of a small flat piece is not a hole: closing it would lay a second sheet over the first. Told by a piece whose own area
    /// is below twice that of a disc over the loop.
    /// </summary>
    private static Func<BoundaryLoop, bool> OuterBorders(TriangleMesh mesh, VertexRings rings)
    {
        var (labels, count) = mesh.Topology.Pieces();
        var areas = new double[count];
        for (var t = 0; t < labels.Length; t++)
        {
            areas[labels[t]] += mesh.TriangleArea(t);
        }

        return loop => areas[labels[rings.Of(loop.Vertices[0])[0] / 3]] < Math.PI / 2 * loop.Diameter * loop.Diameter;
    }

    private sealed record Patch(List<Vector3D> Points, List<(int A, int B, int C)> Triangles)
    {
        public double Area() => Triangles.Sum(t => 0.5 * (Points[t.B] - Points[t.A]).Cross(Points[t.C] - Points[t.A]).Length);
    }

    private static Patch Close(TriangleMesh mesh, VertexRings rings, BoundaryLoop loop, bool curved)
    {
        var n = loop.Vertices.Length;
        var points = loop.Vertices.Select(mesh.Vertex).ToList();
        var outside = new Vector3D[n];
        var scale = new List<double>(n);
        for (var i = 0; i < n; i++)
        {
            outside[i] = OutsideNormal(mesh, rings, loop.Vertices[i], loop.Vertices[(i + 1) % n]);
            scale.Add(MeanEdgeAt(mesh, rings, loop.Vertices[i]));
        }

        var triangles = PatchTriangulation.Span(points, outside);
        PatchRefinement.Refine(points, scale, triangles, mostPoints: 40 * n);
        if (curved && points.Count > n)
        {
            Bend(mesh, rings, loop, points, triangles);
        }

        return new(points, triangles);
    }

    private static void Bend(
        TriangleMesh mesh, VertexRings rings, BoundaryLoop loop, List<Vector3D> points, List<(int A, int B, int C)> triangles)
    {
        var local = new Dictionary<int, int>();
        for (var i = 0; i < loop.Vertices.Length; i++)
        {
            local[loop.Vertices[i]] = i;
        }

        var all = new List<Vector3D>(points);
        int Local(int v)
        {
            if (!local.TryGetValue(v, out var at))
            {
                at = local[v] = all.Count;
                all.Add(mesh.Vertex(v));
            }

            return at;
        }

        var around = loop.Vertices.SelectMany(v => rings.Of(v).ToArray()).Select(corner => corner / 3).Distinct();
        List<(int, int, int)> surface =
            [.. triangles,
                .. around.Select(t => (Local(mesh.Indices[3 * t]), Local(mesh.Indices[(3 * t) + 1]), Local(mesh.Indices[(3 * t) + 2])))];
        var moved = all.ToArray();
        PatchFairing.Fair(moved, surface, [.. moved.Select((_, i) => i < points.Count)],
            [.. moved.Select((_, i) => i >= loop.Vertices.Length && i < points.Count)]);
        for (var i = loop.Vertices.Length; i < points.Count; i++)
        {
            points[i] = moved[i];
        }
    }

    private static Vector3D OutsideNormal(TriangleMesh mesh, VertexRings rings, int from, int to)
    {
        foreach (var corner in rings.Of(to))
        {
            if (mesh.Indices[MeshTopology.Next(corner)] == from)
            {
                var (a, b, c) = mesh.Triangle(corner / 3);
                return (b - a).Cross(c - a);
            }
        }

        return Vector3D.Zero;
    }

    private static double MeanEdgeAt(TriangleMesh mesh, VertexRings rings, int vertex)
    {
        double sum = 0;
        var corners = rings.Of(vertex);
        foreach (var corner in corners)
        {
            sum += Vector3D.Distance(mesh.Vertex(vertex), mesh.Vertex(mesh.Indices[MeshTopology.Next(corner)]));
            sum += Vector3D.Distance(mesh.Vertex(vertex), mesh.Vertex(mesh.Indices[MeshTopology.Next(MeshTopology.Next(corner))]));
        }

        return sum / Math.Max(1, 2 * corners.Length);
    }

    private static TriangleMesh Append(TriangleMesh mesh, IReadOnlyList<BoundaryLoop> loops, IReadOnlyList<Patch> patches)
    {
        var coordinates = new List<double>(mesh.Coordinates);
        var indices = new List<int>(mesh.Indices);
        for (var p = 0; p < patches.Count; p++)
        {
            var (loop, first) = (loops[p].Vertices, coordinates.Count / 3);
            foreach (var point in patches[p].Points.Skip(loop.Length))
            {
                coordinates.AddRange([point.X, point.Y, point.Z]);
            }

            int Of(int local) => local < loop.Length ? loop[local] : first + local - loop.Length;
            foreach (var (a, b, c) in patches[p].Triangles)
            {
                indices.AddRange([Of(a), Of(b), Of(c)]);
            }
        }

        return new([.. coordinates], [.. indices], mesh.MeasuredVertexCount, mesh.MeasuredTriangleCount);
    }
}
