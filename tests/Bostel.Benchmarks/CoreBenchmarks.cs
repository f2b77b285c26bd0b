using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Fitting;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Segmentation;
using Bostel.Core.Spatial;
using Bostel.Scanner;

namespace Bostel.Benchmarks;

/// <summary>The core's work on generated data: what `bostel bench` prints.</summary>
public static class CoreBenchmarks
{
    /// <param name="demo">The demo nominal, for alignment and the whole run.</param>
    /// <param name="plan">Its plan.</param>
    public static BenchTable Run(NominalModel demo, InspectionPlan plan, int runs, Action<string> say)
    {
        var table = new BenchTable(runs, say);
        var sphere = Bumpy(316, 1, 0);
        var nominal = new NominalModel(sphere, new int[sphere.TriangleCount], [new(0, "freeform", 1, false, 0, 0, 0, default)], [], 0, []);
        var tree = new TriangleTree(sphere);
        var scan = Bumpy(708, 1, 0.05);
        var shuffled = Shuffled(scan);
        var options = new DeviationOptions(5);
        _ = scan.VertexNormals;
        _ = shuffled.VertexNormals;
        var stl = Stl(scan);
        table.Time($"read and weld a binary STL, {scan.TriangleCount:N0} triangles", () => MeshFormats.Read(new MemoryStream(stl), "bench.stl"));
        table.Time($"build the index, {sphere.TriangleCount:N0} triangles", () => _ = new TriangleTree(sphere));
        table.Time($"deviation, {scan.VertexCount:N0} points to {sphere.TriangleCount:N0} triangles", () => Deviation.Compute(scan, RigidTransform.Identity, nominal, tree, options), "points in scan order");
        table.Time("the same, points in random order", () => Deviation.Compute(shuffled, RigidTransform.Identity, nominal, tree, options), "a cloud");
        table.Time("connected pieces", () => LoosePieces.Find(scan, null));
        var cylinder = Cylinder(1_000_000);
        table.Time("least-squares cylinder, 1,000,000 points, no start", () => LeastSquares.Cylinder(cylinder));
        var ball = Sphere(1_000_000);
        table.Time("least-squares sphere, 1,000,000 points", () => LeastSquares.Sphere(ball));
        var flat = Plane(100_000);
        table.Time("minimum-zone plane, 100,000 points", () => ExtremalFit.MinimumZonePlane(flat));

        PreparationBenchmarks.Add(table);
        say("scanning the demo part ...");
        var demoScan = SimulatedScanner.Scan(demo, new() { Seed = 5, Spacing = 0.95, Noise = 0.02 }).Mesh;
        var runner = new InspectionRunner(demo);
        var prepared = runner.Prepare(demoScan, plan);
        _ = prepared.Mesh.VertexNormals;
        table.Time($"align from any pose, {prepared.Mesh.TriangleCount:N0} triangles", () => SurfaceAlignment.FitToAllSurfaces(prepared.Mesh, runner.Tree), "coarse and fine");
        var bytes = Stl(demoScan);
        table.Time("demo plan, from file bytes to verdicts", () => runner.Run(MeshFormats.Read(new MemoryStream(bytes), "scan.stl").Mesh, plan), "12 characteristics");
        return table;
    }

    /// <summary>A closed bumpy ball of 2·n·(n−1)-ish triangles and size 100 mm.</summary>
    internal static TriangleMesh Bumpy(int n, int seed, double noise)
    {
        var random = new Random(seed);
        var coordinates = new List<double>();
        for (var i = 0; i <= n; i++)
        {
            for (var j = 0; j < n * 2; j++)
            {
                var (u, v) = (Math.PI * i / n, Math.PI * j / n);
                var r = 50 + (3 * Math.Sin(5 * u) * Math.Cos(4 * v)) + (noise * (random.NextDouble() - 0.5));
                coordinates.AddRange([r * Math.Sin(u) * Math.Cos(v), r * Math.Sin(u) * Math.Sin(v), r * Math.Cos(u)]);
            }
        }

        var indices = new List<int>();
        for (var i = 0; i < n; i++)
        {
            for (var j = 0; j < n * 2; j++)
            {
                var (a, b) = ((i * n * 2) + j, (i * n * 2) + ((j + 1) % (n * 2)));
                var (c, d) = (a + (n * 2), b + (n * 2));
                indices.AddRange([a, c, d, a, d, b]);
            }
        }

        return new([.. coordinates], [.. indices]);
    }

    private static TriangleMesh Shuffled(TriangleMesh mesh)
    {
        var order = Enumerable.Range(0, mesh.VertexCount).ToArray();
        new Random(3).Shuffle(order);
        return new([.. order.SelectMany(i => mesh.Vertex(i).ToArray())], []);
    }

    private static byte[] Stl(TriangleMesh mesh)
    {
        using var memory = new MemoryStream();
        MeshFormats.Write(memory, "bench.stl", mesh);
        return memory.ToArray();
    }

    private static double[] Cylinder(int count) => Points(count, (u, v, e) =>
    {
        var (s, c) = Math.SinCos(2 * Math.PI * u);
        return new((20 + e) * c, (20 + e) * s, 60 * v);
    });

    private static double[] Sphere(int count) => Points(count, (u, v, e) =>
    {
        var z = (2 * v) - 1;
        var r = Math.Sqrt(1 - (z * z));
        return (20 + e) * new Vector3D(r * Math.Cos(2 * Math.PI * u), r * Math.Sin(2 * Math.PI * u), z);
    });

    private static double[] Plane(int count) => Points(count, (u, v, e) => new(100 * u, 80 * v, e));

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
