using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Segmentation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Plans;

/// <summary>How firm a verdict is, on a block whose top is made in a known way.</summary>
public class OtherWaysTests
{
    private const double Side = 40;

    /// <summary>
    /// The top of a block rises by 0.2 mm in its middle like a roof: its mean stands 0.1 mm high, its tangent 0.2 mm. Limits of 0.15 hold
    /// the one and not the other.
    /// </summary>
    [Fact]
    public void AVerdictThatRestsOnTheCriterionSaysSo()
    {
        var nominal = CadMeshSegmentation.Recognise(Shapes.Cube(Side, 1));
        var cube = Shapes.Cube(Side, 40);
        var roof = cube.WithCoordinates(
            [.. Enumerable.Range(0, cube.VertexCount).SelectMany(v => Raised(cube.Vertex(v)).ToArray())]);
        var (top, floor) = (FaceAt(1), FaceAt(-1));
        var plan = new InspectionPlan
        {
            Align = new AsGivenPlan { Start = RigidTransform.Identity.ToArray() },
            Features = [new("top", "Top", [top]) { EdgeMargin = 2 }, new("floor", "Floor", [floor]) { EdgeMargin = 2 }],
            Characteristics =
            [
                new DistancePlan(1, "height") { Features = ["floor", "top"], Nominal = Side, Lower = -0.15, Upper = 0.15 },
                new FlatnessPlan(2, "flat") { Features = ["floor"], Tolerance = 0.1 },
            ],
            Decision = new SimpleRule(),
        };
        var runner = new InspectionRunner(nominal);
        var run = runner.Run(roof, plan);
        Assert.Equal(Verdict.Conforming, run.Characteristics[0].Verdict);
        var other = new OtherWays(plan, runner, _ => new(run.Map, nominal));
        var ways = other.Of(1);
        OtherWay Way(string what) => ways.Single(w => w.What.Contains(what, StringComparison.Ordinal));

        // A surface of 38 mm that falls evenly from 0.2 in the middle to 0.01 at its ends has its mean half way.
        Assert.Equal(Side + 0.2, Way("outer-tangent").Row.Measured!.Value, 0.01);
        Assert.True(Way("outer-tangent").Changes);
        Assert.False(Way("half the edge margin").Changes);
        Assert.All(ways, w => Assert.True(w.Row.Measured is not null || !w.Changes, w.What));
        Assert.Contains(ways, w => w.What.StartsWith("twice the edge margin (4 mm)", StringComparison.Ordinal));

        // The floor is as it should be, by every criterion.
        Assert.All(other.Of(2), w => Assert.False(w.Changes, w.What));
        Assert.Throws<BadInputException>(() => other.Of(9));
        Assert.Throws<BadInputException>(() => new OtherWays(plan, runner, _ => null).Of(1));

        // A plan that asks for it says so of its rows, and no number of theirs is another.
        var tried = runner.Run(roof, plan with { OtherWays = true }).Characteristics;
        Assert.Equal(
            ways.Where(w => w.Changes).Select(w => (w.What, w.Row.Measured, w.Row.Verdict)),
            tried[0].Firmness!.Others.Select(o => (o.What, o.Measured, o.Verdict)));
        Assert.Equal(ways.Count, tried[0].Firmness!.Tried);
        Assert.Empty(tried[1].Firmness!.Others);
        Assert.Equal(run.Characteristics.Select(c => (c.Measured, c.Uncertainty)), tried.Select(c => (c.Measured, c.Uncertainty)));
        Assert.All(run.Characteristics, c => Assert.Null(c.Firmness));

        int FaceAt(int up) => nominal.Faces.Single(f => f.Shape is Plane3D p && p.Normal.Z * up > 0.5).Id;

        static Vector3D Raised(Vector3D p) =>
            p.Z < Side ? p : p with { Z = Side + (0.2 * (1 - (Math.Abs(p.X - (Side / 2)) / (Side / 2)))) };
    }

    /// <summary>What has no datums is looked at in the plan's other alignments as well; a pose that there is not is left out.</summary>
    [Fact]
    public void OtherAlignmentsAreOtherWays()
    {
        var nominal = CadMeshSegmentation.Recognise(Shapes.Cube(Side, 1));
        var aside = RigidTransform.Identity with { Translation = new(0.05, 0, 0) };
        var here = new AsGivenPlan { Start = RigidTransform.Identity.ToArray() };
        var plan = new InspectionPlan
        {
            Align = here,
            Alignments = [new("as assembled", here with { Start = aside.ToArray() })],
            Characteristics =
            [
                new SurfaceProfilePlan(1, "all") { Faces = [.. nominal.Faces.Select(f => f.Id)], Tolerance = 0.05, AsAligned = true },
            ],
            Decision = new SimpleRule(),
        };
        var runner = new InspectionRunner(nominal);

        // Fine enough that its edges are no noise: most points lie farther from one than noise is looked at.
        var scan = Shapes.Cube(Side, 40);
        var run = runner.Run(scan, plan);
        AlignedScan In(string? name) => name is null ? run.Map : new(
            run.Prepared.Mesh, run.Named[0].Aligned!.Result.Transform,
            runner.Compare(run.Prepared, run.Named[0].Aligned!.Result.Transform, plan));
        OtherWays Tried(Func<string?, AlignedScan?> scanIn) =>
            new(plan, runner, name => scanIn(name) is { } found ? new(found, nominal) : null);
        var way = Assert.Single(Tried(In).Of(1));
        Assert.Equal("in alignment 'as assembled'", way.What);
        Assert.Equal(0.1, way.Row.Measured!.Value, 1e-6);
        Assert.True(way.Changes);
        Assert.Empty(Tried(name => name is null ? run.Map : null).Of(1));
        Assert.Equal(
            ("in alignment 'as assembled'", 0.1),
            Assert.Single(runner.Run(scan, plan with { OtherWays = true }).Characteristics[0].Firmness!.Others) is var o
                ? (o.What, Math.Round(o.Measured!.Value, 6)) : default);
    }
}
