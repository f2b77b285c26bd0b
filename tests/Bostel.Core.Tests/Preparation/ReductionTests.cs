using Bostel.Core.Meshes;
using Bostel.Core.Preparation;

namespace Bostel.Core.Tests.Preparation;

/// <summary>Reduction against closed forms, and its stated deviation against brute force.</summary>
public class ReductionTests
{
    [Fact]
    public void ACubeKeepsItsEdgesExactly()
    {
        var cube = Shapes.Cube(10, 12);
        var reduced = Reduction.Within(cube, 0.001);
        Assert.InRange(reduced.Mesh.TriangleCount, 12, cube.TriangleCount / 8);
        Assert.InRange(reduced.Deviation, 0, 0.001);
        Assert.Equal(1000, Shapes.Volume(reduced.Mesh), 1000 * 1e-4);
        Assert.Equal(600, reduced.Mesh.Area(), 0.1);
        Assert.Equal(0, reduced.Mesh.Topology.BoundaryEdges);
    }

    [Theory]
    [InlineData(0.5)]
    [InlineData(0.25)]
    [InlineData(0.05)]
    public void TheCountIsReachedAndTheSurfaceStaysOneClosedPiece(double share)
    {
        var sphere = Shapes.Sphere(10, 5);
        var target = (int)(share * sphere.TriangleCount);
        var reduced = Reduction.ToCount(sphere, target).Mesh;
        Assert.InRange(reduced.TriangleCount, target - 2, target);
        var sheet = MeshSheet.Of(reduced);
        Assert.Equal((0, 0, 0, 0, 1), (sheet.BorderEdges, sheet.NonManifoldEdges, sheet.FlippedEdges, sheet.Degenerate, sheet.Pieces));

        // A triangulated sphere with vertices near it encloses at least what its chords leave: one area element a triangle has a sagitta of
        // A/(4πR)·….
        var sagitta = 4 * Math.PI * 100 / target / (4 * 10);
        Assert.InRange(Math.Abs(Shapes.Volume(reduced) / (4.0 / 3 * Math.PI * 1000) - 1), 0, 3 * sagitta / 10);
    }

    [Fact]
    public void TheStatedDeviationIsTheMeasuredOne()
    {
        var bumpy = Shapes.Field(20, 40, (x, y) => Math.Sin(x / 3) * Math.Cos(y / 4));
        var reduced = Reduction.ToCount(bumpy, 400);
        var brute = Math.Max(Farthest(bumpy, reduced.Mesh), Farthest(reduced.Mesh, bumpy));
        Assert.Equal(brute, reduced.Deviation, 9);
        Assert.True(reduced.Deviation < 0.2);
    }

    [Theory]
    [InlineData(0.02, 0.9)]
    [InlineData(0.1, 0.3)]
    public void WithinNeverGoesFartherThanAllowed(double limit, double share)
    {
        var bumpy = Shapes.Noisy(Shapes.Field(20, 60, (x, y) => Math.Sin(x / 3) * Math.Cos(y / 4)), 0.004, 3);
        var reduced = Reduction.Within(bumpy, limit);
        Assert.InRange(Math.Max(Farthest(bumpy, reduced.Mesh), Farthest(reduced.Mesh, bumpy)), 0, limit);
        Assert.InRange(reduced.Mesh.TriangleCount, 4, share * bumpy.TriangleCount);
    }

    [Fact]
    public void BordersStayWhereTheyAre()
    {
        var plate = Shapes.Field(20, 30, (_, _) => 0);
        var reduced = Reduction.ToCount(plate, 60).Mesh;
        Assert.Equal(400, reduced.Area(), 1e-3 * 400);
        Assert.Equal(20, reduced.Bounds.Size.X, 0.01);
    }

    [Fact]
    public void PatchesStayPatches()
    {
        var sphere = Shapes.Sphere(10, 4);
        var open = sphere.KeepTriangles(t => sphere.Triangle(t).A.Z < 8);
        var (filled, _) = HoleFilling.Fill(open, _ => true, curved: true);
        var reduced = Reduction.ToCount(filled, filled.TriangleCount / 3).Mesh;
        Assert.InRange(reduced.MeasuredTriangleCount, 1, reduced.TriangleCount - 1);
        for (var v = reduced.MeasuredVertexCount; v < reduced.VertexCount; v++)
        {
            Assert.True(reduced.Vertex(v).Z > 7);
        }
    }

    [Fact]
    public void TheSameInputGivesTheSameBits()
    {
        var noisy = Shapes.Noisy(Shapes.Sphere(10, 4), 0.01, 1);
        Assert.Equal(Reduction.ToCount(noisy, 900).Mesh.Coordinates, Reduction.ToCount(noisy, 900).Mesh.Coordinates);
    }

    [Fact]
    public void ImpossibleWishesAreRefused()
    {
        var cube = Shapes.Cube(1, 1);
        Assert.Contains("triangles", Assert.Throws<BadInputException>(() => Reduction.ToCount(cube, 2)).Message, StringComparison.Ordinal);
        Assert.Contains(
            "maxDeviation", Assert.Throws<BadInputException>(() => Reduction.Within(cube, double.NaN)).Message, StringComparison.Ordinal);
        Assert.Same(cube, Reduction.ToCount(cube, 12).Mesh);
    }

    private static double Farthest(TriangleMesh points, TriangleMesh surface) => Enumerable.Range(0, points.VertexCount).AsParallel()
        .Max(v => Enumerable.Range(0, surface.TriangleCount)
            .Min(t => Spatial.ClosestPointTests.Independent(points.Vertex(v), surface.Triangle(t))));
}
