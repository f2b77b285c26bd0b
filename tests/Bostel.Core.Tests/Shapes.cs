using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Tests;

/// <summary>Meshes whose truth is known in closed form, oriented outward.</summary>
internal static class Shapes
{
    /// <summary>An icosahedron divided n times, its vertices on a sphere: 20·4ⁿ triangles.</summary>
    public static TriangleMesh Sphere(double radius, int divisions)
    {
        var g = (1 + Math.Sqrt(5)) / 2;
        List<Vector3D> points = [new(-1, g, 0), new(1, g, 0), new(-1, -g, 0), new(1, -g, 0), new(0, -1, g), new(0, 1, g), new(0, -1, -g),
            new(0, 1, -g), new(g, 0, -1), new(g, 0, 1), new(-g, 0, -1), new(-g, 0, 1)];
        List<int> triangles =
        [
            0, 11, 5, 0, 5, 1, 0, 1, 7, 0, 7, 10, 0, 10, 11, 1, 5, 9, 5, 11, 4, 11, 10, 2, 10, 7, 6, 7, 1, 8,
            3, 9, 4, 3, 4, 2, 3, 2, 6, 3, 6, 8, 3, 8, 9, 4, 9, 5, 2, 4, 11, 6, 2, 10, 8, 6, 7, 9, 8, 1,
        ];
        for (var d = 0; d < divisions; d++)
        {
            var middles = new Dictionary<(int, int), int>();
            int Middle(int a, int b)
            {
                var key = a < b ? (a, b) : (b, a);
                if (!middles.TryGetValue(key, out var m))
                {
                    middles[key] = m = points.Count;
                    points.Add(0.5 * (points[a] + points[b]));
                }

                return m;
            }

            List<int> finer = [];
            for (var t = 0; t < triangles.Count; t += 3)
            {
                var (a, b, c) = (triangles[t], triangles[t + 1], triangles[t + 2]);
                var (ab, bc, ca) = (Middle(a, b), Middle(b, c), Middle(c, a));
                finer.AddRange([a, ab, ca, b, bc, ab, c, ca, bc, ab, bc, ca]);
            }

            triangles = finer;
        }

        return Mesh(points.Select(p => radius * p.Normalized()), triangles);
    }

    /// <summary>A square of the plane z = f(x, y), n by n cells over [0, size]², normals up.</summary>
    public static TriangleMesh Field(double size, int n, Func<double, double, double> height)
    {
        var points = Enumerable.Range(0, (n + 1) * (n + 1)).Select(i => new Vector3D(size * (i % (n + 1)) / n, size * (i / (n + 1)) / n, 0))
            .Select(p => p with { Z = height(p.X, p.Y) });
        List<int> triangles = [];
        for (var y = 0; y < n; y++)
        {
            for (var x = 0; x < n; x++)
            {
                var a = (y * (n + 1)) + x;
                triangles.AddRange([a, a + 1, a + n + 2, a, a + n + 2, a + n + 1]);
            }
        }

        return Mesh(points, triangles);
    }

    /// <summary>The cube [0, size]³ with n by n cells a face, welded.</summary>
    public static TriangleMesh Cube(double size, int n)
    {
        var numbers = new Dictionary<(int, int, int), int>();
        List<Vector3D> points = [];
        List<int> triangles = [];
        int Of((int X, int Y, int Z) p)
        {
            if (!numbers.TryGetValue(p, out var v))
            {
                numbers[p] = v = points.Count;
                points.Add(size / n * new Vector3D(p.X, p.Y, p.Z));
            }

            return v;
        }

        foreach (var (side, u, v) in (((int, int, int), (int, int, int), (int, int, int))[])[((0, 0, 0), (0, 1, 0), (1, 0, 0)),
            ((0, 0, n), (1, 0, 0), (0, 1, 0)), ((0, 0, 0), (1, 0, 0), (0, 0, 1)), ((0, n, 0), (0, 0, 1), (1, 0, 0)),
            ((0, 0, 0), (0, 0, 1), (0, 1, 0)), ((n, 0, 0), (0, 1, 0), (0, 0, 1))])
        {
            for (var i = 0; i < n; i++)
            {
                for (var j = 0; j < n; j++)
                {
                    (int, int, int) At(int a, int b) =>
                        (side.Item1 + (a * u.Item1) + (b * v.Item1), side.Item2 + (a * u.Item2) + (b * v.Item2),
                            side.Item3 + (a * u.Item3) + (b * v.Item3));
                    triangles.AddRange(
                        [Of(At(i, j)), Of(At(i + 1, j)), Of(At(i + 1, j + 1)), Of(At(i, j)), Of(At(i + 1, j + 1)), Of(At(i, j + 1))]);
                }
            }
        }

        return Mesh(points, triangles);
    }

    public static TriangleMesh Mesh(IEnumerable<Vector3D> points, IEnumerable<int> triangles) =>
        new([.. points.SelectMany(p => p.ToArray())], [.. triangles]);

    /// <summary>Each vertex moved by a normally distributed amount along its normal.</summary>
    public static TriangleMesh Noisy(TriangleMesh mesh, double sigma, int seed)
    {
        var random = new Random(seed);
        var moved = (double[])mesh.Coordinates.Clone();
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            var d = sigma * Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
            for (var k = 0; k < 3; k++)
            {
                moved[(3 * v) + k] += d * mesh.VertexNormals[(3 * v) + k];
            }
        }

        return mesh.WithCoordinates(moved);
    }

    public static double Volume(TriangleMesh mesh) => Enumerable.Range(0, mesh.TriangleCount).Sum(t =>
    {
        var (a, b, c) = mesh.Triangle(t);
        return a.Dot(b.Cross(c)) / 6;
    });
}
