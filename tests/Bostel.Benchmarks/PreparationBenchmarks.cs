using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;

namespace Bostel.Benchmarks;

/// <summary>Preparing a scan of a million triangles. Each line starts from a fresh mesh, so nothing remembered from the line before helps.</summary>
internal static class PreparationBenchmarks
{
    public static void Add(BenchTable table)
    {
        var context = new PreparationContext(null, null);
        var ball = CoreBenchmarks.Bumpy(500, 2, 0.05);
        var strays = CoreBenchmarks.Bumpy(12, 3, 0).Scaled(0.05);
        TriangleMesh Fresh() => new(ball.Coordinates, ball.Indices);
        TriangleMesh WithStrays() => new([.. ball.Coordinates, .. strays.Coordinates.Select(c => c + 80)], [.. ball.Indices, .. strays.Indices.Select(i => i + ball.VertexCount)]);
        var scattered = WithStrays();
        table.Time($"drop loose pieces of {ball.TriangleCount:N0} triangles", () => PrepareSteps.Apply(new("keep-part"), new(scattered.Coordinates, scattered.Indices), context), "adjacency included");

        var random = new Random(5);
        var centers = Enumerable.Range(0, 200).Select(_ => ball.Vertex(random.Next(ball.VertexCount))).ToArray();
        var near = Selection.Resolve(ball, [.. centers.Select(c => new SelectionTerm("brush") { Frame = "scan", Path = c.ToArray(), Radius = 0.8 })], context);
        var holed = ball.KeepTriangles(t => !near[t]);
        var holes = BoundaryLoops.Find(holed).Count;
        table.Time($"fill {holes} holes, following the curvature", () => PrepareSteps.Apply(new("fill") { MaxDiameter = 10 }, new(holed.Coordinates, holed.Indices), context), "adjacency included");
        table.Time($"reduce {ball.TriangleCount:N0} triangles to 25 %", () => Reduction.Collapse(Fresh(), ball.TriangleCount / 4), "the collapse alone");
        table.Time("the same, with the reached deviation measured", () => Reduction.ToCount(Fresh(), ball.TriangleCount / 4));
        var half = Enumerable.Range(0, ball.VertexCount).Select(v => ball.Vertex(v).X > 0).ToArray();
        table.Time("smooth half of it, ten passes", () => Smoothing.Smooth(Fresh(), half, 10, 0.1), "adjacency included");
        table.Time($"data sheet of {ball.TriangleCount:N0} triangles", () => MeshSheet.Of(Fresh()));
        var lasso = new SelectionTerm("lasso") { Frame = "scan", Point = [0, 0, 0], Normal = [0, 0, 1], Right = [1, 0, 0], Path = [-20, -20, 20, -20, 20, 20, -20, 20] };
        table.Time("select by lasso, what is seen", () => Selection.Resolve(ball, [lasso], context));
        _ = ball.Topology;
        table.Time("one plane section of it", () => PlaneSection.Cut(ball, Vector3D.UnitZ, 1.234), "adjacency known");
        var heights = Enumerable.Range(0, 50).Select(i => -45 + (1.8 * i)).ToArray();
        table.Time("fifty plane sections in one pass", () => PlaneSection.Cut(ball, Vector3D.UnitZ, heights), "adjacency known");
        var seed = ball.Vertex(ball.VertexCount / 2).ToArray();
        table.Time("grow a selection by curvature", () => Selection.Resolve(ball, [new("grow") { Frame = "scan", Point = seed, Angle = 4 }], context), "mesh prepared");
    }
}
