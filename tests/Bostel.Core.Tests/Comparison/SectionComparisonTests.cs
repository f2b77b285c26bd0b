using Bostel.Core.Comparison;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Comparison;

/// <summary>Deviations, lines, arcs and corners within a section, against outlines whose truth is known.</summary>
public class SectionComparisonTests
{
    /// <summary>
    /// Circles of another radius, off centre: the deviation at each point is its distance from the centre less the radius.
    /// </summary>
    [Theory]
    [InlineData(10.05, 0, 0)]
    [InlineData(9.9, 0.03, -0.02)]
    public void ThePlaneDeviationOfACircleIsItsRadialOne(double radius, double dx, double dy)
    {
        const int Sides = 4000;
        var found = SectionDeviation.Of([Circle(radius, new(dx, dy, 5), 200)], [Circle(10, new(0, 0, 5), Sides)], Vector3D.UnitZ, new(1));
        var outline = Assert.Single(found);
        for (var i = 0; i < outline.Values.Length; i++)
        {
            var p = outline.Outline.Point(i);

            // The nominal is a polygon: its sides lie inside the circle by up to r (1 − cos(π/n)), 3e-6 mm.
            Assert.Equal(Math.Sqrt((p.X * p.X) + (p.Y * p.Y)) - 10, outline.Values[i], 4e-6);
        }

        var statistics = SectionDeviation.Statistics(found, -0.2, 0.2);
        Assert.Equal(1, statistics.WithinTolerance, 1e-12);
        Assert.Equal(outline.Values.Max(), statistics.Max);
    }

    [Fact]
    public void TheSideOfAThinWallIsTheOneThatFacesTheSameWay()
    {
        // A wall 0.4 mm thick; its outer side is 0.3 mm too far in, nearer to the nominal's inner side than to its outer.
        SectionOutline Wall(double outer) => Rectangle(0, 0, 40, outer);
        var found = Assert.Single(SectionDeviation.Of([Dense(Wall(0.1), 20)], [Wall(0.4)], Vector3D.UnitZ, new(1)));
        var top = Enumerable.Range(0, found.Values.Length).Where(i => found.Outline.Point(i) is { Y: > 0.09 } p && p.X is > 1 and < 39)
            .ToList();
        Assert.NotEmpty(top);
        Assert.All(top, i => Assert.Equal(-0.3, found.Values[i], 1e-9));
    }

    [Fact]
    public void BeyondTheSearchDistanceThereIsNoData()
    {
        var found = Assert.Single(SectionDeviation.Of([Circle(12, new(0, 0, 0), 60)], [Circle(10, default, 60)], Vector3D.UnitZ, new(1)));
        Assert.All(found.Values, v => Assert.True(double.IsNaN(v)));
        Assert.Throws<BadInputException>(() => SectionDeviation.Of([Circle(1, default, 9)], [], Vector3D.UnitZ, new(1)));
    }

    /// <summary>
    /// A plate with one rounded corner of each of four radii, with noise: four lines and four arcs, the radii within their noise.
    /// </summary>
    [Theory]
    [InlineData(0)]
    [InlineData(0.01)]
    public void LinesAndCornerRadiiAreFound(double noise)
    {
        double[] radii = [3, 5, 8, 2.5];
        var outline = RoundedPlate(60, 40, radii, 0.25, noise);
        var parts = OutlineParts.Split(outline, Vector3D.UnitZ, Math.Max(0.002, 4 * noise));
        var lines = parts.Where(p => p.Kind == "line").ToList();
        var arcs = parts.Where(p => p.Kind == "arc").ToList();
        Assert.Equal(4, lines.Count);
        Assert.Equal(4, arcs.Count);
        foreach (var radius in radii)
        {
            var nearest = arcs.MinBy(a => Math.Abs(a.Radius!.Value - radius))!;

            // A quarter circle of some 15 to 50 points with 0.01 mm of noise: a few hundredths.
            Assert.Equal(radius, nearest.Radius!.Value, noise == 0 ? 1e-6 : 0.1);
            Assert.False(nearest.Internal);
        }

        // Opposite sides are parallel and 60 and 40 mm apart, adjoining ones at right angles.
        var level = lines.Where(l => Math.Abs(l.Direction!.Value.X) > 0.9).ToList();
        var upright = lines.Where(l => Math.Abs(l.Direction!.Value.Y) > 0.9).ToList();
        Assert.Equal(40, OutlineParts.Between(level[0], level[1]).Distance, noise == 0 ? 1e-9 : 0.02);
        Assert.Equal(60, OutlineParts.Between(upright[0], upright[1]).Distance, noise == 0 ? 1e-9 : 0.02);
        Assert.Equal(Math.PI / 2, OutlineParts.Between(level[0], upright[0]).Angle, noise == 0 ? 1e-9 : 2e-3);
    }

    [Fact]
    public void ABoreInAPlateIsAHollowArc()
    {
        // Cut through a cube with a spherical hollow: the sphere's triangles turned inside out.
        var sphere = Shapes.Sphere(6, 5);
        var hollow = new Core.Meshes.TriangleMesh(
            sphere.Coordinates, [.. sphere.Indices.Chunk(3).SelectMany(t => new[] { t[0], t[2], t[1] })]);
        var part = Assert.Single(OutlineParts.Split(Assert.Single(PlaneSection.Cut(hollow, Vector3D.UnitZ, 1)), Vector3D.UnitZ, 0.01));
        Assert.True(part.Internal);
        Assert.Equal(Math.Sqrt(35), part.Radius!.Value, 0.01);
    }

    [Fact]
    public void ScansAreComparedWithScansAndTheirBordersSayNothing()
    {
        // A reference over [0, 40]², and a second scan 0.05 mm above it that reaches 5 mm beyond.
        var reference = Shapes.Field(40, 40, (x, y) => 0.01 * x * y / 10);
        var scan = Shapes.Field(45, 45, (x, y) => (0.01 * x * y / 10) + 0.05);
        var model = Core.Nominals.NominalModel.OfSurface(reference);
        var map = Deviation.Compute(scan, RigidTransform.Identity, model, new(reference), new(1) { BorderIsNoData = true });
        for (var v = 0; v < scan.VertexCount; v++)
        {
            var p = scan.Vertex(v);
            if (p.X < 39 && p.Y < 39 && p.X > 1 && p.Y > 1)
            {
                // The slope of the field is at most 0.06: 0.05 upright is 0.05 cos across it.
                Assert.InRange(map.Values[v], 0.05 * Math.Cos(0.06), 0.05);
            }
            else if (p.X > 40.5 || p.Y > 40.5)
            {
                Assert.True(double.IsNaN(map.Values[v]));
            }
        }

        var open = Deviation.Compute(scan, RigidTransform.Identity, model, new(reference), new(1));
        Assert.True(open.Values.Count(double.IsNaN) < map.Values.Count(double.IsNaN));
    }

    /// <summary>
    /// A cloud of the top of a sheet 0.5 mm thick that has sunk by 0.4: only the view direction tells that it is the top.
    /// </summary>
    [Fact]
    public void TheViewDirectionChoosesTheSideOfASheet()
    {
        var cube = Shapes.Cube(20, 10);
        var box = cube.Bounds;
        Core.Meshes.TriangleMesh sheet =
            new([.. cube.Coordinates.Select((c, i) => i % 3 == 2 ? (c - box.Min.Z) / 20 * 0.5 : c)], cube.Indices);
        Core.Meshes.TriangleMesh cloud =
            new([.. Enumerable.Range(0, 100)
                .SelectMany(i => new[] { box.Min.X + 4 + (i % 10 * 1.2), box.Min.Y + 4 + (i / 10 * 1.2), 0.1 })], []);
        var model = Core.Nominals.NominalModel.OfSurface(sheet);
        var index = new Core.Spatial.TriangleTree(sheet);
        Assert.All(Deviation.Compute(cloud, RigidTransform.Identity, model, index, new(1)).Values, v => Assert.Equal(-0.1, v, 1e-9));
        Assert.All(Deviation.Compute(cloud, RigidTransform.Identity, model, index, new(1) { ViewDirection = Vector3D.UnitZ }).Values,
            v => Assert.Equal(-0.4, v, 1e-9));
    }

    [Fact]
    public void StatisticsGoFaceByFace()
    {
        var nominal = DemoParts.Model("LB-045");
        var scan = new Core.Meshes.TriangleMesh(nominal.Mesh.Coordinates, nominal.Mesh.Indices);
        var map = Deviation.Compute(scan, RigidTransform.Identity, nominal, DemoParts.Tree("LB-045"), new(1));
        var faces = FaceStatistics.OfFaces(map, scan.VertexAreas, nominal, -0.1, 0.1);
        Assert.Equal(nominal.Faces.Count, faces.Count);
        Assert.Equal(map.Triangles.Count(t => t >= 0), faces.Sum(f => f.Count));
        var both = FaceStatistics.OfFeature(map, scan.VertexAreas, nominal, [0, 1], -0.1, 0.1);
        Assert.Equal(faces[0].Count + faces[1].Count, both.Count);
        Assert.Throws<BadInputException>(() => FaceStatistics.OfFeature(map, scan.VertexAreas, nominal, [999], -0.1, 0.1));
    }

    private static SectionOutline Circle(double radius, Vector3D center, int sides) => new([.. Enumerable.Range(0, sides).SelectMany(i =>
    {
        var (s, c) = Math.SinCos(2 * Math.PI * i / sides);
        return (center + new Vector3D(radius * c, radius * s, 0)).ToArray();
    })], true);

    private static SectionOutline Rectangle(double x0, double y0, double x1, double y1) =>
        new([x0, y0, 0, x1, y0, 0, x1, y1, 0, x0, y1, 0], true);

    private static SectionOutline Dense(SectionOutline outline, int pieces) =>
        new([.. Enumerable.Range(0, outline.Count).SelectMany(i => Enumerable.Range(0, pieces).SelectMany(k =>
        (outline.Point(i) + ((double)k / pieces * (outline.Point((i + 1) % outline.Count) - outline.Point(i)))).ToArray()))], true);

    private static SectionOutline RoundedPlate(double width, double height, double[] radii, double step, double noise)
    {
        var random = new Random(3);
        var points = new List<Vector3D>();
        Vector3D[] corners = [new(width, 0, 0), new(width, height, 0), new(0, height, 0), default];
        Vector3D[] along = [Vector3D.UnitX, Vector3D.UnitY, -Vector3D.UnitX, -Vector3D.UnitY];
        for (var k = 0; k < 4; k++)
        {
            var (d, r, before) = (along[k], radii[k], radii[(k + 3) % 4]);
            var length = (k % 2 == 0 ? width : height) - r - before;
            var left = Vector3D.UnitZ.Cross(d);
            var start = corners[k] - ((length + r) * d);
            for (var t = 0.0; t < length; t += step)
            {
                points.Add(start + (t * d) + (noise * Normal(random) * left));
            }

            var center = corners[k] - (r * d) + (r * left);
            for (var a = 0.0; a < Math.PI / 2; a += step / r)
            {
                var (s, c) = Math.SinCos(a);
                points.Add(center + ((r + (noise * Normal(random))) * ((s * d) - (c * left))));
            }
        }

        return new([.. points.SelectMany(p => p.ToArray())], true);
    }

    private static double Normal(Random random) =>
        Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
}
