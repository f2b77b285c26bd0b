using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>Selections that spread from a seed triangle over its neighbours.</summary>
internal static class GrowSelection
{
    /// <summary>A triangle this much off the surface, in standard deviations, is not on it.</summary>
    private const double Sigmas = 4;

    /// <summary>Cosine of the largest turn of a triangle from the surface's normal, 25°.</summary>
    private static readonly double _agreeing = Math.Cos(25 * Math.PI / 180);

    /// <summary>
    /// Spreads while the surface turns by no more than an angle from one triangle to the next. The normal of a triangle is the mean of its corners'
    /// normals, which takes the noise of a scan out and leaves its edges in.
    /// </summary>
    public static bool[] ByTurn(SelectionItems items, int seed, double degrees)
    {
        var normals = SmoothNormals(items.Mesh);
        var least = Math.Cos(degrees * Math.PI / 180);
        return Flood(items, seed, int.MaxValue, (from, to) => normals[from].Dot(normals[to]) >= least);
    }

    /// <summary>
    /// Spreads over one surface: a patch about the seed is fitted by plane, cylinder, sphere and cone, the one with the least scatter is taken (simpler
    /// ones unless the gain is more than a tenth), and every connected triangle within the band about it, and turned like it, belongs; fitted anew twice as it grows.
    /// </summary>
    /// <param name="band">Half width of the band, mm; four times the scatter when null.</param>
    public static bool[] SameSurface(SelectionItems items, int seed, double? band)
    {
        var mesh = items.Mesh;
        var normals = SmoothNormals(mesh);
        var gentle = Math.Cos(6 * Math.PI / 180);
        var patch = Flood(items, seed, 1500, (from, to) => normals[from].Dot(normals[to]) >= gentle);
        var result = patch;
        for (var round = 0; round < 3; round++)
        {
            if (Fit(mesh, result) is not { } fit)
            {
                return patch;
            }

            var limit = band ?? Math.Max(Sigmas * fit.Scatter, 1e-6);
            var shape = fit.Shape;
            result = Flood(items, seed, int.MaxValue, (_, to) =>
                Math.Abs(shape.Distance(items.Center(to))) <= limit && Math.Abs(NormalOf(shape, items.Center(to)).Dot(normals[to])) >= _agreeing);
        }

        return result;
    }

    private static FitResult? Fit(TriangleMesh mesh, bool[] triangles)
    {
        var vertices = new SortedSet<int>();
        for (var t = 0; t < triangles.Length; t++)
        {
            if (triangles[t])
            {
                vertices.UnionWith([mesh.Indices[3 * t], mesh.Indices[(3 * t) + 1], mesh.Indices[(3 * t) + 2]]);
            }
        }

        var points = PointSums.Thin([.. vertices.SelectMany(v => mesh.Vertex(v).ToArray())], 3000);
        FitResult? best = null;
        foreach (var kind in (string[])["plane", "cylinder", "sphere", "cone"])
        {
            try
            {
                var fit = LeastSquares.Fit(kind, points);
                best = best is null || fit.Scatter < 0.9 * best.Scatter ? fit : best;
            }
            catch (BadInputException)
            {
                // This kind is not determined by these points.
            }
        }

        return best;
    }

    /// <summary>Gradient of the distance: the surface normal at the foot of a point.</summary>
    private static Vector3D NormalOf(Shape shape, Vector3D p)
    {
        const double H = 1e-4;
        Vector3D Step(int k) => new(k == 0 ? H : 0, k == 1 ? H : 0, k == 2 ? H : 0);
        double Slope(int k) => shape.Distance(p + Step(k)) - shape.Distance(p - Step(k));
        return new Vector3D(Slope(0), Slope(1), Slope(2)).Normalized();
    }

    private static Vector3D[] SmoothNormals(TriangleMesh mesh)
    {
        var corner = mesh.VertexNormals;
        var normals = new Vector3D[mesh.TriangleCount];
        Parallel.For(0, (normals.Length + 8191) / 8192, chunk =>
        {
            for (var t = chunk * 8192; t < Math.Min(normals.Length, (chunk + 1) * 8192); t++)
            {
                var sum = Vector3D.Zero;
                for (var h = 3 * t; h < (3 * t) + 3; h++)
                {
                    var v = 3 * mesh.Indices[h];
                    sum += new Vector3D(corner[v], corner[v + 1], corner[v + 2]);
                }

                normals[t] = sum.Normalized();
            }
        });
        return normals;
    }

    private static bool[] Flood(SelectionItems items, int seed, int most, Func<int, int, bool> passes)
    {
        var neighbours = items.Mesh.Topology.Neighbours;
        var taken = new bool[items.Count];
        var queue = new Queue<int>();
        taken[seed] = true;
        queue.Enqueue(seed);
        for (var count = 1; queue.TryDequeue(out var t) && count < most;)
        {
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                var n = neighbours[h];
                if (n >= 0 && !taken[n] && passes(t, n))
                {
                    taken[n] = true;
                    count++;
                    queue.Enqueue(n);
                }
            }
        }

        return taken;
    }
}
