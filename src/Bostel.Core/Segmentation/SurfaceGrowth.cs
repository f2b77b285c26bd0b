using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>A connected part of a scan that lies on one ideal surface.</summary>
/// <param name="Complete">Whether it was grown until nothing more joined.</param>
internal sealed record GrownSurface(int[] Triangles, FitResult Fit, bool Complete = true);

/// <summary>
/// Grows regions of a scan that lie on one plane, cylinder, sphere, cone or torus: all connected triangles near a surface, from a seed.
/// </summary>
internal sealed class SurfaceGrowth(TriangleMesh mesh)
{
    /// <summary>Points that tell a shape well enough.</summary>
    private const int PointsOfAFit = 3000;

    /// <summary>Cosine of the largest turn of a triangle from the surface's normal, 25°.</summary>
    internal static readonly double Agreeing = Math.Cos(25 * Math.PI / 180);

    /// <summary>The same from one triangle of a patch to the next, 6°.</summary>
    public static readonly float Gentle = (float)Math.Cos(6 * Math.PI / 180);

    /// <summary>Triangles of a region from which on it is faster to look at all vertices first: a thirty-second of the mesh.</summary>
    private readonly int _large = Math.Max(mesh.TriangleCount / 32, 1);

    private readonly MeshFlood _flood = new(mesh);
    private readonly float[] _normals = mesh.SmoothFaceNormals;

    /// <summary>
    /// Of each vertex the even number of the search that looked at it last, and one more when it lay on the surface sought.
    /// </summary>
    private readonly byte[] _marks = new byte[mesh.VertexCount];
    private byte _search;

    /// <summary>Shapes through triangles of this mesh.</summary>
    public SurfaceFits Fits { get; } = new(mesh, PointsOfAFit);

    /// <summary>Cosine between the smooth normals of two triangles.</summary>
    public static float Agreement(float[] normals, int a, int b) =>
        (normals[3 * a] * normals[3 * b]) + (normals[(3 * a) + 1] * normals[(3 * b) + 1]) + (normals[(3 * a) + 2] * normals[(3 * b) + 2]);

    /// <summary>Triangles around a seed over which the surface turns gently.</summary>
    /// <param name="gentle">Cosine of the largest turn from one triangle to the next.</param>
    public int[] Patch(int seed, int most, Func<int, bool> free, float gentle) =>
        _flood.Spread(seed, most, (from, to) => free(to) && Agreement(_normals, from, to) >= gentle).ToArray();

    /// <summary>
    /// Connected triangles from a seed of which two corners or all lie within a band about a shape, with normals turned like it.
    /// </summary>
    /// <param name="free">Triangles that may join; all when null.</param>
    public int[] Near(int seed, Shape shape, double band, Func<int, bool>? free) => Near(seed, new(shape, band, Agreeing), free);

    /// <summary>Connected triangles from a seed of which two corners or all lie within a band.</summary>
    /// <param name="free">Triangles that may join; all when null.</param>
    /// <param name="most">Triangles to stop at; hardly more come back.</param>
    /// <param name="expected">How many they will be.</param>
    public int[] Near(int seed, SurfaceBand near, Func<int, bool>? free = null, int most = int.MaxValue, int expected = 0)
    {
        _search += 2;
        if (_search == 0)
        {
            Array.Clear(_marks);
            _search = 2;
        }

        var rule = new Around(mesh, near, free, _marks, _search);
        if (expected < _large)
        {
            var reached = _flood.Spread(seed, Math.Min(most, _large), rule);
            if (reached.Length < _large || most <= _large)
            {
                return reached.ToArray();
            }
        }

        MarkAll(near);
        return _flood.Spread(seed, most, rule).ToArray();
    }

    /// <summary>Looks at all vertices in their order: a flood asks for them all over memory.</summary>
    private void MarkAll(SurfaceBand band) => PointBlocks.ForChunks(mesh.VertexCount, (_, from, to) =>
    {
        for (var v = from; v < to; v++)
        {
            _marks[v] = (byte)(_search + On(mesh, band, v));
        }
    });

    private static byte On(TriangleMesh mesh, in SurfaceBand band, int v) => band.Holds(mesh, v) ? (byte)1 : (byte)0;

    /// <param name="marks">Of each vertex the last search and its answer.</param>
    /// <param name="search">What an answer "off" of this search is written as; "on" is one more.</param>
    private readonly struct Around(TriangleMesh mesh, SurfaceBand band, Func<int, bool>? free, byte[] marks, byte search) : IFloodRule
    {
        private readonly int[] _indices = mesh.Indices;

        public bool Passes(int from, int to) =>
            Look(_indices[3 * to]) + Look(_indices[(3 * to) + 1]) + Look(_indices[(3 * to) + 2]) >= 2 && (free is null || free(to));

        private int Look(int v)
        {
            var mark = marks[v];
            return (mark & ~1) == search ? mark & 1 : (marks[v] = (byte)(search + On(mesh, band, v))) & 1;
        }
    }

    /// <summary>Radius of the disc of a region's area, mm.</summary>
    public double Reach(int[] region) => Math.Sqrt(region.Sum(mesh.TriangleArea) / Math.PI);

    /// <summary>
    /// Median angle between a shape and the triangles some layers outside a region on it, rad: large where the region ends at an edge or
    /// where another surface begins, small where it only drifts out of the band, as a patch of a freeform surface does. Borders of the mesh
    /// do not count.
    /// </summary>
    public double ExitAngle(int[] region, Shape shape, int layers)
    {
        var neighbours = mesh.Topology.Neighbours;
        var reached = region.ToHashSet();
        var now = new List<int>(region);
        for (var layer = 0; layer < layers; layer++)
        {
            var next = new List<int>();
            foreach (var t in now)
            {
                foreach (var n in neighbours.AsSpan(3 * t, 3))
                {
                    if (n >= 0 && reached.Add(n))
                    {
                        next.Add(n);
                    }
                }
            }

            now = next;
        }

        var angles = now.Select(t =>
        {
            var (a, b, c) = mesh.Triangle(t);
            return shape.Gradient((a + b + c) / 3).LineAngleTo(Vector3D.At(_normals, t));
        }).Order().ToArray();
        return angles.Length == 0 ? Math.PI / 2 : angles[angles.Length / 2];
    }

    /// <summary>
    /// A region without its outermost layers, where a scan's edges are rounded; the region itself when little would be left.
    /// </summary>
    public int[] Inner(int[] triangles, int layers)
    {
        var neighbours = mesh.Topology.Neighbours;
        var inside = triangles.ToHashSet();
        for (var layer = 0; layer < layers; layer++)
        {
            var border = inside.Where(t => Enumerable.Range(3 * t, 3).Any(h => neighbours[h] < 0 || !inside.Contains(neighbours[h])))
                .ToList();
            if (4 * (inside.Count - border.Count) < triangles.Length)
            {
                break;
            }

            inside.ExceptWith(border);
        }

        return [.. triangles.Where(inside.Contains)];
    }
}
