using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Comparison;

/// <summary>Deviating areas, coverage and wall thickness on shapes whose answer is known.</summary>
public class AreaAndThicknessTests
{
    [Fact]
    public void TwoBumpsAndADentAreThreeAreas()
    {
        // Cells of 1 mm: bumps of 5 × 5 and 3 × 3 vertices, a dent of 4 × 4 touching the first bump's corner region.
        var plate = Shapes.Field(40, 40, (_, _) => 0);
        var values = new double[plate.VertexCount];
        void Set(int x0, int y0, int size, double value)
        {
            for (var y = y0; y < y0 + size; y++)
            {
                for (var x = x0; x < x0 + size; x++)
                {
                    values[(y * 41) + x] = value;
                }
            }
        }

        Set(5, 5, 5, 0.3);
        Set(25, 25, 3, 0.2);
        Set(10, 5, 4, -0.4);
        values[(7 * 41) + 7] = 0.45;
        values[(39 * 41) + 39] = double.NaN;
        var areas = OutOfTolerance.Areas(new(plate), values, -0.1, 0.1);
        Assert.Equal([true, false, true], areas.Select(a => a.High));
        Assert.Equal([25, 16, 9], areas.Select(a => a.Vertices.Length));

        // A vertex inside stands for one cell.
        Assert.Equal([25.0, 16.0, 9.0], areas.Select(a => Math.Round(a.Area, 9)));
        Assert.Equal((0.45, new Vector3D(7, 7, 0)), (areas[0].Extreme, plate.Vertex(areas[0].At)));
        Assert.Equal([25.0, 16.0], OutOfTolerance.Areas(new(plate), values, -0.1, 0.1, smallest: 10).Select(a => Math.Round(a.Area, 9)));
        Assert.Empty(OutOfTolerance.Areas(new(plate), values, -1, 1));

        // The points alone tell the same areas.
        var cloud = OutOfTolerance.Areas(new(new TriangleMesh(plate.Coordinates, [])), values, -0.1, 0.1);
        Assert.Equal(areas.Select(a => (a.High, a.Extreme, a.At)), cloud.Select(a => (a.High, a.Extreme, a.At)));
        Assert.Equal([25.0, 16.0, 9.0], cloud.Select(a => Math.Round(a.Area, 9)));
    }

    [Fact]
    public void SharesWithinSeveralBandsAreWeightedByAreaAndNoDataIsInNone()
    {
        double[] values = [0, 0.05, -0.2, double.NaN];
        double[] areas = [1, 2, 3, 4];
        Assert.Equal(
            [0.1, 0.3, 0.6], OutOfTolerance.Shares(values, areas, [(-0.01, 0.01), (-0.1, 0.1), (-1, 1)]).Select(s => Math.Round(s, 12)));
    }

    [Fact]
    public void HalfOfAPartMeasuredIsHalfCovered()
    {
        // The cube's lower half, floor included: half of the sides (4 × 50) and the floor (100) of 600.
        var model = Box();
        var cube = Shapes.Cube(10, 10);
        var half = cube.KeepTriangles(t => Centre(cube, t).Z < 5).Transformed(RigidTransform.FromTranslation(new(100, 0, 0)));
        var result = NominalCoverage.Of(half, RigidTransform.FromTranslation(new(-100, 0, 0)), model, 0.1, 60_000);
        Assert.Equal(300.0 / 600, result.Whole, 0.01);
        var byHeight = model.Faces.Select(f => (f.Center.Z, Share: result.OfFace[f.Id])).ToList();
        Assert.All(byHeight, f => Assert.Equal(f.Z < 1 ? 1 : f.Z > 9 ? 0 : 0.5, f.Share, 0.03));
    }

    [Fact]
    public void APatchIsNoMeasurementAndTheInsideOfAWallNoneOfItsOutside()
    {
        var model = Box();
        var cube = Shapes.Cube(10, 10);
        var open = cube.KeepTriangles(t => Centre(cube, t).Z < 9.9);
        var (filled, _) = HoleFilling.Fill(open, _ => true, curved: false);
        Assert.Equal(500.0 / 600, NominalCoverage.Of(filled, RigidTransform.Identity, model, 0.1, 30_000).Whole, 0.01);
        Assert.Equal(0, NominalCoverage.Of(MeshRepair.Turn(cube, _ => true), RigidTransform.Identity, model, 0.1, 3_000).Whole);
        Assert.Equal(1, NominalCoverage.Of(new(cube.Coordinates, []), RigidTransform.Identity, model, 1.5, 3_000).Whole);
        Assert.Throws<BadInputException>(() => NominalCoverage.Of(cube, RigidTransform.Identity, model, 0));
    }

    [Fact]
    public void ThicknessOfACubeByRayAndBySphere()
    {
        var cube = Shapes.Cube(10, 10);
        var tree = new TriangleTree(cube);
        var (ray, sphere) = (WallThickness.ByRay(cube, tree, 50), WallThickness.BySphere(cube, tree, 50));
        for (var v = 0; v < cube.VertexCount; v++)
        {
            var p = cube.Vertex(v);
            var from = new[] { p.X, p.Y, p.Z }.Select(c => Math.Min(c, 10 - c)).Order().ToArray();

            // On a face: straight through is 10; the sphere is held by the nearest other wall, at distance a, to a diameter of 2a.
            if (from[1] > 0.5)
            {
                Assert.Equal(10, ray[v], 1e-6);
                Assert.Equal(Math.Min(10, 2 * from[1]), sphere[v], 1e-6);
            }
        }
    }

    /// <summary>The side of a plate is as thick as the plate by the sphere, however far it is straight through.</summary>
    [Fact]
    public void TheSideOfAPlateIsAsThickAsThePlate()
    {
        var cube = Shapes.Cube(10, 10);
        var plate = cube.WithCoordinates([.. cube.Coordinates.Select((c, i) => i % 3 == 2 ? 0.3 * c : c)]);
        var tree = new TriangleTree(plate);
        var (ray, sphere) = (WallThickness.ByRay(plate, tree, 8), WallThickness.BySphere(plate, tree, 8));
        var middle = Enumerable.Range(0, plate.VertexCount)
            .Where(v => plate.Vertex(v) is { X: 0, Z: > 1.4 and < 1.6, Y: > 3 and < 7 }).ToList();
        Assert.NotEmpty(middle);
        Assert.All(middle, v => Assert.True(double.IsNaN(ray[v])));
        Assert.All(middle, v => Assert.Equal(3, sphere[v], 1e-6));
    }

    [Theory]
    [InlineData(10, 8)]
    [InlineData(10, 9.5)]
    public void TheWallOfATubeIsTheDifferenceOfItsRadii(double outer, double inner)
    {
        var tube = Tube(outer, inner, 30, 180);
        var tree = new TriangleTree(tube);
        var (ray, sphere) = (WallThickness.ByRay(tube, tree, 20), WallThickness.BySphere(tube, tree, 20));

        // 180 sides: chords lie up to R(1 − cos 1°) = 0.0015 mm inside.
        foreach (var v in Enumerable.Range(0, tube.VertexCount).Where(v => Math.Abs(tube.Vertex(v).Z - 15) < 5))
        {
            Assert.Equal(outer - inner, ray[v], 0.004);
            Assert.Equal(outer - inner, sphere[v], 0.004);
        }
    }

    [Fact]
    public void WhereNoWallIsMetThereIsNoThickness()
    {
        var plate = Shapes.Field(10, 4, (_, _) => 0);
        Assert.All(WallThickness.ByRay(plate, new(plate), 50), d => Assert.True(double.IsNaN(d)));
        var cube = Shapes.Cube(10, 2);
        Assert.True(double.IsNaN(WallThickness.ByRay(
            cube, new(cube), 3)[Enumerable.Range(0, cube.VertexCount).First(v => cube.Vertex(v) == new Vector3D(5, 5, 0))]));
        Assert.Throws<BadInputException>(() => WallThickness.BySphere(new(cube.Coordinates, []), new(cube), 5));
    }

    private static Core.Nominals.NominalModel Box()
    {
        var mesh = Shapes.Cube(10, 1);
        var faces = Enumerable.Range(0, 6).Select(f => Core.Nominals.NominalFaceBuilder.Build(f, null, mesh, [2 * f, (2 * f) + 1]))
            .ToList();
        return new(mesh, [.. Enumerable.Range(0, 12).Select(t => t / 2)], faces, [], 0, []);
    }

    private static Vector3D Centre(TriangleMesh mesh, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        return (a + b + c) / 3;
    }

    /// <summary>A closed tube along z.</summary>
    private static TriangleMesh Tube(double outer, double inner, double height, int around)
    {
        const int Rows = 30;
        var points = new List<Vector3D>();
        foreach (var r in (double[])[outer, inner])
        {
            for (var k = 0; k <= Rows; k++)
            {
                points.AddRange(Enumerable.Range(0, around).Select(
                    i => new Vector3D(r * Math.Cos(2 * Math.PI * i / around), r * Math.Sin(2 * Math.PI * i / around), height * k / Rows)));
            }
        }

        var triangles = new List<int>();
        var wall = (Rows + 1) * around;
        void Quad(int a, int b, int c, int d) => triangles.AddRange([a, b, c, a, c, d]);
        for (var i = 0; i < around; i++)
        {
            var j = (i + 1) % around;
            for (var k = 0; k < Rows; k++)
            {
                var (low, high) = (k * around, (k + 1) * around);
                Quad(low + i, low + j, high + j, high + i);
                Quad(wall + low + j, wall + low + i, wall + high + i, wall + high + j);
            }

            Quad(j, i, wall + i, wall + j);
            Quad((Rows * around) + i, (Rows * around) + j, wall + (Rows * around) + j, wall + (Rows * around) + i);
        }

        return Shapes.Mesh(points, triangles);
    }
}
