using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;

namespace Bostel.Core.Tests.Plans;

/// <summary>Maps as a plan keeps them: what is refused, what is counted, and that one that cannot be made fails alone.</summary>
public class MapPlanTests
{
    private static readonly InspectionRunner Runner = new(NominalModel.OfSurface(Shapes.Sphere(20, 4)));

    private static readonly InspectionPlan Plan = new()
    {
        Compare = new() { Maps = [new CurvatureMap { Name = "curved", Radius = 6 }, new ThicknessMap { Name = "wall" }] },
    };

    [Theory]
    [InlineData("""{"kind": "thickness", "name": " "}""", "has a name")]
    [InlineData("""{"kind": "thickness", "name": "w", "lower": 3, "upper": 2}""", "lower must lie below upper")]
    [InlineData("""{"kind": "thickness", "name": "w", "limit": 0}""", "limit: must be above 0")]
    [InlineData("""{"kind": "draft", "name": "d", "pull": [0, 0, 0]}""", "pull: is three numbers, not all 0")]
    [InlineData("""{"kind": "along-direction", "name": "a", "direction": [1, 0]}""", "direction: is three numbers")]
    [InlineData("""{"kind": "radial", "name": "r", "point": [1]}""", "point: is three numbers")]
    [InlineData("""{"kind": "curvature", "name": "c", "radius": -1}""", "radius: must be above 0")]
    [InlineData("""{"kind": "residuals", "name": "r"}""", "feature: is missing")]
    [InlineData("""{"kind": "other-piece", "name": "o"}""", "piece: the serial number is missing")]
    [InlineData("""{"kind": "residuals", "name": "r", "feature": "nowhere"}""", "names feature 'nowhere'")]
    [InlineData("""{"kind": "remaining", "name": "l", "without": []}""", "without: names what is taken out")]
    [InlineData("""{"kind": "remaining", "name": "l", "without": ["size", "size"]}""", "each once")]
    [InlineData("""{"kind": "temperature", "name": "t"}""", "the kind 'temperature' is not one of")]
    public void WhatIsNoMapIsRefusedInASentence(string map, string said)
    {
        var plan = $$$"""{"schema": "{{{InspectionPlan.Version}}}", "compare": {"maps": [{{{map}}}]}}""";
        Assert.Contains(said, Assert.Throws<BadInputException>(() => InspectionPlan.Parse(plan)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void TwoMapsOfOneNameAFigureOfNoneAndRampsOfNoStepsAreRefused()
    {
        Refused(Plan with { Compare = Plan.Compare with { Maps = [new SpacingMap { Name = "a" }, new DraftMap { Name = "a" }] } }, "twice");
        Refused(Plan with { Figures = [FigurePlan.Overview(Runner.Nominal, -1, 1) with { Map = "none" }] }, "shows map 'none'");
        Refused(Plan with { Compare = Plan.Compare with { Ramp = new(RampKind.Grey, 0) } }, "steps");
        Refused(Plan with { Compare = Plan.Compare with { LabelsSay = [] } }, "labelsSay");
        Refused(Plan with { Compare = Plan.Compare with { LabelsSay = [LabelContent.Name, LabelContent.Name] } }, "each thing once");
        var wrong = Plan with { Compare = Plan.Compare with { Maps = [new SpacingMap { Name = "a", Faces = [7] }] } };
        Assert.Contains("map 'a' names face 7", Assert.Throws<BadInputException>(() => wrong.CheckFaces(Runner.Nominal)).Message,
            StringComparison.Ordinal);

        static void Refused(InspectionPlan plan, string said) =>
            Assert.Contains(said, Assert.Throws<BadInputException>(() => plan.Check()).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void APlanKeepsItsMapsToTheLastDigit()
    {
        MapPlan[] maps =
        [
            new FromNominalMap { Name = "n", Lower = -0.1 }, new AlongDirectionMap { Name = "a", Direction = [1, 2, 3], Upper = 0.3 },
            new RadialMap { Name = "r", Point = [1, 2, 3], Axis = [0, 1, 0] }, new ThicknessMap { Name = "t", By = ThicknessBy.Ray },
            new DraftMap { Name = "d", Pull = [0, 1, 0], Radius = 1.5 }, new CurvatureMap { Name = "c", Of = CurvatureKind.Radius },
            new SpacingMap { Name = "s", Faces = [1, 2] }, new MovedMap { Name = "m" }, new OtherPieceMap { Name = "o", Piece = "0001" },
        ];
        var plan = Plan with { Compare = Plan.Compare with { Maps = maps, Ramp = new(RampKind.GreenPlum, 5) } };
        var again = InspectionPlan.Parse(plan.ToJson());
        Assert.Equal(plan.ToJson(), again.ToJson());
        Assert.Equal(maps.Select(m => m.Words(plan)), again.Compare.Maps.Select(m => m.Words(again)));
    }

    /// <summary>A sphere of radius 20 is curved by 0.05 all round: within 0.04 to 0.06 wholly, below 0.04 nowhere.</summary>
    [Fact]
    public void LimitsOnlyCount()
    {
        var scan = Aligned(Shapes.Sphere(20, 4));
        var map = Runner.Map(Plan.Compare.Maps[0], scan, BesideScan.Alone(scan.Mesh), Plan);
        Assert.Equal(1, map.Statistics.WithinTolerance);
        Assert.Equal(0.05, map.Statistics.Mean, 0.002);
        var narrow = map.With(map.Plan with { Lower = 0.04, Upper = 0.06 });
        Assert.Equal((1, map.Statistics.Mean), (narrow.Statistics.WithinTolerance, narrow.Statistics.Mean));
        Assert.Equal(0, map.With(map.Plan with { Upper = 0.04 }).Statistics.WithinTolerance);
        Assert.Same(map.Values, narrow.Values);

        // Without limits nothing is beyond; the colours go as far as the values.
        var free = map.Scale(new());
        Assert.Equal((false, false, 0, 0), (free.LowerBinds, free.UpperBinds, free.Beyond(-1), free.Beyond(1)));
        var bound = narrow.Scale(new());
        Assert.Equal((-1, 0, 1), (bound.Beyond(0.03), bound.Beyond(0.05), bound.Beyond(0.07)));
    }

    [Fact]
    public void AMapHeldToFacesCountsThemAlone()
    {
        var halves = HalfAndHalf();
        var runner = new InspectionRunner(halves);
        var mesh = Shapes.Sphere(20.1, 4);
        var map = Deviation.Compute(mesh, RigidTransform.Identity, halves, runner.Tree, new(2));
        var scan = new AlignedScan(mesh, RigidTransform.Identity, map);
        var half = runner.Map(new SpacingMap { Name = "upper", Faces = [1] }, scan, BesideScan.Alone(mesh), Plan);
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            if (Math.Abs(mesh.Vertex(v).Z) > 1)
            {
                Assert.Equal(mesh.Vertex(v).Z < 0, half.Values[v] == NominalToScan.NotAsked);
            }
        }

        Assert.Equal(half.Values.Count(double.IsFinite), half.Statistics.Count);
        var none = new SpacingMap { Name = "none", Faces = [9] };
        Assert.Throws<BadInputException>(() => runner.Map(none, scan, BesideScan.Alone(mesh), Plan));
    }

    [Fact]
    public void AMapThatAPieceDoesNotHaveFailsAlone()
    {
        var cloud = Aligned(new(Shapes.Sphere(20, 4).Coordinates, []));
        var plan = Plan with { Compare = Plan.Compare with { Maps = [.. Plan.Compare.Maps, new SpacingMap { Name = "spacing" }] } };
        var made = Runner.Maps(cloud, BesideScan.Alone(cloud.Mesh), plan);
        Assert.Equal([false, false, true], made.Select(m => m.Map is not null));
        Assert.Contains("needs normals", made[0].Failure, StringComparison.Ordinal);
        Assert.Contains("needs triangles", made[1].Failure, StringComparison.Ordinal);
    }

    /// <summary>Of two spheres about one middle the larger lies out of the smaller by the difference of their radii.</summary>
    [Fact]
    public void AgainstAnotherPieceTheirDifferenceShows()
    {
        var (scan, other) = (Aligned(Shapes.Sphere(20.1, 4)), Aligned(Shapes.Sphere(20, 4)));
        var map = new OtherPieceMap { Name = "against 0001", Piece = "0001" };
        var beside = new BesideScan(() => scan.Mesh, serial => serial == "0001" ? other : throw new BadInputException("no"));
        var made = Runner.Map(map, scan, beside, Plan);

        // Both have the same directions of vertices: each lies out from its own counterpart.
        Assert.All(made.Values, v => Assert.Equal(0.1, v, 1e-9));
        var alone = BesideScan.Alone(scan.Mesh);
        var refused = Assert.Throws<BadInputException>(() => Runner.Map(map, scan, alone, Plan));
        Assert.Contains("not at hand", refused.Message, StringComparison.Ordinal);
    }

    /// <summary>A label's mean within a radius is that of all vertices there, by their areas; without one the nearest vertex.</summary>
    [Fact]
    public void ALabelReadsTheNearestPointOrTheMeanAroundIt()
    {
        var mesh = Shapes.Sphere(20, 4);
        double[] values = [.. Enumerable.Range(0, mesh.VertexCount).Select(v => mesh.Vertex(v).X)];
        var at = mesh.Vertex(17);
        var near = Enumerable.Range(0, mesh.VertexCount).Where(v => (mesh.Vertex(v) - at).Length <= 5).ToList();
        var mean = near.Sum(v => mesh.VertexAreas[v] * values[v]) / near.Sum(v => mesh.VertexAreas[v]);
        var read = LabelReading.Read(
            [(at.ToArray(), null), (at.ToArray(), 5), ([90, 0, 0], null)], mesh, RigidTransform.Identity, values, mesh.VertexAreas, 3);
        Assert.Equal((values[17], 1), (read[0].Value, read[0].Points));
        Assert.Equal(mean, read[1].Value!.Value, 1e-12);
        Assert.Equal(near.Count, read[1].Points);
        Assert.Null(read[2].Value);
    }

    private static AlignedScan Aligned(TriangleMesh mesh) => new(
        mesh, RigidTransform.Identity, Deviation.Compute(mesh, RigidTransform.Identity, Runner.Nominal, Runner.Tree, new(2)));

    /// <summary>A sphere whose lower half is face 0 and whose upper is face 1.</summary>
    private static NominalModel HalfAndHalf()
    {
        var mesh = Shapes.Sphere(20, 4);
        int[] faceOf = [.. Enumerable.Range(0, mesh.TriangleCount)
            .Select(t => mesh.Triangle(t) is var (a, b, c) && a.Z + b.Z + c.Z > 0 ? 1 : 0)];
        NominalFace[] faces = [.. Enumerable.Range(0, 2).Select(f => new NominalFace(f, "freeform", 1, false, 0, 0, 0, default))];
        return new(mesh, faceOf, faces, [], 0, []);
    }
}
