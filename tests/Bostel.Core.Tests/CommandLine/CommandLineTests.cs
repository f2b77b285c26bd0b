using Bostel.Core.Formats;

namespace Bostel.Core.Tests.CommandLine;

/// <summary>`bostel` as a line integrator calls it: JSON out, one sentence on failure, exit codes, whole files or none.</summary>
public sealed class CommandLineTests : CommandLineProgram
{
    private static readonly string Foreign = Path.Combine(AppContext.BaseDirectory, "Data", "formats");

    [Fact]
    public void InfoIsTheDataSheet()
    {
        // Inches: 6125 in³ and 2350 in².
        var (code, answer, _) = Run("info", Path.Combine(Foreign, "boxes.3mf"));
        Assert.Equal(0, code);
        Assert.Equal(6125 * Math.Pow(25.4, 3), answer.GetProperty("volume").GetDouble(), 6125 * 0.02);
        Assert.Equal(2350 * Math.Pow(25.4, 2), answer.GetProperty("area").GetDouble(), 2350 * 0.02);
        Assert.Equal(("inch", 2, true), (answer.GetProperty("unitInFile").GetString(), answer.GetProperty("pieces").GetInt32(),
            answer.GetProperty("closed").GetBoolean()));
        var (_, said, _) = Run("info", Path.Combine(Foreign, "boxes.3mf"), "--units", "mm");
        Assert.Equal(6125, said.GetProperty("volume").GetDouble(), 6);
        Assert.Contains("loose piece", said.GetProperty("advice")[0].GetString(), StringComparison.Ordinal);
    }

    [Fact]
    public void PrepareRecordsEveryStep()
    {
        var sphere = Shapes.Noisy(Shapes.Sphere(10, 5), 0.01, 3);
        var open = sphere.KeepTriangles(t => sphere.Triangle(t).A.Z < 9.7);
        var stray = Shapes.Cube(1, 1);
        var scan = Write("scan.ply", new([.. open.Coordinates, .. stray.Coordinates.Select(c => c + 30)],
            [.. open.Indices, .. stray.Indices.Select(i => i + open.VertexCount)]));
        var target = At("out.ply");
        var (code, answer, messages) =
            Run("prepare", scan, target, "--drop-pieces-below", "100", "--fill-holes-below", "20", "--smooth", "0.01", "--reduce-to", "50");
        Assert.Equal(0, code);
        var steps = answer.GetProperty("steps").EnumerateArray().ToList();
        Assert.Equal(["drop-pieces", "fill", "smooth", "reduce"], steps.Select(s => s.GetProperty("kind").GetString()));
        Assert.InRange(steps[2].GetProperty("moved").GetDouble(), 0.001, 0.01f);
        Assert.True(answer.GetProperty("measuredTriangles").GetInt32() < answer.GetProperty("trianglesAfter").GetInt32());
        Assert.Contains("1 hole filled", messages, StringComparison.Ordinal);
        var prepared = Read(target);
        Assert.Equal(answer.GetProperty("trianglesAfter").GetInt32(), prepared.TriangleCount);
        Assert.Equal(0, prepared.Topology.BoundaryEdges);
        Assert.Equal(4.0 / 3 * Math.PI * 1000, Shapes.Volume(prepared), 15.0);
    }

    [Theory]
    [InlineData("stl")]
    [InlineData("obj")]
    [InlineData("3mf")]
    [InlineData("glb")]
    public void ConvertWritesEachOpenFormat(string format)
    {
        var target = At("torus." + format);
        Assert.Equal(0, Run("convert", Path.Combine(Foreign, "torus-little.ply"), target).Code);
        using var stream = File.OpenRead(target);
        var file = MeshFormats.Read(stream, target);
        var area = file.Mesh.Area() * Math.Pow(LengthUnit.Factor(file.Unit ?? "mm"), 2);
        Assert.Equal(4650.160209477062, area, 0.05);
    }

    [Fact]
    public void ACloudIsMeshedOnRequest()
    {
        var cloud = Write("cloud.xyz", new(Shapes.Sphere(10, 3).Coordinates, []));
        var (code, answer, _) = Run("prepare", cloud, At("out.stl"), "--mesh");
        Assert.Equal((0, 1280), (code, answer.GetProperty("trianglesAfter").GetInt32()));
    }

    [Fact]
    public void ThicknessOfABoxAndCoverageOfAScan()
    {
        var box = Write("box.stl", Shapes.Cube(10, 5));
        var (code, answer, _) = Run("thickness", "--mesh", box, "--by", "ray", "--out", At("t.ply"));
        Assert.Equal(0, code);
        Assert.Equal(10, answer.GetProperty("percentiles").GetProperty("50").GetDouble(), 1e-5);
        Assert.Equal(2, Run("thickness", "--mesh", box, "--by", "eye").Code);

        // The top half raised by 0.3: the four sides agree with the nominal, the top is one area out of tolerance.
        var raised = Shapes.Cube(10, 5);
        var scan = Write("scan.ply", raised.WithCoordinates([.. raised.Coordinates.Select((c, i) => i % 3 == 2 && c > 9.9 ? c + 0.3 : c)]));
        var (_, compared, _) = Run("compare", "--nominal", box, "--scan", scan, "--tolerance", "-0.1,0.1");
        var area = Assert.Single(compared.GetProperty("areas").EnumerateArray());
        Assert.Equal((true, 0.3), (area.GetProperty("high").GetBoolean(), Math.Round(area.GetProperty("extreme").GetDouble(), 5)));

        // Faces of a mesh are recognised when they are asked for, and not before.
        Assert.False(compared.TryGetProperty("faces", out _));
        var (_, told, _) = Run("compare", "--nominal", box, "--scan", scan, "--faces");
        Assert.Equal(6, told.GetProperty("faces").GetArrayLength());
        var (_, banded, _) = Run("compare", "--nominal", box, "--scan", scan, "--bands", "0.1,0.5");
        var shares = banded.GetProperty("bands").EnumerateArray().Select(b => b.GetProperty("share").GetDouble()).ToList();

        // Raised vertices stand for the top and half the uppermost row of each side: 100 of 612, and some of the sides for their corners'
        // normals.
        Assert.InRange(shares[0], 0.6, 1 - (100.0 / 612));
        Assert.Equal(1, shares[1], 1e-9);
        var (_, covered, _) = Run("compare", "--nominal", box, "--scan", scan, "--direction", "nominal-to-scan", "--max-distance", "0.1");
        Assert.Equal(500.0 / 600, covered.GetProperty("coverage").GetDouble(), 0.01);
    }

    [Fact]
    public void ASectionIsPrintedAndWrittenAsTextAndDrawing()
    {
        var cube = Write("cube.stl", Shapes.Cube(10, 3));
        foreach (var name in (string[])["cut.csv", "cut.dxf"])
        {
            var (code, answer, _) = Run("section", "--mesh", cube, "--plane", "0,0,2,4", "--out", At(name));
            Assert.Equal(0, code);
            var outline = Assert.Single(answer.GetProperty("outlines").EnumerateArray());
            Assert.Equal(
                (true, 40.0), (outline.GetProperty("closed").GetBoolean(), Math.Round(outline.GetProperty("length").GetDouble(), 4)));
            var points = outline.GetProperty("points").EnumerateArray().Select(p => p[2].GetDouble()).ToList();
            Assert.All(points, z => Assert.Equal(4, z, 1e-9));
            var lines = File.ReadAllLines(At(name));
            Assert.Equal(points.Count, name.EndsWith("csv", StringComparison.Ordinal) ? lines.Length - 1 : lines.Count(l => l == "VERTEX"));
            if (name.EndsWith("dxf", StringComparison.Ordinal))
            {
                // Pairs of a code and a value from SECTION to EOF; the one polyline is closed and lies in space.
                Assert.Equal(0, lines.Length % 2);
                Assert.Equal(("EOF", "9"), (lines[^1], lines[Array.IndexOf(lines, "POLYLINE") + 6]));
            }
        }

        Assert.Equal(2, Run("section", "--mesh", cube, "--plane", "0,0,x,4").Code);
    }

    [Theory]
    [InlineData("no such file", "info", "missing.stl")]
    [InlineData("is not a mesh or point format", "info", "README.md")]
    [InlineData("'ell' is not one of", "info", "torus.obj", "--units", "ell")]
    [InlineData("maxDiameter", "prepare", "torus.obj", "OUT", "--fill-holes-below", "-1")]
    [InlineData("nothing would remain", "prepare", "torus.obj", "OUT", "--drop-pieces-below", "1000000")]
    [InlineData("are written as", "convert", "torus.obj", "OUT.doc")]
    public void BadInputGivesOneLineAndCodeTwoAndLeavesNothing(string said, params string[] arguments)
    {
        var real = arguments.Select(a => a.StartsWith("OUT", StringComparison.Ordinal)
            ? At("out" + (a.Length > 3 ? a[3..] : ".stl")) : a.Contains('.') && a[0] != '-' ? Path.Combine(Foreign, a) : a).ToArray();
        var (code, _, messages) = Run(real);
        Assert.Equal(2, code);
        var line = Assert.Single(messages.Split('\n', StringSplitOptions.RemoveEmptyEntries));
        Assert.Contains(said, line, StringComparison.Ordinal);
        Assert.Empty(Folder.GetFiles());
    }

    [Fact]
    public void InspectReplaysAPlanAndItsCodeSaysTheVerdict()
    {
        var nominal = DemoParts.NominalPath("HW-118");
        var recipe = At("recipe.json");
        File.WriteAllText(
            recipe, """{ "seed": 5, "spacing": 2, "noise": 0.01, "errors": [{ "kind": "radius", "faces": [22], "value": 0.05 }] }""");
        Assert.Equal(0, Run("scan", "--nominal", nominal, "--recipe", recipe, At("HW-118-0009.stl")).Code);
        var (code, answer, _) = Run("inspect", "--plan", Path.Combine(DemoParts.Root, "demo", "plans", "HW-118.json"), "--nominal", nominal,
            "--scan", At("HW-118-0009.stl"), "--out", At("results"));
        Assert.Equal(1, code);
        Assert.Equal("non-conforming", answer.GetProperty("verdict").GetString());
        var bore = answer.GetProperty("characteristics")[0];

        // Planted: the bore is 0.1 mm larger; what is measured must agree within its own stated uncertainty.
        Assert.Equal(20.1, bore.GetProperty("measured").GetDouble(), bore.GetProperty("uncertainty").GetDouble());
        Assert.True(Directory.GetFiles(At("results"), "results.csv", SearchOption.AllDirectories).Length == 1);
    }
}
