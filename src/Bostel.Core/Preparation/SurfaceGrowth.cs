using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>A connected part of a scan that lies on one ideal surface.</summary>
internal sealed record GrownSurface(int[] Triangles, FitResult Fit);

/// <summary>Grows regions of a scan that lie on one plane, cylinder, sphere or cone: a gently turning patch is fitted, then all connected triangles near the fitted surface join.</summary>
internal sealed class SurfaceGrowth(TriangleMesh mesh)
{
    /// <summary>A triangle this much off the surface, in standard deviations, is not on it.</summary>
    private const double Sigmas = 4;

    private const int Some = 3000;
    private const int Rounds = 3;

    /// <summary>Share of the scatter of a simpler shape below which another is better.</summary>
    private const double Better = 0.9;

    /// <summary>Share of the band by which a shape may move without the region being grown anew.</summary>
    private const double Still = 0.1;

    /// <summary>How much larger than the patch the first region grown may be: it tells the next shape as well as all of a large surface.</summary>
    private const int Widening = 20;

    /// <summary>Cosine of the largest turn of a triangle from the surface's normal, 25°.</summary>
    private static readonly double _agreeing = Math.Cos(25 * Math.PI / 180);

    private static readonly float _gentle = (float)Math.Cos(6 * Math.PI / 180);

    private readonly MeshFlood _flood = new(mesh);
    private readonly float[] _normals = mesh.SmoothFaceNormals;

    /// <summary>Of each vertex twice the number of the search that looked at it last, and one more when it lay on the surface sought.</summary>
    private readonly int[] _marks = new int[mesh.VertexCount];
    private int _search;

    /// <summary>Cosine between the smooth normals of two triangles.</summary>
    public static float Agreement(float[] normals, int a, int b) =>
        (normals[3 * a] * normals[3 * b]) + (normals[(3 * a) + 1] * normals[(3 * b) + 1]) + (normals[(3 * a) + 2] * normals[(3 * b) + 2]);

    /// <summary>Triangles around a seed over which the surface turns gently.</summary>
    public int[] Patch(int seed, int most, Func<int, bool> free) => _flood.Spread(seed, most, (from, to) => free(to) && Agreement(_normals, from, to) >= _gentle).ToArray();

    /// <summary>The surface around a seed; null when its patch determines none.</summary>
    /// <param name="patch">Triangles of the first patch at most.</param>
    /// <param name="band">Half width of the band, mm; four times the scatter when null.</param>
    /// <param name="free">Triangles that may join.</param>
    public GrownSurface? From(int seed, int patch, double? band, Func<int, bool> free)
    {
        var triangles = Patch(seed, patch, free);
        GrownSurface? grown = null;
        for (var round = 0; round < Rounds; round++)
        {
            var points = Points(triangles);
            if (Best(points, triangles) is not { } fit)
            {
                return grown;
            }

            // Where the shape has hardly moved, the region has not either.
            var width = band ?? Math.Max(Sigmas * fit.Scatter, 1e-6);
            if (round > 1 && grown!.Fit.Shape.Distances(points).Zip(fit.Residuals, (before, now) => Math.Abs(before - now)).Max() < Still * width)
            {
                return grown with { Fit = fit };
            }

            triangles = Near(seed, fit.Shape, width, free, round == 0 ? Widening * patch : int.MaxValue);
            grown = new(triangles, fit);
        }

        return grown;
    }

    /// <summary>Connected triangles from a seed of which two corners or all lie within a band about a shape, with normals turned like it.</summary>
    public int[] Near(int seed, Shape shape, double band, Func<int, bool> free, int most = int.MaxValue)
    {
        _search++;
        var corners = mesh.VertexNormals;
        return _flood.Spread(seed, most, (_, to) => free(to) && On(mesh.Indices[3 * to]) + On(mesh.Indices[(3 * to) + 1]) + On(mesh.Indices[(3 * to) + 2]) >= 2).ToArray();

        int On(int v)
        {
            if (_marks[v] >> 1 != _search)
            {
                var p = mesh.Vertex(v);
                var on = Math.Abs(shape.Distance(p)) <= band && Math.Abs(shape.Gradient(p).Dot(new(corners[3 * v], corners[(3 * v) + 1], corners[(3 * v) + 2]))) >= _agreeing;
                _marks[v] = (2 * _search) + (on ? 1 : 0);
            }

            return _marks[v] & 1;
        }
    }

    /// <summary>A region without its outermost layers, where a scan's edges are rounded; the region itself when little would be left.</summary>
    public int[] Inner(int[] triangles, int layers)
    {
        var neighbours = mesh.Topology.Neighbours;
        var inside = triangles.ToHashSet();
        for (var layer = 0; layer < layers; layer++)
        {
            var border = inside.Where(t => Enumerable.Range(3 * t, 3).Any(h => neighbours[h] < 0 || !inside.Contains(neighbours[h]))).ToList();
            if (2 * (inside.Count - border.Count) < triangles.Length / 2)
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
        }

        return best;
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

    /// <summary>Vertices of triangles, thinned.</summary>
    public double[] Points(ReadOnlySpan<int> triangles)
    {
        var vertices = new HashSet<int>();
        var step = Math.Max(1, triangles.Length / (2 * Some));
        for (var i = 0; i < triangles.Length; i += step)
        {
            vertices.UnionWith(mesh.Indices[(3 * triangles[i])..((3 * triangles[i]) + 3)]);
        }

        return PointSums.Thin([.. vertices.Order().SelectMany(v => mesh.Vertex(v).ToArray())], Some);
    }
}
