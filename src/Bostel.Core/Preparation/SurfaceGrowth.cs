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

    private const int Some = 3000;

    /// <summary>Points that tell the shape under a picked triangle: an answer is waited for.</summary>
    private const int Few = 800;

    /// <summary>Share of the scatter of a simpler shape below which another is better.</summary>
    private const double Better = 0.9;

    /// <summary>Share of the band by which a shape may move without the region being grown anew.</summary>
    private const double Still = 0.1;

    /// <summary>How much larger than the patch the first region grown may be: it tells the next shape as well as all of a large surface.</summary>
    private const int Widening = 20;

    /// <summary>Cosine of the largest turn of a triangle from the surface's normal, 25°.</summary>
    private static readonly double _agreeing = Math.Cos(25 * Math.PI / 180);

    /// <summary>The same from one triangle of a patch to the next, 6°.</summary>
    public static readonly float Gentle = (float)Math.Cos(6 * Math.PI / 180);

    /// <summary>Triangles from which on a region is grown <see cref="Among"/> all: an eighth of the mesh.</summary>
    private readonly int _large = Math.Max(mesh.TriangleCount / 8, 1);

    private readonly MeshFlood _flood = new(mesh);
    private readonly float[] _normals = mesh.SmoothFaceNormals;

    /// <summary>Of each vertex the even number of the search that looked at it last, and one more when it lay on the surface sought.</summary>
    private readonly byte[] _marks = new byte[mesh.VertexCount];
    private byte _search;

    /// <summary>Cosine between the smooth normals of two triangles.</summary>
    public static float Agreement(float[] normals, int a, int b) =>
        (normals[3 * a] * normals[3 * b]) + (normals[(3 * a) + 1] * normals[(3 * b) + 1]) + (normals[(3 * a) + 2] * normals[(3 * b) + 2]);

    /// <summary>Triangles around a seed over which the surface turns gently.</summary>
    /// <param name="gentle">Cosine of the largest turn from one triangle to the next.</param>
    public int[] Patch(int seed, int most, Func<int, bool> free, float gentle) => _flood.Spread(seed, most, (from, to) => free(to) && Agreement(_normals, from, to) >= gentle).ToArray();

    /// <summary>The surface around a seed; null when its patch determines none.</summary>
    /// <param name="patch">Triangles of the first patch at most.</param>
    /// <param name="band">Half width of the band, mm; four times the scatter when null.</param>
    public GrownSurface? From(int seed, int patch, double? band)
    {
        var triangles = Patch(seed, patch, _ => true, Gentle);
        GrownSurface? grown = null;
        foreach (var most in (int[])[Widening * patch, _large, int.MaxValue, int.MaxValue])
        {
            var points = PointSums.Thin(Points(triangles), Few);
            if (Best(points, triangles) is not { } fit)
            {
                return grown;
            }

            // Where the shape has hardly moved, a region that was grown to its end has not either.
            var width = band ?? Math.Max(Sigmas * fit.Scatter, 1e-6);
            if (grown is { Complete: true } && grown.Fit.Shape.Distances(points).Zip(fit.Residuals, (before, now) => Math.Abs(before - now)).Max() < Still * width)
            {
                return grown with { Fit = fit };
            }

            if (most > triangles.Length)
            {
                triangles = triangles.Length >= _large ? Among(seed, new(fit.Shape, width, _agreeing), null) : Near(seed, fit.Shape, width, null, most);
                grown = new(triangles, fit, triangles.Length < most);
            }
        }

        return grown;
    }

    /// <summary>Connected triangles from a seed of which two corners or all lie within a band about a shape, with normals turned like it.</summary>
    /// <param name="free">Triangles that may join; all when null.</param>
    public int[] Near(int seed, Shape shape, double band, Func<int, bool>? free, int most = int.MaxValue)
    {
        var near = new SurfaceBand(shape, band, _agreeing);
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

    public FitResult? Best(ReadOnlySpan<int> triangles) => Best(Points(triangles), triangles);

    /// <summary>The simplest shape whose scatter is not more than a tenth above the least.</summary>
    private FitResult? Best(double[] points, ReadOnlySpan<int> triangles)
    {
        FitResult? best = null;
        foreach (var kind in (string[])["plane", "cylinder", "sphere", "cone"])
        {
            // A more complicated shape that will not be so much better is given up early.
            var useful = Better * best?.Scatter ?? double.PositiveInfinity;
            best = Fit(kind, points, triangles, useful) is { } fit && fit.Scatter < useful ? fit : best;
            if (best is { Shape: Plane3D plane } && kind == "plane" && IsFlat(points, triangles, plane, useful: Better * best.Scatter))
            {
                break;
            }
        }

        return best;
    }

    /// <summary>Whether points have one height each over a plane, by the normals, and no curvature would bring their scatter below what is useful.</summary>
    private bool IsFlat(double[] points, ReadOnlySpan<int> triangles, Plane3D plane, double useful)
    {
        var step = Math.Max(1, triangles.Length / Some);
        var (least, most) = (1.0, -1.0);
        for (var i = 0; i < triangles.Length; i += step)
        {
            var n = 3 * triangles[i];
            var cosine = plane.Normal.Dot(new(_normals[n], _normals[n + 1], _normals[n + 2]));
            (least, most) = (Math.Min(least, cosine), Math.Max(most, cosine));
        }

        return (least > _agreeing || most < -_agreeing) && SecondOrderSurface.Scatter(points, plane) > useful;
    }

    /// <summary>
    /// Fits one kind. Axes start from the normals: those of a cylinder lie in a plane through the origin, those of a cone in a plane, both across the axis
    /// (Gauss image, Benkő, Martin and Várady 2001).
    /// </summary>
    public FitResult? Fit(string kind, double[] points, ReadOnlySpan<int> triangles, double useful = double.PositiveInfinity)
    {
        if (kind is not ("cylinder" or "cone"))
        {
            return Try(kind, points, new() { Useful = useful });
        }

        var step = Math.Max(1, triangles.Length / Some);
        var normals = new List<double>();
        for (var i = 0; i < triangles.Length; i += step)
        {
            normals.AddRange([_normals[3 * triangles[i]], _normals[(3 * triangles[i]) + 1], _normals[(3 * triangles[i]) + 2]]);
        }

        double[] all = [.. normals];
        var axis = PointSums.Scatter(all, kind == "cone" ? PointSums.Centroid(all) : Vector3D.Zero).Vectors[0];
        return Try(kind, points, new() { Direction = axis }) is { } held ? Try(kind, points, new() { Start = held.Shape, Useful = useful }) : null;
    }

    /// <summary>A torus through triangles, from the axis that their normals meet.</summary>
    /// <param name="useful">Largest scatter at which it is of use, mm.</param>
    public FitResult? Torus(int[] triangles, double useful)
    {
        var points = Points(triangles);
        var step = Math.Max(1, triangles.Length / Some);
        var some = Enumerable.Range(0, (triangles.Length + step - 1) / step).Select(i => triangles[i * step]).Select(t =>
        {
            var (a, b, c) = mesh.Triangle(t);
            return ((a + b + c) / 3, new Vector3D(_normals[3 * t], _normals[(3 * t) + 1], _normals[(3 * t) + 2]), 1.0);
        });
        try
        {
            return AxisOfRevolution.Of(some, PointSums.Centroid(points)) is { } axis && AxisOfRevolution.Torus(points, axis) is var start && start.MajorRadius > start.MinorRadius
                ? LeastSquares.Torus(points, new() { Start = start, Useful = useful })
                : null;
        }
        catch (BadInputException)
        {
            // The profile is no circle, or the points determine no torus.
            return null;
        }
    }

    private static FitResult? Try(string kind, double[] points, Known known)
    {
        try
        {
            return LeastSquares.Fit(kind, points, known);
        }
        catch (BadInputException)
        {
            // This kind is not determined by these points.
            return null;
        }
    }

    /// <summary>Vertices of triangles; of many triangles only some.</summary>
    public double[] Points(ReadOnlySpan<int> triangles)
    {
        var step = Math.Max(1, triangles.Length / (2 * Some));
        var corners = step == 1 ? 3 : 1;
        var vertices = new List<int>();
        for (var i = 0; i < triangles.Length; i += step)
        {
            vertices.AddRange(mesh.Indices.AsSpan(3 * triangles[i], corners));
        }

        vertices.Sort();
        var points = new List<double>();
        var last = -1;
        foreach (var v in vertices)
        {
            if (v != last)
            {
                points.AddRange(mesh.Coordinates.AsSpan(3 * v, 3));
                last = v;
            }
        }

        return PointSums.Thin([.. points], Some);
    }
}
