using System.Globalization;
using System.Text.Json;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Tests.Fitting;

namespace Bostel.Core.Tests.CommandLine;

/// <summary>Fits, poses, sections, edges and recognition through `bostel`: what the core can do can be asked for from outside.</summary>
public sealed class ComputationCommandTests : CommandLineProgram
{
    [Fact]
    public void AFitHoldsPartsRejectsOutliersAndStatesItsUncertainty()
    {
        var truth = new Cylinder3D(new(3, 4, 5), Vector3D.UnitZ, 8);
        var points = FitShapes.Points(truth, 1, 0.01, 3, 400);
        (points[0], points[1]) = (40, 40);
        var file = WriteText("points.xyz", string.Join(
            '\n', points.Chunk(3).Select(p => string.Create(CultureInfo.InvariantCulture, $"{p[0]:R} {p[1]:R} {p[2]:R}"))));
        var (code, answer, _) = Run("fit", "--type", "cylinder", "--points", file, "--on", "3,4,0,0,0,2", "--robust", "tukey");
        Assert.Equal(0, code);
        Assert.Contains(0, answer.GetProperty("rejected").EnumerateArray().Select(r => r.GetInt32()));
        var axis = answer.GetProperty("parameters").GetProperty("axis").EnumerateArray().Select(v => v.GetDouble()).ToArray();
        Assert.Equal(1, Math.Abs(axis[2]), 1e-15);

        // 0.01 mm over 400 points: the radius is sure to 0.0005 mm, its diameter at k = 2 to 0.002.
        var stated = answer.GetProperty("uncertainty").GetProperty("diameter").GetDouble();
        Assert.InRange(stated, 0.001, 0.005);
        Assert.Equal(8, answer.GetProperty("parameters").GetProperty("radius").GetDouble(), 2 * stated);
        var (wrong, _, said) = Run("fit", "--type", "plane", "--points", file, "--radius", "3");
        Assert.Equal(2, wrong);
        Assert.Contains("radius", said, StringComparison.Ordinal);
    }

    [Fact]
    public void TransformsAreComposedAndInverted()
    {
        var (a, b) = (RigidTransform.FromAxisAngle(new(1, 2, 3), 0.7) with { Translation = new(1, 2, 3) },
            RigidTransform.FromAxisAngle(new(-1, 0, 2), 1.1) with { Translation = new(-4, 5, 6) });
        string Save(string name, RigidTransform t) => WriteText(name, JsonSerializer.Serialize(new { transform = t.ToArray() }));
        var (code, answer, _) = Run("transform", Save("a.json", a), Save("b.json", b), "--inverse");
        Assert.Equal(0, code);
        var back = RigidTransform.FromArray([.. answer.GetProperty("transform").EnumerateArray().Select(v => v.GetDouble())]);
        var p = new Vector3D(7, -8, 9);
        Assert.InRange(Vector3D.Distance(p, back.Apply(b.Apply(a.Apply(p)))), 0, 1e-12);
        Assert.Equal(2, Run("transform", WriteText("bad.json", "{\"transform\":[1,2]}")).Code);

        // An axis system: the origin goes to zero, the first direction to z.
        var (_, built, _) = Run("transform", "--axes", "z,x", "--origin", "1,2,3", "--first", "0,1,0", "--second", "1,0,0");
        var system = RigidTransform.FromArray([.. built.GetProperty("transform").EnumerateArray().Select(v => v.GetDouble())]);
        Assert.InRange(system.Apply(new(1, 2, 3)).Length, 0, 1e-12);
        Assert.InRange(Vector3D.Distance(system.Rotate(Vector3D.UnitY), Vector3D.UnitZ), 0, 1e-12);
        Assert.Equal(2, Run("transform", "--axes", "z,x").Code);
    }

    [Fact]
    public void AlignTakesAPlanAStartLocksAndABand()
    {
        var block = Write("block.stl", Block());
        var moved = Write("scan.ply", Block().Transformed(RigidTransform.FromTwist(new(0, 0, 0.01), new(0.2, 0.1, 0), default)));
        var start = WriteText("start.json", JsonSerializer.Serialize(new { transform = RigidTransform.Identity.ToArray() }));
        var (code, answer, _) = Run("align", "--nominal", block, "--scan", moved, "--start", start, "--lock", "shift-z,turn-x,turn-y");
        Assert.Equal(0, code);
        var found = RigidTransform.FromArray([.. answer.GetProperty("transform").EnumerateArray().Select(v => v.GetDouble())]);
        Assert.Equal(-0.01, found.RotationVector().Z, 1e-5);
        Assert.Equal(0, found.RotationVector().X, 1e-12);
        Assert.Equal(36, answer.GetProperty("uncertainty").GetProperty("covariance").GetArrayLength());
        Assert.Equal(2, Run("align", "--nominal", block, "--scan", moved, "--lock", "shift-z").Code);
        var (_, balanced, _) = Run("align", "--nominal", block, "--scan", moved, "--start", start, "--balance", "-0.1,0.1");
        Assert.InRange(balanced.GetProperty("largestOutOfTolerance").GetDouble(), -0.1001, -0.09);
        var plan = WriteText("plan.json", """
            {"schema":"bostel-plan/2","align":{"method":"point-pairs","pairs":[
              {"scan":[1,0,0],"nominal":[0,0,0]},{"scan":[11,0,0],"nominal":[10,0,0]},{"scan":[1,5,0],"nominal":[0,5,0]}]}}
            """);
        var (_, pairs, _) = Run("align", "--nominal", block, "--scan", moved, "--plan", plan);
        Assert.Equal(-1, pairs.GetProperty("transform")[3].GetDouble(), 1e-12);
    }

    /// <summary>Parallel planes and planes through an axis, in one call: a block of known sides has known outlines everywhere.</summary>
    [Fact]
    public void ManySectionsComeFromOneCall()
    {
        var block = Write("many.stl", Shapes.Cube(10, 4));
        var (_, parallel, _) = Run("section", "--mesh", block, "--plane", "0,0,2,1.5", "--repeat", "2,5", "--nominal", block);
        var sections = parallel.GetProperty("sections").EnumerateArray().ToList();
        Assert.Equal([1.5, 3.5, 5.5, 7.5, 9.5], sections.Select(s => s.GetProperty("plane")[3].GetDouble()));
        foreach (var section in sections)
        {
            Assert.Equal(40, Assert.Single(section.GetProperty("outlines").EnumerateArray()).GetProperty("length").GetDouble(), 1e-9);
            Assert.Equal(0, section.GetProperty("statistics").GetProperty("rms").GetDouble(), 1e-6);
        }

        // Through the middle axis: a diagonal plane gives 10 × 10√2, a plane along a side 10 × 10.
        var (_, polar, _) = Run("section", "--mesh", block, "--polar", "5,5,0,0,0,1,4");
        var lengths = polar.GetProperty("sections").EnumerateArray()
            .Select(s => s.GetProperty("outlines").EnumerateArray().Sum(o => o.GetProperty("length").GetDouble())).Order().ToList();
        Assert.Equal(4, lengths.Count);
        Assert.All(lengths[..2], l => Assert.Equal(40, l, 1e-6));
        Assert.All(lengths[2..], l => Assert.Equal(20 + (20 * Math.Sqrt(2)), l, 1e-6));
        Assert.Contains("--polar", Run("section", "--mesh", block, "--polar", "5,5,0,0,0,1,2.5").Messages, StringComparison.Ordinal);
        Assert.Contains("--plane", Run("section", "--mesh", block).Messages, StringComparison.Ordinal);
        Assert.Contains(
            "--repeat", Run("section", "--mesh", block, "--polar", "5,5,0,0,0,1,2", "--repeat", "1,2").Messages, StringComparison.Ordinal);
    }

    [Fact]
    public void SymmetrySectionsPartsAndEdgesAreFound()
    {
        var block = Write("block.stl", Block());
        var (_, symmetry, _) = Run("symmetry", block);
        Assert.Equal(3, symmetry.GetProperty("planes").EnumerateArray().Count(p => p.GetProperty("share").GetDouble() > 0.99));

        var (_, section, _) = Run("section", "--mesh", block, "--plane", "0,0,1,3.3", "--parts", "0.001", "--nominal", block);
        var outline = Assert.Single(section.GetProperty("outlines").EnumerateArray());
        Assert.Equal(4, outline.GetProperty("parts").EnumerateArray().Count(p => p.GetProperty("kind").GetString() == "line"));
        Assert.All(outline.GetProperty("deviations").EnumerateArray(), d => Assert.Equal(0, d.GetDouble(), 1e-5));

        // Opposite sides of the rectangle are parallel, neighbours square.
        JsonElement Between(string pair) =>
            Run("section", "--mesh", block, "--plane", "0,0,1,3.3", "--parts", "0.001", "--between", pair).Answer.GetProperty("between");
        Assert.Equal(Math.PI / 2, Between("0/0,0/1").GetProperty("angle").GetDouble(), 1e-6);
        Assert.Equal(0, Between("0/0,0/2").GetProperty("angle").GetDouble(), 1e-6);
        double[] sides = [Between("0/0,0/2").GetProperty("distance").GetDouble(), Between("0/1,0/3").GetProperty("distance").GetDouble()];
        var size = Block().Bounds.Size;
        Assert.Equal(new[] { size.X, size.Y }.Order(), sides.Order().Select(s => Math.Round(s, 4)));
        Assert.Contains("0/9", Run("section", "--mesh", block, "--plane", "0,0,1,3.3", "--parts", "0.001", "--between", "0/0,0/9").Messages,
            StringComparison.Ordinal);

        var sheet = Write("sheet.ply", Shapes.Field(30, 60, (x, y) => 0).KeepTriangles(t => t > 0));
        var (_, edges, _) = Run("edges", "--mesh", sheet);
        var edge = Assert.Single(edges.GetProperty("edges").EnumerateArray());
        Assert.Equal("trim line", edge.GetProperty("kind").GetString());
    }

    [Fact]
    public void ScansAreComparedWithScansAndTheirSurfacesRecognised()
    {
        var first = Write("first.ply", Shapes.Field(30, 30, (x, y) => 0));
        var second = Write("second.ply", Shapes.Field(34, 34, (x, y) => 0.05));
        var (code, compared, _) =
            Run("compare", "--nominal", first, "--scan", second, "--direction", "scan-to-scan", "--max-distance", "1");
        Assert.Equal(0, code);
        Assert.Equal(0.05, compared.GetProperty("mean").GetDouble(), 1e-6);
        Assert.InRange(compared.GetProperty("noData").GetDouble(), 0.1, 0.4);

        var ball = Write("ball.ply", Shapes.Noisy(Shapes.Sphere(20, 5), 0.01, 4));
        var (_, found, _) = Run("features", "--nominal", ball, "--scan");
        Assert.Equal("sphere", found.GetProperty("faces")[0].GetProperty("kind").GetString());
        // A mesh of the part, tessellated coarsely, shows the same features as its CAD file.
        var mesh = At("bracket.stl");
        Assert.Equal(0, Run("convert", DemoParts.NominalPath("LB-045"), mesh, "--chord-error", "0.05").Code);
        var (_, again, _) = Run("features", "--nominal", mesh, "--sensitivity", "0.8");
        Assert.Equal(5, again.GetProperty("features").EnumerateArray().Count(f => f.GetProperty("kind").GetString() == "bore"));
        Assert.Equal(2, Run("convert", DemoParts.NominalPath("LB-045"), mesh, "--chord-error", "0").Code);
        var (_, byFeature, _) = Run("compare", "--nominal", DemoParts.NominalPath("LB-045"), "--scan", mesh);
        Assert.All(byFeature.GetProperty("features").EnumerateArray(), f => Assert.InRange(f.GetProperty("max").GetDouble(), -0.01, 0.01));
        var (_, named, _) = Run("features", "--nominal", DemoParts.NominalPath("LB-045"));
        Assert.Equal(5, named.GetProperty("features").EnumerateArray().Count(f => f.GetProperty("kind").GetString() == "bore"));
    }

    /// <summary>A clamp that shrank by 0.3 % is told so, with the same bits on one thread and on three.</summary>
    [Fact]
    public void ADeviationIsTakenApart()
    {
        var nominal = DemoParts.NominalPath("RC-077");
        var recipe = WriteText("shrunk.json", """
            {
                "seed": 6, "spacing": 1.2, "noise": 0.01, "randomPose": false, "strayPieces": 0, "tablePatch": false,
                "errors": [{ "kind": "shrunk", "faces": [], "value": 0.3 }]
            }
            """);
        Assert.Equal(0, Run("scan", "--nominal", nominal, "--recipe", recipe, At("shrunk.ply")).Code);
        string[] compare = ["compare", "--nominal", nominal, "--scan", At("shrunk.ply"), "--explain"];
        var (one, three) = (RunOn(1, compare), RunOn(3, compare));
        Assert.Equal(one.Text, three.Text);
        var explained = JsonDocument.Parse(one.Text).RootElement.GetProperty("explained");
        var finding = Assert.Single(explained.GetProperty("findings").EnumerateArray());
        Assert.StartsWith("The part is shrunk by 0.", finding.GetProperty("said").GetString());
        var percent = finding.GetProperty("finding").GetProperty("percent")[0];
        var u = percent.GetProperty("u").GetDouble();
        Assert.InRange(percent.GetProperty("value").GetDouble(), -0.3 - u, -0.3 + u);
    }

    /// <summary>The same input gives the same bits, whatever the number of threads.</summary>
    [Fact]
    public void OneThreadAndThreeGiveTheSameBits()
    {
        var nominal = DemoParts.NominalPath("LB-045");
        var recipe = WriteText("recipe.json", """{ "seed": 5, "spacing": 2.4, "noise": 0.01 }""");
        Assert.Equal(0, Run("scan", "--nominal", nominal, "--recipe", recipe, At("scan.ply")).Code);
        foreach (var arguments in (string[][])[["align", "--nominal", nominal, "--scan", At("scan.ply")],
            ["features", "--nominal", At("scan.ply"), "--scan"], ["thickness", "--mesh", At("scan.ply")]])
        {
            var (one, three) = (RunOn(1, arguments), RunOn(3, arguments));
            Assert.Equal((0, 0), (one.Code, three.Code));
            Assert.Equal(one.Text, three.Text);
        }
    }

    [Fact]
    public void ABenchGroupThatDoesNotExistIsNamed()
    {
        var (code, _, said) = Run("bench", "--only", "nothing", "--threads", "1");
        Assert.Equal(2, code);
        Assert.Contains("nothing", said, StringComparison.Ordinal);
        Assert.Equal(2, Run("bench", "--threads", "0").Code);
    }

    private static TriangleMesh Block()
    {
        var cube = Shapes.Cube(20, 10);
        var center = cube.Bounds.Center;
        double[] stretch = [1.5, 1, 0.6];
        return cube.WithCoordinates([.. cube.Coordinates.Select((c, i) => stretch[i % 3] * (c - center[i % 3]))]);
    }
}
