using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>Points of a surface with normals and the area each stands for. Normals are zero where none are known.</summary>
public sealed record SurfaceSamples(Vector3D[] Points, Vector3D[] Normals, double[] Areas)
{
    /// <summary>Longest edge, in mean edges and in diagonals, from which on vertices do not stand for the surface between them.</summary>
    private const double Uneven = 10, Large = 0.1;

    public int Count => Points.Length;

    /// <summary>Even samples of a mesh by area: a low-discrepancy walk over the cumulated triangle areas, without randomness.</summary>
    public static SurfaceSamples Even(TriangleMesh mesh, int count)
    {
        var cumulated = new double[mesh.TriangleCount];
        double total = 0;
        for (var t = 0; t < cumulated.Length; t++)
        {
            cumulated[t] = total += mesh.TriangleArea(t);
        }

        var points = new Vector3D[count];
        var normals = new Vector3D[count];
        var areas = new double[count];
        Array.Fill(areas, total / count);
        for (var i = 0; i < count; i++)
        {
            var t = Array.BinarySearch(cumulated, (i + 0.5) / count * total);
            t = Math.Min(t < 0 ? ~t : t, cumulated.Length - 1);
            var (a, b, c) = mesh.Triangle(t);

            // R2 sequence (Roberts 2018) folded into the triangle.
            var u = (0.5 + (i * 0.7548776662466927)) % 1;
            var v = (0.5 + (i * 0.5698402909980532)) % 1;
            (u, v) = u + v > 1 ? (1 - u, 1 - v) : (u, v);
            points[i] = a + (u * (b - a)) + (v * (c - a));
            normals[i] = (b - a).Cross(c - a).Normalized();
        }

        return new(points, normals, areas);
    }

    /// <summary>
    /// Vertices of a scan with their normals, thinned to a count. Half are taken evenly by number, half so that all normal directions are
    /// represented (normal-space sampling, Rusinkiewicz and Levoy 2001), which holds motions that few surfaces resist.
    /// </summary>
    public static SurfaceSamples OfScan(TriangleMesh scan, int count)
    {
        var cloud = scan.TriangleCount == 0;
        var all = scan.MeasuredVertexCount;
        var chosen = new bool[all];
        var even = cloud ? count : count / 2;
        for (var i = 0; i < Math.Min(even, all); i++)
        {
            chosen[(int)((long)i * all / Math.Min(even, all))] = true;
        }

        if (!cloud && all > count)
        {
            var bins = new List<int>[6 * 16];
            var step = Math.Max(1, all / (20 * count));
            for (var v = 0; v < all; v += step)
            {
                (bins[Bin(scan.Normal(v))] ??= []).Add(v);
            }

            var used = bins.Where(b => b is { Count: > 0 }).ToList();
            var share = (count - even) / Math.Max(1, used.Count);
            foreach (var bin in used)
            {
                for (var k = 0; k < Math.Min(share, bin.Count); k++)
                {
                    chosen[bin[(int)((long)k * bin.Count / Math.Min(share, bin.Count))]] = true;
                }
            }
        }

        var kept = 0;
        var weights = cloud ? null : scan.VertexAreas;
        for (var v = 0; v < all; v++)
        {
            chosen[v] &= weights is null || weights[v] > 0;
            kept += chosen[v] ? 1 : 0;
        }

        var (points, normals, areas) = (new Vector3D[kept], new Vector3D[kept], new double[kept]);
        var at = 0;
        for (var v = 0; v < all; v++)
        {
            if (chosen[v])
            {
                points[at] = scan.Vertex(v);
                normals[at] = cloud ? Vector3D.Zero : scan.Normal(v);
                areas[at++] = weights?[v] ?? 1;
            }
        }

        return new(points, normals, areas);
    }

    /// <summary>
    /// Samples of a mesh of any kind: the vertices of a scan; points spread over the triangles of a tessellated model or a much reduced
    /// scan, whose vertices crowd on edges and are few where it is flat.
    /// </summary>
    public static SurfaceSamples OfMesh(TriangleMesh mesh, int count) =>
        mesh.LongestEdge < Math.Min(Uneven * mesh.MeanEdge(), Large * mesh.Bounds.Diagonal) ? OfScan(mesh, count) : Even(mesh, count);

    private static int Bin(Vector3D n)
    {
        var (ax, ay, az) = (Math.Abs(n.X), Math.Abs(n.Y), Math.Abs(n.Z));
        var (face, u, v, w) = ax >= ay && ax >= az
            ? (n.X > 0 ? 0 : 1, n.Y, n.Z, ax) : ay >= az ? (n.Y > 0 ? 2 : 3, n.X, n.Z, ay) : (n.Z > 0 ? 4 : 5, n.X, n.Y, az);
        return w == 0 ? 0 : (face * 16) + (Math.Min(3, (int)(2 * ((u / w) + 1))) * 4) + Math.Min(3, (int)(2 * ((v / w) + 1)));
    }
}
