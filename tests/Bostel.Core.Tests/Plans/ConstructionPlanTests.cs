using Bostel.Core.Alignment;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Spatial;
using Bostel.Core.Tolerancing;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Plans;

/// <summary>
/// Constructions in a plan: offered, checked, replayed on a scan, judged; and an alignment tried beside the one that holds.
/// </summary>
public class ConstructionPlanTests
{
    private static readonly InspectionPlan _clamp = InspectionPlan.Parse(
        File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "RC-077.json")));

    private static readonly Lazy<InspectionRunner> _runner = new(() => new(DemoParts.Model("RC-077")));

    private static readonly Lazy<SimulatedScan> _scan = new(() => SimulatedScanner.Scan(DemoParts.Model("RC-077"),
        new() { Seed = 3, Spacing = 0.8, Noise = 0.01, StrayPieces = 0, TablePatch = false }));

    /// <summary>From the drawing of the clamp: sides 32 mm apart, bores 30 mm apart at half the width, 9 mm above the base.</summary>
    [Fact]
    public void OnlyWhatFollowsIsOffered()
    {
        Assert.Equal(["mid-plane"], Offered("left", "right").Select(o => o.Construction.Kind));
        Assert.StartsWith("through (", Offered("left", "right")[0].Nominal, StringComparison.Ordinal);
        Assert.Equal(["axis-of-planes", "mid-plane"], Offered("base", "end").Select(o => o.Construction.Kind));
        Assert.Equal("through (37, 16, 9) along (0, 1, 0)", Offered("pin-1", "pin-2").Single(o => o.Construction is MidAxisPlan).Nominal);
        Assert.Contains(Offered("base", "end", "left"), o => o.Construction is PointOfPlanesPlan && o.Nominal == "at (70, 0, 0)");

        // In whichever order they were picked; under a name that is free.
        var pierced = Offered("screw", "base").Single(o => o.Construction is PiercedPointPlan).Construction;
        Assert.Contains(Offered("base", "screw"), o => o.Construction is PiercedPointPlan && o.Nominal == "at (62, 16, 0)");
        var taken = _clamp with { Constructions = [.. _clamp.Constructions, pierced] };
        Assert.NotEqual(pierced.Id, ConstructionOffers.For(DemoParts.Model("RC-077"), taken, ["screw", "base"])
            .Single(o => o.Construction is PiercedPointPlan).Construction.Id);

        static IReadOnlyList<ConstructionOffer> Offered(params string[] ids) =>
            ConstructionOffers.For(DemoParts.Model("RC-077"), _clamp, ids);
    }

    /// <summary>A moved plane was measured nowhere: no place lies opposite to another. That is said, and all else is measured.</summary>
    [Fact]
    public void AWidthIsThatOfSurfaces()
    {
        var plan = _clamp with
        {
            Constructions = [new OffsetPlanePlan("moved", "Moved side") { From = ["left"], Distance = 5 }],
            Characteristics =
            [
                new WidthPlan(1, "Width") { Features = ["moved", "right"], Nominal = 37, Lower = -1, Upper = 1 },
                new DistancePlan(2, "Distance") { Features = ["moved", "right"], Nominal = 37, Lower = -1, Upper = 1 },
            ],
        };
        Assert.DoesNotContain(Proposals.For(_runner.Value.Nominal, plan, [], ["moved", "right"]), p => p.Characteristic is WidthPlan);
        var rows = _runner.Value.Run(_scan.Value.Mesh, plan).Characteristics;
        Assert.Equal(Verdict.NotMeasured, rows[0].Verdict);
        Assert.Contains("Moved side has no surface", rows[0].Remark, StringComparison.Ordinal);
        Assert.Equal(37, rows[1].Measured!.Value, rows[1].Uncertainty!.Value);
    }

    /// <summary>
    /// The flange of the housing is a ring about its bore: the place that is offered lies on the ring. Its six holes stand at steps of
    /// 60°, five of them as well; two holes are no pattern.
    /// </summary>
    [Fact]
    public void PlacesAndStepsThatAreOfferedAreTheNominals()
    {
        const int Flange = 46;
        int[] holes = [10, 11, 12, 13, 15, 16];
        var housing = DemoParts.Model("VH-310");
        var plan = new InspectionPlan
        {
            Features = [new("ring", "Ring", [Flange]), .. holes.Select(h => new FeaturePlan($"h{h}", $"Hole {h}", [h]))],
        };
        var point = ConstructionOffers.For(housing, plan, ["ring"]).Select(o => o.Construction).OfType<SurfacePointPlan>().Single();
        var hit = new TriangleTree(housing.Mesh).Closest(Vector3D.FromArray(point.At));
        Assert.Equal(Flange, housing.FaceOfTriangle[hit.Triangle]);

        // Places are offered to 0.001 mm.
        Assert.InRange(hit.Distance, 0, 1e-3);
        Assert.Equal(60, Step(holes)!.Value, 1e-6);
        Assert.Equal(60, Step(holes[1..])!.Value, 1e-6);
        Assert.Null(Step([10, 11]));

        double? Step(int[] of) => ConstructionOffers.For(housing, plan, [.. of.Select(h => $"h{h}"), "ring"])
            .Select(o => o.Construction).OfType<PolarPatternPlan>().SingleOrDefault()?.StepDegrees;
    }

    [Fact]
    public void WhatIsConstructedCanBeAskedOf()
    {
        var asked = Proposals.For(DemoParts.Model("RC-077"), _clamp, [], ["seat-centre", "top"]);
        Assert.Contains(asked, p => p.Characteristic is DistancePlan { Nominal: 5 });
        var place = Assert.Single(Proposals.For(DemoParts.Model("RC-077"), _clamp, [], ["seat-centre"])).Characteristic;
        Assert.Equal(["A", "B", "C"], Assert.IsType<PositionPlan>(place).Datums);
    }

    [Fact]
    public void APlanRefersOnlyBackwardsAndItsConstructionsAreDetermined()
    {
        var late = _clamp with { Constructions = [new CentrePlan("x", "X") { From = ["y"] }, new MidPointPlan("y", "Y") { From = ["x"] }] };
        Assert.Contains("'X' names feature 'y'", Assert.Throws<BadInputException>(() => late.Check()).Message, StringComparison.Ordinal);
        var parallel = _clamp with
        {
            Constructions = [.. _clamp.Constructions, new AxisOfPlanesPlan("x", "Edge") { From = ["left", "right"] }],
        };
        parallel.Check();
        Assert.Contains("Edge: the planes are parallel",
            Assert.Throws<UndeterminedException>(() => parallel.CheckFaces(DemoParts.Model("RC-077"))).Message, StringComparison.Ordinal);
        Assert.Contains("gauge", Assert.Throws<BadInputException>(() =>
            (_clamp with { Constructions = [new GaugeCirclePlan("g", "gauge") { Diameter = 0, From = ["countersink"] }] }).Check()).Message,
            StringComparison.Ordinal);
    }

    /// <summary>A perfect part: every value lies within its uncertainty of the nominal; what rests on a missing feature says so.</summary>
    [Fact]
    public void ConstructionsAreReplayedAndJudged()
    {
        var result = _runner.Value.Run(_scan.Value.Mesh, _clamp);
        foreach (var row in result.Characteristics.Where(c => c.Plan is DistancePlan or DiameterPlan))
        {
            Assert.InRange(Math.Abs(row.Measured!.Value - row.Nominal!.Value), 0, 1.5 * row.Uncertainty!.Value);
        }

        var made = result.Features.Where(f => f.Construction is not null).ToList();
        Assert.Equal(4, made.Count);
        Assert.All(made, f => Assert.True(f.Failure is null && f.PositionSigma > 0 && f.Used > 100));
        var broken = _clamp with { Features = [.. _clamp.Features.Select(f => f.Id == "seat" ? f with { EdgeMargin = 50 } : f)] };
        var rows = _runner.Value.Run(_scan.Value.Mesh, broken);
        Assert.Contains("Ball seat", rows.Features.Single(f => f.Plan.Id == "seat-centre").Failure!, StringComparison.Ordinal);
        Assert.Equal(Verdict.NotMeasured, rows.Characteristics.Single(c => c.Plan.No == 9).Verdict);
        Assert.NotEqual(Verdict.NotMeasured, rows.Characteristics.Single(c => c.Plan.No == 1).Verdict);
    }

    /// <summary>
    /// Base, middle of the width, end: the base takes two turns and the height, the middle the last turn and a shift, the end the rest.
    /// </summary>
    [Fact]
    public void AnotherAlignmentIsTriedAndSaysWhatHoldsTheMotions()
    {
        var scan = _runner.Value.Prepare(_scan.Value.Mesh, _clamp);
        var now = _runner.Value.Align(scan, _clamp);
        AlignmentTrial Try(AlignPlan way) => AlignmentTrial.Of(
            new(way, _runner.Value.Align(scan, _clamp with { Align = way })), now.Transform, DemoParts.Model("RC-077").Mesh.Bounds);
        var trial = Try(new ByDatumsPlan { Datums = ["A", "B", "C"] });
        var held = HeldMotion.Of(trial.Aligned).ToDictionary(m => m.Motion, m => m.By);
        Assert.Equal("datum A", held[Motion.TurnX]);
        Assert.Equal("datum A", held[Motion.TurnY]);
        Assert.Equal("datum A", held[Motion.ShiftZ]);
        Assert.Equal("datum B", held[Motion.TurnZ]);
        Assert.Equal("datum B", held[Motion.ShiftY]);
        Assert.Equal("datum C", held[Motion.ShiftX]);
        Assert.InRange(trial.Change!.Moves, 0, 0.05);

        // The present way tried again moves nothing.
        Assert.Equal(0, Try(_clamp.Align).Change!.Moves, 1e-12);
        var one = HeldMotion.Of(Try(new ByDatumsPlan { Datums = ["A"] }).Aligned);
        Assert.Equal([Motion.TurnZ, Motion.ShiftX, Motion.ShiftY], one.Where(m => m.By is null).Select(m => m.Motion));
    }

    /// <summary>
    /// What one way measured in the pose found first serves the next: each is, to the last bit, what a runner finds that tried no other;
    /// also where the features are fitted otherwise.
    /// </summary>
    [Fact]
    public void WaysTriedOneAfterTheOtherAreAsIfEachWereTheFirst()
    {
        var scan = _runner.Value.Prepare(_scan.Value.Mesh, _clamp);
        InspectionPlan Held(params string[] datums) => _clamp with { Align = new ByDatumsPlan { Datums = datums } };
        InspectionPlan[] plans =
        [
            Held("A", "B", "C"), Held("B", "A", "C"),
            Held("A", "B", "C") with { Features = [.. _clamp.Features.Select(f => f with { Criterion = Criterion.OuterTangent })] },
        ];
        var found = plans.Select(p => _runner.Value.Align(scan, p).Transform).ToList();
        Assert.Equal(plans.Select(p => new InspectionRunner(DemoParts.Model("RC-077")).Align(scan, p).Transform), found);
        Assert.Equal(plans.Length, found.Distinct().Count());
    }

    [Fact]
    public void AChangeOfPoseIsThatOfTheFarthestCorner()
    {
        var box = new Box3D(new(0, 0, 0), new(30, 40, 0));
        var change = PoseChange.Of(RigidTransform.FromAxisAngle(Vector3D.UnitZ, 0.01), box);
        Assert.Equal(2 * 50 * Math.Sin(0.005), change.Moves, 1e-12);
        Assert.Equal(0.01 * 180 / Math.PI, change.TurnsDegrees, 1e-12);
    }
}
