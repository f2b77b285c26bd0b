using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Preparation;

/// <summary>The stand-in for a device does what its recipe says: tests rest on its truth.</summary>
public class SimulatedScannerTests
{
    private const string Part = "RC-077";

    [Fact]
    public void TheSameRecipeGivesTheSameBits()
    {
        var recipe = Quiet with { Noise = 0.01, Device = "laser-line", Misregistration = 0.01, NoiseGrowth = 1 };
        Assert.Equal(Scan(recipe).Mesh.Coordinates, Scan(recipe).Mesh.Coordinates);
        Assert.NotEqual(Scan(recipe).Mesh.Coordinates, Scan(recipe with { Seed = 9 }).Mesh.Coordinates);
    }

    [Theory]
    [InlineData(0.02)]
    [InlineData(0.1)]
    public void ACoatLiesOnEverything(double coat)
    {
        var deviations = Deviations(Scan(Quiet with { Coat = coat }).Mesh);
        Assert.Equal(coat, Median(deviations), 1e-3);
    }

    [Fact]
    public void NoiseIsAsStatedAndGrowsWithIncidence()
    {
        var even = Deviations(Scan(Quiet with { Noise = 0.02 }).Mesh);

        // Noise runs along the line of sight: across the surface it is at most as large, on most of it nearly so.
        Assert.InRange(Spread(even), 0.7 * 0.02, 0.02 * 1.05);
        Assert.True(Spread(Deviations(Scan(Quiet with { Noise = 0.02, Device = "turntable" }).Mesh)) < Spread(
            Deviations(Scan(Quiet with { Noise = 0.02, Device = "turntable", NoiseGrowth = 1.5 }).Mesh)));
    }

    [Fact]
    public void ATurntableDoesNotSeeFromBelowAndABaselineSeesLess()
    {
        var all = Scan(Quiet).Mesh.Area();
        var table = Scan(Quiet with { Device = "turntable" }).Mesh;
        Assert.True(table.Area() < 0.9 * all);
        Assert.True(Scan(Quiet with { Device = "turntable", Baseline = 40 }).Mesh.Area() < table.Area());

        // Nothing that faces straight down was seen.
        Assert.DoesNotContain(Enumerable.Range(0, table.TriangleCount), t => Facing(table, t).Z < -0.9);
    }

    [Fact]
    public void FacesThatAreMissingTooNarrowOrShinyGiveLess()
    {
        var model = DemoParts.Model(Part);
        var large = model.Faces.OrderByDescending(f => f.Area).First().Id;
        double On(ScanRecipe recipe) => NominalCoverage.Of(Scan(recipe).Mesh, RigidTransform.Identity, model, 0.2, 20_000).OfFace[large];
        Assert.True(On(Quiet) > 0.9);
        Assert.True(On(Quiet with { Errors = [new("missing", [large])] }) < 0.1);
        Assert.True(Scan(Quiet with { NarrowestFace = 3 }).Mesh.Area() < 0.97 * Scan(Quiet).Mesh.Area());
        Assert.True(On(
            Quiet with { Views = [[0, 0, 1], [0, 0, -1], [1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0]], Shiny = [large] }) < 0.5);
    }

    [Fact]
    public void AShrunkPartIsSmallerAndAWarpedOneBent()
    {
        var box = DemoParts.Model(Part).Mesh.Bounds;
        var shrunk = Scan(Quiet with { Errors = [new("shrunk", [], 2)] }).Mesh.Bounds;
        Assert.Equal(0.98 * box.Size.X, shrunk.Size.X, 0.05);

        // The ends of the longest side are raised by the value along the shortest.
        var warped = Deviations(Scan(Quiet with { Errors = [new("warp", [], 0.4)] }).Mesh);
        Assert.InRange(warped.Where(double.IsFinite).Max(), 0.3, 0.45);
    }

    [Fact]
    public void AFixtureIsLooseAndACloudHasNoTriangles()
    {
        var plain = LoosePiecesOf(Quiet);
        Assert.True(LoosePiecesOf(Quiet with { Fixture = true }) >= plain + 3);
        var cloud = Scan(Quiet with { Cloud = true }).Mesh;
        Assert.Equal((0, Scan(Quiet).Mesh.VertexCount), (cloud.TriangleCount, cloud.VertexCount));
    }

    [Theory]
    [InlineData("{ \"device\": \"camera\" }", "device")]
    [InlineData("{ \"spacing\": 0 }", "spacing")]
    [InlineData("{ \"colour\": 3 }", "colour")]
    public void AFaultyRecipeNamesItsField(string json, string field) =>
        Assert.Contains(
            field, Assert.Throws<BadInputException>(() => ScanRecipe.Parse(json, "recipe.json")).Message, StringComparison.Ordinal);

    [Fact]
    public void EveryShippedRecipeIsReadable()
    {
        var files = Directory.GetFiles(Path.Combine(DemoParts.Root, "demo", "recipes"), "*.json");
        Assert.All(files, f => ScanRecipe.Parse(File.ReadAllText(f), Path.GetFileName(f)));

        // All five parts have one, and the faces they name are there.
        Assert.Equal(["FB-620", "HW-118", "LB-045", "RC-077", "VH-310"], files.Select(f => Path.GetFileName(f)[..6]).Distinct().Order());
        foreach (var file in files)
        {
            var model = DemoParts.Model(Path.GetFileName(file)[..6]);
            Assert.All(ScanRecipe.Parse(File.ReadAllText(file), file).Errors.SelectMany(e => e.Faces),
                f => Assert.InRange(f, 0, model.Faces.Count - 1));
        }
    }

    private static readonly ScanRecipe Quiet =
        new() { Seed = 3, Spacing = 1.1, Noise = 0, StrayPieces = 0, TablePatch = false, RandomPose = false };

    private static SimulatedScan Scan(ScanRecipe recipe) => SimulatedScanner.Scan(DemoParts.Model(Part), recipe);

    private static int LoosePiecesOf(ScanRecipe recipe) => Scan(recipe).Mesh.Topology.Pieces().Count;

    private static double[] Deviations(TriangleMesh mesh) =>
        Deviation.Compute(mesh, RigidTransform.Identity, DemoParts.Model(Part), DemoParts.Tree(Part), new(2)).Values;

    private static double Median(double[] values)
    {
        var known = values.Where(double.IsFinite).Order().ToArray();
        return known[known.Length / 2];
    }

    /// <summary>Standard deviation of the middle, by quartiles.</summary>
    private static double Spread(double[] values)
    {
        var known = values.Where(double.IsFinite).Order().ToArray();
        return (known[3 * known.Length / 4] - known[known.Length / 4]) / 1.349;
    }

    private static Vector3D Facing(TriangleMesh mesh, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        return (b - a).Cross(c - a).Normalized();
    }
}
