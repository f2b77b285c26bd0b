using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Fitting;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Selecting;
using Bostel.Core.Spatial;
using Bostel.Scanner;

namespace Bostel.Benchmarks;

/// <summary>The core's work on generated data, in groups that each run in a process of their own: what `bostel bench` prints.</summary>
public static class CoreBenchmarks
{
    /// <summary>Names of the groups in the order of the table.</summary>
    public static readonly string[] Groups = ["mesh-200k", "mesh-1M", "mesh-5M", "deviation", "fits", "prepare", "align", "plan"];

    /// <param name="group">One of <see cref="Groups"/>.</param>
    /// <param name="demo">The demo nominal and its plan, read when a group needs them.</param>
    public static BenchTable Run(string group, Func<(NominalModel Nominal, InspectionPlan Plan)> demo, int runs, Action<string> say)
    {
        var table = new BenchTable(runs, say);
        switch (group)
        {
            case "mesh-200k":
                Meshes(table, 200_000, 30);
                break;
            case "mesh-1M":
                Meshes(table, 1_000_000, 244);
                break;
            case "mesh-5M":
                Meshes(table, 5_000_000, 1270);
                break;
            case "deviation":
                Deviations(table);
                break;
            case "fits":
                Fits(table);
                break;
            case "prepare":
                PreparationBenchmarks.Add(table);
                break;
            case "align":
                Alignments(table, demo().Nominal);
                break;
            case "plan":
                Plan(table, demo());
                break;
            default:
                throw new Core.BadInputException($"--group: '{group}' is none of {string.Join(", ", Groups)}.");
        }

        return table;
    }

    private static void Meshes(BenchTable table, int vertices, double native)
    {
        var scan = GeneratedData.OfVertices(vertices, 0.05);
        var size = $"{scan.VertexCount:N0} vertices";
        TriangleMesh Fresh() => new(scan.Coordinates, scan.Indices);
        var stl = GeneratedData.Stl(scan);
        table.Time($"read and weld a binary STL, {size}", () => MeshFormats.Read(new MemoryStream(stl), "bench.stl"), native,
            nativeHere: () => NativeWeld.CpuMs(stl, table.Runs));
        table.Time($"adjacency and normals, {size}", Fresh, m => _ = (m.Topology, m.VertexNormals));
        table.Time($"build the index, {size}", Fresh, m => _ = new TriangleTree(m));
        var nominal = NominalModel.OfSurface(GeneratedData.Bumpy(316, 1, 0));
        var tree = new TriangleTree(nominal.Mesh);
        _ = scan.VertexNormals;
        table.Time($"deviation from {nominal.Mesh.TriangleCount:N0} triangles, {size}",
            () => Deviation.Compute(scan, RigidTransform.Identity, nominal, tree, new(5)));
        _ = scan.Topology;
        table.Time($"one plane section, {size}", () => PlaneSection.Cut(scan, Vector3D.UnitZ, 1.234));
        table.Time($"fifty plane sections in one pass, {size}",
            () => PlaneSection.Cut(scan, Vector3D.UnitZ, Enumerable.Range(0, 50).Select(i => -45 + (1.8 * i)).ToArray()));
        var context = new PreparationContext(null, null);
        var seed = scan.Vertex(scan.VertexCount / 2).ToArray();
        table.Time($"grow a region by curvature, {size}",
            () => Selection.Resolve(scan, [new GrowTerm { Frame = Frame.Scan, Point = seed, AngleDegrees = 4 }], context), null,
            "mesh prepared");
        var sheet = GeneratedData.Folded(vertices);
        _ = (sheet.Topology, sheet.SmoothFaceNormals);
        table.Time($"grow a region by surface kind, {sheet.VertexCount:N0} vertices", () => Selection.Resolve(
            sheet, [new SurfaceTerm { Frame = Frame.Scan, Point = [50, 45, 0] }], context), null, "a ninth of it; mesh prepared");
    }

    private static void Deviations(BenchTable table)
    {
        var scan = GeneratedData.OfVertices(1_000_000, 0.05);
        var shuffled = GeneratedData.Shuffled(scan);
        _ = scan.VertexNormals;
        var surface = GeneratedData.Bumpy(224, 1, 0);
        table.Time($"index and deviation, {scan.VertexCount:N0} points to {surface.TriangleCount:N0} triangles", () => Fresh(surface),
            n => Deviation.Compute(scan, RigidTransform.Identity, n, new(n.Mesh), new(5)), 823, "in scan order");
        table.Time("the same, points in random order", () => Fresh(surface),
            n => Deviation.Compute(shuffled, RigidTransform.Identity, n, new(n.Mesh), new(5)), 823, "a cloud");
        var slivers = GeneratedData.LongThin(6283);
        var near = GeneratedData.AlongCylinder(1_000_000);
        table.Time($"the same, {near.VertexCount:N0} points to {slivers.TriangleCount:N0} long thin triangles", () => Fresh(slivers),
            n => Deviation.Compute(near, RigidTransform.Identity, n, new(n.Mesh), new(5)), 2469, "0.05 × 200 mm");
        var tree = new TriangleTree(surface);
        table.Time($"wall thickness by ray, {surface.VertexCount:N0} points", () => WallThickness.ByRay(surface, tree, 200));

        static NominalModel Fresh(TriangleMesh mesh) => NominalModel.OfSurface(new(mesh.Coordinates, mesh.Indices));
    }

    private static void Fits(BenchTable table)
    {
        var cylinder = GeneratedData.Cylinder(1_000_000);
        table.Time("least-squares cylinder, 1,000,000 points, no start", () => LeastSquares.Cylinder(cylinder).OrThrow(), 92);
        var ball = GeneratedData.Sphere(1_000_000);
        table.Time("least-squares sphere, 1,000,000 points", () => LeastSquares.Sphere(ball).OrThrow(), 59);
        var flat = GeneratedData.Plane(100_000);
        table.Time("minimum-zone plane, 100,000 points", () => ExtremalFit.MinimumZonePlane(flat));
        var round = GeneratedData.Cylinder(100_000);
        table.Time("minimum-zone cylinder, 100,000 points", () => ExtremalFit.Cylinder(round, Criterion.MinimumZone));
        table.Time("minimum-circumscribed cylinder, 100,000 points", () => ExtremalFit.Cylinder(round, Criterion.MinimumCircumscribed));
        var sphere = GeneratedData.Sphere(100_000);
        table.Time("minimum-zone sphere, 100,000 points", () => ExtremalFit.Fit("sphere", Criterion.MinimumZone, sphere));
        var some = GeneratedData.Cylinder(20_000);
        table.Time("Tukey cylinder, 20,000 points, no start",
            () => RobustFit.Try("cylinder", some, Known.Nothing, null, new(RobustMethod.Tukey)).OrThrow());
    }

    private static void Alignments(BenchTable table, NominalModel nominal)
    {
        var runner = new InspectionRunner(nominal);
        var scan = runner.Prepare(SimulatedScanner.Scan(nominal, new() { Seed = 5, Spacing = 0.95, Noise = 0.02 }).Mesh, new()).Mesh;
        _ = scan.VertexNormals;
        var size = nominal.Mesh.Bounds.Diagonal;
        var pose = SurfaceAlignment.FitToAllSurfaces(scan, runner.Target).Transform;
        var off = RigidTransform.FromTwist(5 * Math.PI / 180 * new Vector3D(1, 2, -1).Normalized(),
            0.02 * size * new Vector3D(2, -1, 1).Normalized(), nominal.Mesh.Bounds.Center).After(pose);
        table.Time($"fine alignment from 5° and 2 % off, {scan.VertexCount:N0} vertices",
            () => SurfaceAlignment.RefineFrom(scan, runner.Target, off), 235, "native: 20,000 of them");
        table.Time($"align from any pose, {scan.VertexCount:N0} vertices", () => SurfaceAlignment.FitToAllSurfaces(scan, runner.Target),
            2900, "coarse and fine");
    }

    private static void Plan(BenchTable table, (NominalModel Nominal, InspectionPlan Plan) demo)
    {
        var bytes = GeneratedData.Stl(SimulatedScanner.Scan(demo.Nominal, new() { Seed = 5, Spacing = 0.95, Noise = 0.02 }).Mesh);
        var runner = new InspectionRunner(demo.Nominal);
        table.Time("demo plan, from file bytes to verdicts",
            () => runner.Run(MeshFormats.Read(new MemoryStream(bytes), "scan.stl").Mesh, demo.Plan), null,
            $"{demo.Plan.Characteristics.Count} characteristics");
    }
}
