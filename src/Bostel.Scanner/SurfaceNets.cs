using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Scanner;

/// <summary>
/// A fused scan mesh of a closed nominal: naive surface nets (Gibson 1998) over a grid of a spacing, vertices projected onto the nominal.
/// As in a real fused scan the triangles are small and unordered and no sharp edge is kept; unlike there, every vertex lies exactly on the
/// surface.
/// </summary>
internal static class SurfaceNets
{
    public static TriangleMesh Extract(TriangleTree nominal, double spacing)
    {
        var box = nominal.Mesh.Bounds;
        var origin = box.Min - (1.5 * spacing * new Vector3D(1, 1.03, 1.07));
        var (nx, ny, nz) = (Cells(box.Size.X), Cells(box.Size.Y), Cells(box.Size.Z));
        var inside = Fill(nominal, origin, spacing, nx, ny, nz);
        var vertexOf = new Dictionary<int, int>();
        var points = new List<Vector3D>();
        var indices = new List<int>();
        int At(int x, int y, int z) => (((z * ny) + y) * nx) + x;
        for (var z = 0; z + 1 < nz; z++)
        {
            for (var y = 0; y + 1 < ny; y++)
            {
                for (var x = 0; x + 1 < nx; x++)
                {
                    if (Cell(inside, At, x, y, z) is { } middle)
                    {
                        vertexOf[At(x, y, z)] = points.Count;
                        points.Add(origin + (spacing * middle));
                    }
                }
            }
        }

        for (var z = 1; z + 1 < nz; z++)
        {
            for (var y = 1; y + 1 < ny; y++)
            {
                for (var x = 1; x + 1 < nx; x++)
                {
                    var here = inside[At(x, y, z)];
                    Quad(here, inside[At(x + 1, y, z)], At(x, y - 1, z - 1), At(x, y, z - 1), At(x, y, z), At(x, y - 1, z));
                    Quad(here, inside[At(x, y + 1, z)], At(x - 1, y, z - 1), At(x - 1, y, z), At(x, y, z), At(x, y, z - 1));
                    Quad(here, inside[At(x, y, z + 1)], At(x - 1, y - 1, z), At(x, y - 1, z), At(x, y, z), At(x - 1, y, z));
                }
            }
        }

        return Settle(nominal, points, [.. indices], spacing);

        int Cells(double size) => (int)Math.Ceiling(size / spacing) + 4;

        void Quad(bool from, bool to, int a, int b, int c, int d)
        {
            if (from == to)
            {
                return;
            }

            var (p, q, r, s) = (vertexOf[a], vertexOf[b], vertexOf[c], vertexOf[d]);
            (q, s) = from ? (q, s) : (s, q);
            indices.AddRange((a & 1) == 0 ? [p, q, r, p, r, s] : [p, q, s, q, r, s]);
        }
    }

    /// <summary>Inside flags at the grid points by walking the crossings of one ray a column.</summary>
    private static bool[] Fill(TriangleTree nominal, Vector3D origin, double spacing, int nx, int ny, int nz)
    {
        var inside = new bool[nx * ny * nz];
        Parallel.For(0, ny, () => new List<(double Distance, int Triangle)>(), (y, _, hits) =>
        {
            for (var x = 0; x < nx; x++)
            {
                var start = origin + (spacing * new Vector3D(x, y, 0));
                nominal.AllHits(start, Vector3D.UnitZ, hits);
                var depth = 0;
                var next = 0;
                var last = (Distance: -1.0, Entering: false);
                for (var z = 0; z < nz; z++)
                {
                    while (next < hits.Count && hits[next].Distance <= z * spacing)
                    {
                        var entering = nominal.FaceNormal(hits[next].Triangle).Z < 0;

                        // A ray through a shared edge meets both triangles: count the crossing once.
                        if (hits[next].Distance - last.Distance > 1e-7 || entering != last.Entering)
                        {
                            depth += entering ? 1 : -1;
                        }

                        last = (hits[next].Distance, entering);
                        next++;
                    }

                    inside[(((z * ny) + y) * nx) + x] = depth > 0;
                }
            }

            return hits;
        }, _ => { });
        return inside;
    }

    /// <summary>Mean of the edge middles where the cell changes side, in grid units; null when it does not.</summary>
    private static Vector3D? Cell(bool[] inside, Func<int, int, int, int> at, int x, int y, int z)
    {
        Span<bool> corner = stackalloc bool[8];
        var count = 0;
        for (var k = 0; k < 8; k++)
        {
            corner[k] = inside[at(x + (k & 1), y + ((k >> 1) & 1), z + (k >> 2))];
            count += corner[k] ? 1 : 0;
        }

        if (count is 0 or 8)
        {
            return null;
        }

        var sum = Vector3D.Zero;
        var edges = 0;
        for (var k = 0; k < 8; k++)
        {
            for (var axis = 1; axis <= 4; axis <<= 1)
            {
                if ((k & axis) == 0 && corner[k] != corner[k | axis])
                {
                    var p = new Vector3D(k & 1, (k >> 1) & 1, k >> 2);
                    sum += p + (0.5 * new Vector3D(axis == 1 ? 1 : 0, axis == 2 ? 1 : 0, axis == 4 ? 1 : 0));
                    edges++;
                }
            }
        }

        return new Vector3D(x, y, z) + (sum / edges);
    }

    /// <summary>Evens the triangles out by smoothing, and puts every vertex onto the nominal.</summary>
    private static TriangleMesh Settle(TriangleTree nominal, List<Vector3D> points, int[] indices, double spacing)
    {
        var at = points.ToArray();
        for (var round = 0; round < 3; round++)
        {
            var sums = new Vector3D[at.Length];
            var counts = new int[at.Length];
            for (var t = 0; t < indices.Length; t += 3)
            {
                for (var k = 0; k < 3; k++)
                {
                    var (a, b) = (indices[t + k], indices[t + ((k + 1) % 3)]);
                    sums[a] += at[b];
                    counts[a]++;
                    sums[b] += at[a];
                    counts[b]++;
                }
            }

            var smoothed = at.Select((p, i) => counts[i] > 0 && round < 2 ? 0.5 * (p + (sums[i] / counts[i])) : p).ToArray();
            Parallel.For(0, (at.Length + 4095) / 4096, chunk =>
            {
                var search = new ClosestSearch(nominal);
                for (var i = chunk * 4096; i < Math.Min(at.Length, (chunk + 1) * 4096); i++)
                {
                    var hit = search.Closest(smoothed[i], 4 * spacing);
                    at[i] = hit.Found ? hit.Point : smoothed[i];
                }
            });
        }

        return new([.. at.SelectMany(p => new[] { p.X, p.Y, p.Z })], indices);
    }
}
