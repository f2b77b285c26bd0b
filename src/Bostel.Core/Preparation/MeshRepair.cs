using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>Repairs of connectivity and sense that move no point.</summary>
public static class MeshRepair
{
    /// <summary>Triangles without area, and all but one of those over the same three vertices.</summary>
    public static bool[] Useless(TriangleMesh mesh)
    {
        var useless = new bool[mesh.TriangleCount];
        var rings = mesh.Rings;
        for (var t = 0; t < useless.Length; t++)
        {
            var (a, b, c) = (mesh.Indices[3 * t], mesh.Indices[(3 * t) + 1], mesh.Indices[(3 * t) + 2]);
            useless[t] = IsDegenerate(mesh, t);
            foreach (var corner in rings.Of(a))
            {
                var s = corner / 3;
                useless[t] |= s < t && !useless[s] && Has(mesh, s, b) && Has(mesh, s, c);
            }
        }

        return useless;
    }

    /// <summary>No area at the precision of the coordinates: the height is below 1e-9 of the longest edge.</summary>
    public static bool IsDegenerate(TriangleMesh mesh, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        var longest = Math.Max((b - a).LengthSquared, Math.Max((c - b).LengthSquared, (a - c).LengthSquared));
        return (b - a).Cross(c - a).Length <= 1e-9 * longest;
    }

    /// <summary>
    /// Gives every fan of triangles around a vertex its own copy of it, where fans are joined only by edges shared by exactly two
    /// triangles: edges of three and more, and vertices where two sheets touch, come apart. Positions stay.
    /// </summary>
    public static (TriangleMesh Mesh, int Copies) SplitNonManifold(TriangleMesh mesh)
    {
        var rings = mesh.Rings;
        var indices = (int[])mesh.Indices.Clone();
        var copies = new List<(int Vertex, bool Measured)>();
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            var fans = Fans(mesh, rings, v);
            for (var f = 1; f < fans.Count; f++)
            {
                foreach (var corner in fans[f])
                {
                    indices[corner] = mesh.VertexCount + copies.Count;
                }

                copies.Add((v, v < mesh.MeasuredVertexCount));
            }
        }

        if (copies.Count == 0)
        {
            return (mesh, 0);
        }

        var coordinates = new double[mesh.Coordinates.Length + (3 * copies.Count)];
        mesh.Coordinates.CopyTo(coordinates, 0);
        for (var i = 0; i < copies.Count; i++)
        {
            mesh.Coordinates.AsSpan(3 * copies[i].Vertex, 3).CopyTo(coordinates.AsSpan(mesh.Coordinates.Length + (3 * i)));
        }

        var split = new TriangleMesh(coordinates, indices);
        return (split.Reordered(t => t < mesh.MeasuredTriangleCount,
            v => v < mesh.VertexCount ? v < mesh.MeasuredVertexCount : copies[v - mesh.VertexCount].Measured), copies.Count);
    }

    /// <summary>
    /// Turns the triangles of every connected piece to one sense, the one most of its area has, and closed pieces so that they enclose
    /// positive volume.
    /// </summary>
    public static (TriangleMesh Mesh, int Turned) OrientConsistently(TriangleMesh mesh)
    {
        var neighbours = mesh.Topology.Neighbours;
        var turn = new bool[mesh.TriangleCount];
        var seen = new bool[mesh.TriangleCount];
        var piece = new List<int>();
        for (var seed = 0; seed < seen.Length; seed++)
        {
            if (seen[seed])
            {
                continue;
            }

            piece.Clear();
            piece.Add(seed);
            seen[seed] = true;
            var closed = true;
            for (var i = 0; i < piece.Count; i++)
            {
                for (var h = 3 * piece[i]; h < (3 * piece[i]) + 3; h++)
                {
                    var n = neighbours[h];
                    closed &= n >= 0;
                    if (n >= 0 && !seen[n])
                    {
                        seen[n] = true;
                        turn[n] = turn[piece[i]] ^ SameSense(mesh.Indices, h, n);
                        piece.Add(n);
                    }
                }
            }

            var wrong = closed
                ? piece.Sum(t => (turn[t] ? -1 : 1) * SignedVolume(mesh, t)) < 0
                : piece.Sum(t => (turn[t] ? -1 : 1) * mesh.TriangleArea(t)) < 0;
            if (wrong)
            {
                piece.ForEach(t => turn[t] = !turn[t]);
            }
        }

        return (Turn(mesh, t => turn[t]), turn.Count(t => t));
    }

    /// <summary>The mesh with some triangles turned over.</summary>
    public static TriangleMesh Turn(TriangleMesh mesh, Func<int, bool> turned)
    {
        var indices = (int[])mesh.Indices.Clone();
        for (var t = 0; t < mesh.TriangleCount; t++)
        {
            if (turned(t))
            {
                (indices[(3 * t) + 1], indices[(3 * t) + 2]) = (indices[(3 * t) + 2], indices[(3 * t) + 1]);
            }
        }

        return new(mesh.Coordinates, indices, mesh.MeasuredVertexCount, mesh.MeasuredTriangleCount);
    }

    /// <summary>Whether a neighbour runs along half-edge h in the same direction, which neighbours of one sense do not.</summary>
    internal static bool SameSense(int[] indices, int h, int neighbour)
    {
        var (from, to) = (indices[h], indices[MeshTopology.Next(h)]);
        for (var g = 3 * neighbour; g < (3 * neighbour) + 3; g++)
        {
            if (indices[g] == from && indices[MeshTopology.Next(g)] == to)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Volume between a triangle and the centre of the mesh, mm³.</summary>
    internal static double SignedVolume(TriangleMesh mesh, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        var o = mesh.Bounds.Center;
        return (a - o).Dot((b - o).Cross(c - o)) / 6;
    }

    private static bool Has(TriangleMesh mesh, int t, int v) =>
        mesh.Indices[3 * t] == v || mesh.Indices[(3 * t) + 1] == v || mesh.Indices[(3 * t) + 2] == v;

    /// <summary>Corners at a vertex, grouped into fans.</summary>
    private static List<List<int>> Fans(TriangleMesh mesh, VertexRings rings, int v)
    {
        var corners = rings.Of(v).ToArray();
        var users = new Dictionary<int, List<int>>();
        for (var i = 0; i < corners.Length; i++)
        {
            foreach (var other in (int[])[mesh.Indices[MeshTopology.Next(corners[i])],
                mesh.Indices[MeshTopology.Next(MeshTopology.Next(corners[i]))]])
            {
                if (!users.TryGetValue(other, out var list))
                {
                    users[other] = list = [];
                }

                list.Add(i);
            }
        }

        var fan = Enumerable.Range(0, corners.Length).ToArray();
        int Root(int i)
        {
            while (fan[i] != i)
            {
                i = fan[i];
            }

            return i;
        }

        foreach (var pair in users.Values.Where(u => u.Count == 2))
        {
            var (a, b) = (Root(pair[0]), Root(pair[1]));
            fan[Math.Max(a, b)] = Math.Min(a, b);
        }

        return [.. Enumerable.Range(0, corners.Length).GroupBy(Root).Select(g => g.Select(i => corners[i]).ToList())];
    }
}
