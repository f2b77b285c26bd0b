using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;

namespace Bostel.Benchmarks;

/// <summary>
/// Preparing a scan of two million triangles. Each line starts from a fresh mesh, so nothing remembered from the line before helps.
/// </summary>
internal static class PreparationBenchmarks
{
    public static void Add(BenchTable table)
    {
        var context = new PreparationContext(null, null);
        var ball = GeneratedData.Bumpy(707, 2, 0.05);
        var size = $"{ball.TriangleCount:N0} triangles";
        TriangleMesh Fresh() => new(ball.Coordinates, ball.Indices);

        var strays = GeneratedData.Bumpy(12, 3, 0).Scaled(0.05);
        TriangleMesh scattered = new([.. ball.Coordinates, .. strays.Coordinates.Select(c => c + 80)],
            [.. ball.Indices, .. strays.Indices.Select(i => i + ball.VertexCount)]);
        table.Time($"drop loose pieces of {size}", () => new TriangleMesh(scattered.Coordinates, scattered.Indices),
            m => new KeepPartStep().Apply(m, context), null, "adjacency included");

        var random = new Random(5);
        var centers = Enumerable.Range(0, 200).Select(_ => ball.Vertex(random.Next(ball.VertexCount))).ToArray();
        var near = Selection.Resolve(
            ball, [.. centers.Select(c => new BrushTerm { Frame = Frame.Scan, Path = c.ToArray(), Radius = 0.8 })], context);
        var holed = ball.KeepTriangles(t => !near[t]);
        table.Time(
            $"fill {BoundaryLoops.Find(holed).Count} holes of it, following the curvature",
            () => new TriangleMesh(holed.Coordinates, holed.Indices), m => new FillStep { MaxDiameter = 10 }.Apply(m, context),
            6900, "adjacency included");
        table.Time("reduce it to 25 %", Fresh, m => Reduction.Collapse(m, ball.TriangleCount / 4), 48_000, "the collapse alone");
        table.Time("the same, with the reached deviation measured", Fresh, m => Reduction.ToCount(m, ball.TriangleCount / 4), 48_000);
        table.Time("smooth it, ten passes", Fresh, m => Smoothing.Smooth(m, null, 10, 0.1), 364, "adjacency included");
        table.Time("data sheet of it", Fresh, m => MeshSheet.Of(m));
        var lasso = new LassoTerm
        {
            Frame = Frame.Scan,
            Point = [0, 0, 0],
            Normal = [0, 0, 1],
            Right = [1, 0, 0],
            Path = [-20, -20, 20, -20, 20, 20, -20, 20]
        };
        table.Time("select by outline, what is seen", () => Selection.Resolve(ball, [lasso], context));
    }
}
