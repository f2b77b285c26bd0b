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

    /// <summary>Cosine of the largest turn of a triangle from the surface's normal, 25°.</summary>
    private static readonly double _agreeing = Math.Cos(25 * Math.PI / 180);

    private static readonly float _gentle = (float)Math.Cos(6 * Math.PI / 180);

    private readonly MeshFlood _flood = new(mesh);
    private readonly float[] _normals = mesh.SmoothFaceNormals;

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
        for (var round = 0; round < 3; round++)
        {
            if (Best(triangles) is not { } fit)
            {
                return grown;
            }

            triangles = Near(seed, fit.Shape, band ?? Math.Max(Sigmas * fit.Scatter, 1e-6), free);
            grown = new(triangles, fit);
        }

        return grown;
    }

    /// <summary>Connected triangles from a seed within a band about a shape and turned like it.</summary>
    public int[] Near(int seed, Shape shape, double band, Func<int, bool> free) => _flood.Spread(seed, int.MaxValue, (_, to) =>
    {
        if (!free(to))
        {
            return false;
        }

        var (a, b, c) = mesh.Triangle(to);
        var center = (a + b + c) / 3;
        return Math.Abs(shape.Distance(center)) <= band
            && Math.Abs(NormalOf(shape, center).Dot(new(_normals[3 * to], _normals[(3 * to) + 1], _normals[(3 * to) + 2]))) >= _agreeing;
    }).ToArray();

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

    /// <summary>The simplest shape whose scatter is not more than a tenth above the least.</summary>
    public FitResult? Best(ReadOnlySpan<int> triangles)
    {
        var points = Points(triangles);
        FitResult? best = null;
        foreach (var kind in (string[])["plane", "cylinder", "sphere", "cone"])
        {
            best = Fit(kind, points, triangles) is { } fit && (best is null || fit.Scatter < 0.9 * best.Scatter) ? fit : best;
        }

        return best;
    }

    /// <summary>
    /// Fits one kind. Axes start from the normals: those of a cylinder lie in a plane through the origin, those of a cone in a plane, both across the axis
    /// (Gauss image, Benkő, Martin and Várady 2001).
    /// </summary>
    public FitResult? Fit(string kind, double[] points, ReadOnlySpan<int> triangles)
    {
        if (kind is not ("cylinder" or "cone"))
        {
            return Try(kind, points, Known.Nothing);
        }

        var step = Math.Max(1, triangles.Length / Some);
        var normals = new List<double>();
        for (var i = 0; i < triangles.Length; i += step)
        {
            normals.AddRange([_normals[3 * triangles[i]], _normals[(3 * triangles[i]) + 1], _normals[(3 * triangles[i]) + 2]]);
        }

        double[] all = [.. normals];
        var axis = PointSums.Scatter(all, kind == "cone" ? PointSums.Centroid(all) : Vector3D.Zero).Vectors[0];
        return Try(kind, points, new() { Direction = axis }) is { } held ? Try(kind, points, new() { Start = held.Shape }) : null;
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
        var vertices = new SortedSet<int>();
        var step = Math.Max(1, triangles.Length / (2 * Some));
        for (var i = 0; i < triangles.Length; i += step)
        {
            vertices.UnionWith([mesh.Indices[3 * triangles[i]], mesh.Indices[(3 * triangles[i]) + 1], mesh.Indices[(3 * triangles[i]) + 2]]);
        }

        return PointSums.Thin([.. vertices.SelectMany(v => mesh.Vertex(v).ToArray())], Some);
    }

    /// <summary>Gradient of the distance: the surface normal at the foot of a point.</summary>
    private static Vector3D NormalOf(Shape shape, Vector3D p)
    {
        const double H = 1e-4;
        Vector3D Step(int k) => new(k == 0 ? H : 0, k == 1 ? H : 0, k == 2 ? H : 0);
        double Slope(int k) => shape.Distance(p + Step(k)) - shape.Distance(p - Step(k));
        return shape is Plane3D plane ? plane.Normal : new Vector3D(Slope(0), Slope(1), Slope(2)).Normalized();
    }
}
