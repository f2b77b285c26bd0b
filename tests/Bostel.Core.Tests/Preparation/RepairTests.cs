using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Preparation;

/// <summary>Repairs, the data sheet and its advice, on meshes with planted faults.</summary>
public class RepairTests
{
    [Fact]
    public void TheDataSheetOfACubeIsItsClosedForm()
    {
        var sheet = MeshSheet.Of(Shapes.Cube(10, 5));
        Assert.Equal(600, sheet.Area, 9);
        Assert.Equal(1000, sheet.Volume!.Value, 9);
        Assert.Equal(
            (300, 152, 1, true, 0, 0), (sheet.Triangles, sheet.Vertices, sheet.Pieces, sheet.Closed, sheet.HoleCount, sheet.BorderEdges));
        Assert.Equal((0, 0, 0, 0, false), (sheet.NonManifoldEdges, sheet.Degenerate, sheet.Duplicate, sheet.FlippedEdges, sheet.InsideOut));

        // Two legs of 2 mm and a hypotenuse of 2√2 a triangle.
        Assert.Equal((4 + Math.Sqrt(8)) / 3, sheet.MeanEdge, 12);
        Assert.Empty(PrepareAdvice.For(sheet, ConnectedPieces.Find(Shapes.Cube(10, 5), null).Pieces));
    }

    [Fact]
    public void TurnedTrianglesAreCountedAndTurnedBack()
    {
        var sphere = Shapes.Sphere(10, 3);
        var random = new Random(3);
        var bad = Enumerable.Range(0, sphere.TriangleCount).Select(_ => random.Next(10) == 0).ToArray();
        var mixed = MeshRepair.Turn(sphere, t => bad[t]);
        Assert.True(MeshSheet.Of(mixed).FlippedEdges > 0);
        Assert.Null(MeshSheet.Of(mixed).Volume);
        Assert.Contains(Advice(mixed), a => a.Step?.Kind == "orient" && a.Matters);
        var (mended, turned) = MeshRepair.OrientConsistently(mixed);
        Assert.Equal(bad.Count(b => b), turned);
        Assert.Equal(sphere.Indices.Length, mended.Indices.Length);
        Assert.Equal(0, MeshSheet.Of(mended).FlippedEdges);
        Assert.Equal(Shapes.Volume(sphere), Shapes.Volume(mended), 1e-9);
    }

    [Fact]
    public void AnInsideOutSolidIsTurned()
    {
        var inside = MeshRepair.Turn(Shapes.Cube(10, 2), _ => true);
        Assert.True(MeshSheet.Of(inside).InsideOut);
        Assert.Contains(Advice(inside), a => a.Step?.Kind == "flip");
        Assert.Equal(1000, Shapes.Volume(MeshRepair.OrientConsistently(inside).Mesh), 1e-9);
    }

    [Fact]
    public void AnOpenSheetTakesTheSenseOfMostOfItsArea()
    {
        var plate = Shapes.Field(10, 10, (_, _) => 0);
        var mixed = MeshRepair.Turn(plate, t => t < 40);
        var (mended, turned) = MeshRepair.OrientConsistently(mixed);
        Assert.Equal(40, turned);
        Assert.Equal(plate.Indices.Length, mended.Indices.Length);
        Assert.All(Enumerable.Range(0, mended.TriangleCount),
            t => Assert.True((mended.Triangle(t).B - mended.Triangle(t).A).Cross(mended.Triangle(t).C - mended.Triangle(t).A).Z > 0));
    }

    [Fact]
    public void ThreeSheetsOnOneEdgeComeApartWithoutMoving()
    {
        // Three squares that share the edge from (0,0,0) to (0,0,1).
        var fan = new TriangleMesh([0, 0, 0, 0, 0, 1, 1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1, -1, -1, 0, -1, -1, 1],
            [0, 2, 1, 1, 2, 3, 0, 4, 1, 1, 4, 5, 0, 6, 1, 1, 6, 7]);
        Assert.Equal(1, MeshSheet.Of(fan).NonManifoldEdges);
        var (split, copies) = MeshRepair.SplitNonManifold(fan);
        var sheet = MeshSheet.Of(split);
        Assert.Equal((0, 3, 4), (sheet.NonManifoldEdges, sheet.Pieces, copies));
        Assert.Equal(fan.Area(), split.Area(), 12);
        for (var i = 0; i < fan.Indices.Length; i++)
        {
            Assert.Equal(fan.Vertex(fan.Indices[i]), split.Vertex(split.Indices[i]));
        }
    }

    [Fact]
    public void TwoConesTouchingAtTheirTipsComeApart()
    {
        var upper = Shapes.Cube(1, 1);
        var touching = new TriangleMesh([.. upper.Coordinates, .. upper.Coordinates.Select(c => -c)],
            [.. upper.Indices, .. upper.Indices.Select(i => i + upper.VertexCount)]);
        var at = Enumerable.Range(0, upper.VertexCount).Single(v => upper.Vertex(v) == Vector3D.Zero);
        var joined = new TriangleMesh(touching.Coordinates, [.. touching.Indices.Select(i => i == at + upper.VertexCount ? at : i)]);
        var (split, copies) = MeshRepair.SplitNonManifold(joined);
        Assert.Equal(1, copies);
        Assert.Equal(joined.Area(), split.Area(), 12);
        Assert.Equal(0, MeshRepair.SplitNonManifold(split).Copies);
    }

    [Fact]
    public void DegenerateAndDoubleTrianglesGo()
    {
        var cube = Shapes.Cube(10, 2);
        var dirty = new TriangleMesh([.. cube.Coordinates, 5, 0, 0, 7, 0, 0, 9, 0, 0],
            [.. cube.Indices, .. cube.Indices[..9], .. new[] { cube.VertexCount, cube.VertexCount + 1, cube.VertexCount + 2 }]);
        var sheet = MeshSheet.Of(dirty);
        Assert.Equal((1, 3), (sheet.Degenerate, sheet.Duplicate));
        var cleaned = new CleanStep().Apply(dirty, new(null, null));
        Assert.Equal(cube.TriangleCount, cleaned.Mesh.TriangleCount);
        Assert.Contains("4 triangles", cleaned.Record.Said, StringComparison.Ordinal);
    }

    [Fact]
    public void HolesAndLoosePiecesAreAdvisedWithTheirStep()
    {
        var plate = Shapes.Field(60, 60, (_, _) => 0);
        var open = plate.KeepTriangles(t => !(plate.Triangle(t).A.X is > 10 and < 12 && plate.Triangle(t).A.Y is > 10 and < 12));
        var stray = Shapes.Sphere(2, 2).Transformed(RigidTransform.FromTranslation(new(90, 0, 0)));
        var both = new TriangleMesh(
            [.. open.Coordinates, .. stray.Coordinates], [.. open.Indices, .. stray.Indices.Select(i => i + open.VertexCount)]);
        var advice = Advice(both);
        Assert.Contains(advice, a => a.Step?.Kind == "keep-part" && a.Text.StartsWith("1 loose piece", StringComparison.Ordinal));
        var fill = Assert.Single(advice, a => a.Step?.Kind == "fill");
        var filled = fill.Step!.Apply(both, new(null, null)).Mesh;
        Assert.Equal(240, filled.Topology.BoundaryEdges);
    }

    [Theory]
    [InlineData(3, 1)]
    [InlineData(4, 2)]
    public void ABallRolledOverASphereClosesItWithEveryPoint(int divisions, int seed)
    {
        var sphere = Shapes.Noisy(Shapes.Sphere(10, divisions), 0.002, seed);
        var cloud = new TriangleMesh(sphere.Coordinates, []);
        var meshed = new MeshStep().Apply(cloud, new(null, null)).Mesh;
        var sheet = MeshSheet.Of(meshed);
        Assert.Equal((cloud.VertexCount, true, 0, false), (meshed.VertexCount, sheet.Closed, sheet.FlippedEdges, sheet.InsideOut));

        // Euler: a closed surface without handles has 2V − 4 triangles.
        Assert.Equal((2 * cloud.VertexCount) - 4, meshed.TriangleCount);
        Assert.Equal(cloud.Coordinates, meshed.Coordinates);
    }

    [Fact]
    public void AStepThatDoesNotApplyIsLeftOutAndSaysSo()
    {
        var cloud = new TriangleMesh(Shapes.Sphere(10, 2).Coordinates, []);
        var filled = new FillStep { MaxDiameter = 3 }.Apply(cloud, new(null, null));
        Assert.Same(cloud, filled.Mesh);
        Assert.Contains("cloud of points", filled.Record.Said, StringComparison.Ordinal);
        Assert.NotNull(filled.Record.Caution);
        var cube = Shapes.Cube(1, 1);
        Assert.Same(cube, new ThinStep { Spacing = 1 }.Apply(cube, new(null, null)).Mesh);
    }

    [Fact]
    public void AGapWiderThanTheBallStaysOpen()
    {
        var plate = Shapes.Field(20, 40, (x, y) => 0.02 * x * y);
        var points = Enumerable.Range(0, plate.VertexCount).Select(plate.Vertex)
            .Where(p => Math.Pow(p.X - 10, 2) + Math.Pow(p.Y - 10, 2) > 9);
        var cloud = Shapes.Mesh(points, []);
        var meshed = new MeshStep { Radius = 0.6 }.Apply(cloud, new(null, null)).Mesh;
        var loops = BoundaryLoops.Find(meshed);
        Assert.Equal(2, loops.Count);
        Assert.InRange(loops[1].Diameter, 6, 8);
    }

    [Fact]
    public void NormalsOfACloudGetOneSense()
    {
        var sphere = Shapes.Sphere(10, 4);
        var normals = CloudNormals.Oriented(sphere.Coordinates, 2.5);
        Assert.All(Enumerable.Range(0, normals.Length),
            v => Assert.InRange(normals[v].Dot(sphere.Vertex(v).Normalized()), 0.98, 1.0 + 1e-12));
    }

    private static IReadOnlyList<Advice> Advice(TriangleMesh mesh) =>
        PrepareAdvice.For(MeshSheet.Of(mesh), ConnectedPieces.Find(mesh, null).Pieces);
}
