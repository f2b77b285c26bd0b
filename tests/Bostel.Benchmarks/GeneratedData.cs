using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Benchmarks;

/// <summary>Meshes and points made from formulas, the same every time.</summary>
internal static class GeneratedData
{
    /// <summary>A closed bumpy ball of about 2·n² vertices and size 100 mm.</summary>
    public static TriangleMesh Bumpy(int n, int seed, double noise)
    {
        var random = new Random(seed);
        var across = 2 * n;
        var coordinates = new double[3 * (n + 1) * across];
        for (var i = 0; i <= n; i++)
        {
            for (var j = 0; j < across; j++)
            {
                var (u, v) = (Math.PI * i / n, Math.PI * j / n);
                var r = 50 + (3 * Math.Sin(5 * u) * Math.Cos(4 * v)) + (noise * (random.NextDouble() - 0.5));
                var at = 3 * ((i * across) + j);
                (coordinates[at], coordinates[at + 1], coordinates[at + 2]) =
                    (r * Math.Sin(u) * Math.Cos(v), r * Math.Sin(u) * Math.Sin(v), r * Math.Cos(u));
            }
        }

        var indices = new int[6 * n * across];
        for (var i = 0; i < n; i++)
        {
            for (var j = 0; j < across; j++)
            {
                var (a, b) = ((i * across) + j, (i * across) + ((j + 1) % across));
                var (c, d) = (a + across, b + across);
                ((int[])[a, c, d, a, d, b]).CopyTo(indices, 6 * ((i * across) + j));
            }
        }

        return new(coordinates, indices);
    }

    /// <summary>The bumpy ball with about this many vertices.</summary>
    public static TriangleMesh OfVertices(int count, double noise) => Bumpy((int)Math.Sqrt(count / 2.0), 1, noise);

    /// <summary>
    /// A scan of a sheet of 100 × 90 mm folded into nine flat strips, to and fro by 40°, with about so many vertices. The middle one
    /// crosses (50, 45, 0).
    /// </summary>
    public static TriangleMesh Folded(int vertices)
    {
        var n = (int)Math.Sqrt(vertices);
        var random = new Random(6);
        var coordinates = new double[3 * n * n];
        var indices = new List<int>(6 * n * n);
        for (var i = 0; i < n * n; i++)
        {
            var (x, y) = (100.0 * (i % n) / (n - 1), 90.0 * (i / n) / (n - 1));
            var along = y % 20;
            var z = Math.Tan(20 * Math.PI / 180) * (along < 10 ? along - 5 : 15 - along);
            (coordinates[3 * i], coordinates[(3 * i) + 1], coordinates[(3 * i) + 2]) = (x, y, z + (0.01 * (random.NextDouble() - 0.5)));
            if (i % n < n - 1 && i / n < n - 1)
            {
                indices.AddRange([i, i + 1, i + n + 1, i, i + n + 1, i + n]);
            }
        }

        return new(coordinates, [.. indices]);
    }

    /// <summary>A cylinder tessellated as CAD systems do: full-length triangles 0.05 mm wide and 200 mm long, and its end fans.</summary>
    public static TriangleMesh LongThin(int sides)
    {
        const double Radius = 50, Length = 200;
        var coordinates = new List<double>();
        var indices = new List<int>();
        for (var i = 0; i < sides; i++)
        {
            var (s, c) = Math.SinCos(2 * Math.PI * i / sides);
            coordinates.AddRange([Radius * c, Radius * s, 0, Radius * c, Radius * s, Length]);
        }

        coordinates.AddRange([0, 0, 0, 0, 0, Length]);
        for (var i = 0; i < sides; i++)
        {
            var (a, b, c, d) = (2 * i, (2 * i) + 1, 2 * ((i + 1) % sides), (2 * ((i + 1) % sides)) + 1);
            indices.AddRange([a, c, d, a, d, b, 2 * sides, c, a, (2 * sides) + 1, b, d]);
        }

        return new([.. coordinates], [.. indices]);
    }

    /// <summary>Points near the surface of that cylinder, along its rings.</summary>
    public static TriangleMesh AlongCylinder(int count)
    {
        var random = new Random(4);
        var coordinates = new double[3 * count];
        for (var i = 0; i < count; i++)
        {
            var (s, c) = Math.SinCos(2 * Math.PI * (i % 1000) / 1000.0);
            var r = 50 + (0.1 * (random.NextDouble() - 0.5));
            (coordinates[3 * i], coordinates[(3 * i) + 1], coordinates[(3 * i) + 2]) = (r * c, r * s, 200.0 * i / count);
        }

        return new(coordinates, []);
    }

    public static TriangleMesh Shuffled(TriangleMesh mesh)
    {
        var order = Enumerable.Range(0, mesh.VertexCount).ToArray();
        new Random(3).Shuffle(order);
        return new([.. order.SelectMany(i => mesh.Vertex(i).ToArray())], []);
    }

    public static byte[] Stl(TriangleMesh mesh)
    {
        using var memory = new MemoryStream();
        MeshFormats.Write(memory, "bench.stl", mesh);
        return memory.ToArray();
    }

    public static double[] Cylinder(int count) => Points(count, (u, v, e) =>
    {
        var (s, c) = Math.SinCos(2 * Math.PI * u);
        return new((20 + e) * c, (20 + e) * s, 60 * v);
    });

    public static double[] Sphere(int count) => Points(count, (u, v, e) =>
    {
        var z = (2 * v) - 1;
        var r = Math.Sqrt(1 - (z * z));
        return (20 + e) * new Vector3D(r * Math.Cos(2 * Math.PI * u), r * Math.Sin(2 * Math.PI * u), z);
    });

    public static double[] Plane(int count) => Points(count, (u, v, e) => new(100 * u, 80 * v, e));

    private static double[] Points(int count, Func<double, double, double, Vector3D> at)
    {
        var random = new Random(7);
        var turn = RigidTransform.FromAxisAngle(new(1, 2, 3), 0.8);
        var points = new double[3 * count];
        for (var i = 0; i < count; i++)
        {
            var p = turn.Rotate(at(random.NextDouble(), random.NextDouble(), 0.02 * (random.NextDouble() - 0.5)));
            (points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]) = p;
        }

        return points;
    }
}
