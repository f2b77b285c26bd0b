using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>A connected part of a scan that lies on one ideal surface.</summary>
/// <param name="Complete">Whether it was grown until nothing more joined.</param>
internal sealed record GrownSurface(int[] Triangles, FitResult Fit, bool Complete = true);

/// <summary>Grows regions of a scan that lie on one plane, cylinder, sphere or cone: a gently turning patch is fitted, then all connected triangles near the fitted surface join.</summary>
internal sealed class SurfaceGrowth(TriangleMesh mesh)
{
    /// <summary>A triangle this much off the surface, in standard deviations, is not on it.</summary>
    private const double Sigmas = 4;

    /// <summary>Points that tell the shape under a picked triangle: an answer is waited for.</summary>
    private const int Few = 800;

    /// <summary>Triangles of a patch that are too few to tell a shape.</summary>
    private const int Fewest = 12;

    /// <summary>Share of the band by which a shape may move without the region being grown anew.</summary>
    private const double Still = 0.1;

    /// <summary>How much larger a region may be than the one whose shape it is grown on: that shape is known no better farther out.</summary>
    private const int Widening = 20;

    /// <summary>Triangles that tell a shape well enough for all of it.</summary>
    private const int Large = 30_000;

    private const int Rounds = 6;

    /// <summary>How much rougher a patch may be than a smaller one.</summary>
    private const double Rougher = 2;

    /// <summary>Patches about a picked triangle: the most triangles, and the cosine of the largest turn from one to the next.</summary>
    private static readonly (int Most, float Gentle)[] _patches = [(40, 0.9f), (120, 0.9f), (400, 0.97f), (1500, Gentle)];

    /// <summary>Cosine of the largest turn of a triangle from the surface's normal, 25°.</summary>
    internal static readonly double Agreeing = Math.Cos(25 * Math.PI / 180);

    /// <summary>The same from one triangle of a patch to the next, 6°.</summary>
    public static readonly float Gentle = (float)Math.Cos(6 * Math.PI / 180);

    /// <summary>Triangles from which on a region is grown <see cref="Among"/> all: a sixteenth of the mesh.</summary>
    private readonly int _large = Math.Max(mesh.TriangleCount / 16, 1);

    private readonly MeshFlood _flood = new(mesh);
    private readonly float[] _normals = mesh.SmoothFaceNormals;

    /// <summary>Of each vertex the even number of the search that looked at it last, and one more when it lay on the surface sought.</summary>
    private readonly byte[] _marks = new byte[mesh.VertexCount];
    private byte _search;

    /// <summary>Shapes through triangles of this mesh.</summary>
    public SurfaceFits Fits { get; } = new(mesh);

    /// <summary>Cosine between the smooth normals of two triangles.</summary>
    public static float Agreement(float[] normals, int a, int b) =>
        (normals[3 * a] * normals[3 * b]) + (normals[(3 * a) + 1] * normals[(3 * b) + 1]) + (normals[(3 * a) + 2] * normals[(3 * b) + 2]);

    /// <summary>Triangles around a seed over which the surface turns gently.</summary>
    /// <param name="gentle">Cosine of the largest turn from one triangle to the next.</param>
    public int[] Patch(int seed, int most, Func<int, bool> free, float gentle) => _flood.Spread(seed, most, (from, to) => free(to) && Agreement(_normals, from, to) >= gentle).ToArray();

    /// <summary>The surface around a seed; null when no patch about it determines one.</summary>
    /// <param name="band">Half width of the band, mm; four times the scatter when null.</param>
    public GrownSurface? From(int seed, double? band)
    {
        if (Start(seed) is not { } grown)
        {
            return null;
        }

        var turned = Turned(grown);
        var most = Widening * grown.Triangles.Length;
        for (var round = 0; round < Rounds; round++)
        {
            var width = band ?? Math.Max(Sigmas * grown.Fit.Scatter, 1e-6);
            var triangles = Near(seed, new(grown.Fit.Shape, width, turned), null, most);
            var points = Fits.Points(triangles, Few);
            if (Fits.BestOfAll(points, triangles, grown.Fit.Shape) is not { } fit)
            {
                return grown;
            }

            // Where the shape has hardly moved, a region that was grown to its end has not either.
            var moved = grown.Fit.Shape.Distances(points).Zip(fit.Residuals, (before, now) => Math.Abs(before - now)).Max();
            grown = new(triangles, fit, triangles.Length < most);
            if (grown.Complete && moved < Still * width)
            {
                break;
            }

            most = grown.Complete || most >= Large ? int.MaxValue : Widening * most;
        }

        return grown;
    }

    /// <summary>The largest patch about a seed that is not much rougher than a smaller one, as those are that run over an edge.</summary>
    private GrownSurface? Start(int seed)
    {
        GrownSurface? start = null;
        foreach (var (most, gentle) in _patches)
        {
            var triangles = Patch(seed, most, _ => true, gentle);
            if (triangles.Length > (start?.Triangles.Length ?? Fewest) && Fits.BestOfAll(Fits.Points(triangles, Few), triangles) is { } fit
                && (start is null || fit.Scatter < Rougher * Math.Max(start.Fit.Scatter, 1e-6)))
            {
                start = new(triangles, fit, false);
            }
        }

        return start;
    }

    /// <summary>Cosine of the largest angle between the normals of a scan and the surface: four times the median of a patch, where the normals are as noisy, up to 25°.</summary>
    private double Turned(GrownSurface patch)
    {
        var angles = patch.Triangles.Select(t =>
        {
            var (a, b, c) = mesh.Triangle(t);
            return patch.Fit.Shape.Gradient((a + b + c) / 3).LineAngleTo(new(_normals[3 * t], _normals[(3 * t) + 1], _normals[(3 * t) + 2]));
        }).Order().ToArray();
        return Math.Max(Agreeing, Math.Cos(Math.Max(4 * angles[angles.Length / 2], 0.05)));
    }

    /// <summary>Connected triangles from a seed of which two corners or all lie within a band about a shape, with normals turned like it.</summary>
    /// <param name="free">Triangles that may join; all when null.</param>
    public int[] Near(int seed, Shape shape, double band, Func<int, bool>? free) => Near(seed, new(shape, band, Agreeing), free, int.MaxValue);

    private int[] Near(int seed, SurfaceBand near, Func<int, bool>? free, int most)
    {
        _search += 2;
        if (_search == 0)
        {
            Array.Clear(_marks);
            _search = 2;
        }

        var reached = _flood.Spread(seed, Math.Min(most, _large), new Around(mesh, near, free, _marks, _search));
        return reached.Length >= _large && most > _large ? Among(seed, near, free) : reached.ToArray();
    }

    /// <summary>The same, with every triangle of the mesh looked at first.</summary>
    private int[] Among(int seed, SurfaceBand band, Func<int, bool>? free) => _flood.Spread(seed, int.MaxValue, new Listed(AllNear(band), free)).ToArray();

    /// <summary>
    /// Whether each triangle of the mesh has two corners in a band. A flood asks for corners all over memory; where it takes in a large part of the
    /// mesh, all corners in their order are faster.
    /// </summary>
    private bool[] AllNear(SurfaceBand band)
    {
        PointBlocks.ForChunks(mesh.VertexCount, (_, from, to) =>
        {
            for (var v = from; v < to; v++)
            {
                _marks[v] = On(mesh, band, v);
            }
        });
        var near = new bool[mesh.TriangleCount];
        PointBlocks.ForChunks(near.Length, (_, from, to) =>
        {
            var (indices, marks) = (mesh.Indices, _marks);
            for (var t = from; t < to; t++)
            {
                near[t] = marks[indices[3 * t]] + marks[indices[(3 * t) + 1]] + marks[indices[(3 * t) + 2]] >= 2;
            }
        });
        _search = 0;
        return near;
    }

    private static byte On(TriangleMesh mesh, in SurfaceBand band, int v) => band.Holds(mesh.Vertex(v), mesh.Normal(v)) ? (byte)1 : (byte)0;

    private readonly struct Listed(bool[] triangles, Func<int, bool>? free) : IFloodRule
    {
        public bool Passes(int from, int to) => triangles[to] && (free is null || free(to));
    }

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
    /// Median angle between a shape and the triangles some layers outside a region on it, rad: large where the region ends at an edge or where another surface
    /// begins, small where it only drifts out of the band, as a patch of a freeform surface does. Borders of the mesh do not count.
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
            return shape.Gradient((a + b + c) / 3).LineAngleTo(new(_normals[3 * t], _normals[(3 * t) + 1], _normals[(3 * t) + 2]));
        }).Order().ToArray();
        return angles.Length == 0 ? Math.PI / 2 : angles[angles.Length / 2];
    }

    /// <summary>A region without its outermost layers, where a scan's edges are rounded; the region itself when little would be left.</summary>
    public int[] Inner(int[] triangles, int layers)
    {
        var neighbours = mesh.Topology.Neighbours;
        var inside = triangles.ToHashSet();
        for (var layer = 0; layer < layers; layer++)
        {
            var border = inside.Where(t => Enumerable.Range(3 * t, 3).Any(h => neighbours[h] < 0 || !inside.Contains(neighbours[h]))).ToList();
            if (4 * (inside.Count - border.Count) < triangles.Length)
            {
                break;
            }

            inside.ExceptWith(border);
        }

        return [.. triangles.Where(inside.Contains)];
    }
}
