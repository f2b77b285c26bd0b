using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Plans;

/// <summary>
/// Several alignments in one plan. What stands in a named one is, to the last bit, what it would be in a plan that has that way of aligning
/// for its own: an expectation that owes nothing to how names are carried.
/// </summary>
public class NamedAlignmentTests
{
    private const string Best = "best fit";

    private static readonly InspectionPlan _clamp = InspectionPlan.Parse(
        File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "RC-077.json")));

    private static readonly Lazy<InspectionRunner> _runner = new(() => new(DemoParts.Model("RC-077")));

    /// <summary>Shrunk, so that a fit to the corner that holds the part and one to all of it lie apart.</summary>
    private static readonly Lazy<SimulatedScan> _scan = new(() => SimulatedScanner.Scan(DemoParts.Model("RC-077"),
        new() { Seed = 3, Spacing = 0.8, Noise = 0.01, StrayPieces = 0, TablePatch = false, Errors = [new("shrunk", [], 0.4)] }));

    private static readonly Lazy<InspectionResult> _result = new(() => _runner.Value.Run(_scan.Value.Mesh, _clamp));

    [Fact]
    public void WhatStandsInANamedAlignmentIsAsUnderAPlanOfItsOwn()
    {
        var plan = _clamp with
        {
            Features = [.. _clamp.Features.Select(f => f.Id == "seat" ? f with { Alignment = Best } : f)],
            Constructions = [.. _clamp.Constructions.Select(c => c.Id == "countersink-rim" ? c with { Alignment = Best } : c)],
        };
        var several = _runner.Value.Run(_scan.Value.Mesh, plan);
        var alone = _runner.Value.Run(_scan.Value.Mesh, _clamp.Under(Best));
        var own = _runner.Value.Run(_scan.Value.Mesh, _clamp.Under(null));

        var named = Assert.Single(several.Named);
        Assert.Equal(alone.Alignment.Transform, named.Aligned!.Result.Transform);
        Assert.Equal(own.Alignment.Transform, several.Alignment.Transform);
        Assert.Equal(alone.Map.Deviations.Values, several.Map.Deviations.Values);
        Assert.Equal(alone.Compared.Statistics.Rms, several.Compared.Statistics.Rms);
        foreach (var measured in several.Features)
        {
            var id = measured.Construction?.Id ?? measured.Plan.Id;
            var expected = plan.AlignmentOf(id) is null ? own : alone;
            Assert.Equal(expected.Features.Single(f => (f.Construction?.Id ?? f.Plan.Id) == id).Measured, measured.Measured);
        }

        foreach (var row in several.Characteristics)
        {
            var expected = row.Plan.Alignment is null ? own : alone;
            Assert.Equal(expected.Characteristics.Single(r => r.Plan.No == row.Plan.No).Measured, row.Measured);
        }

        // They do differ: the seat is 0.4 % of 37 mm nearer to the corner that holds the part.
        Assert.NotEqual(
            own.Features.Single(f => f.Plan.Id == "seat").Measured, several.Features.Single(f => f.Plan.Id == "seat").Measured);
    }

    /// <summary>
    /// The part is 0.4 % smaller about any point of it: the pose moves no corner of its box by more than the farthest corner of it shrinks.
    /// </summary>
    [Fact]
    public void HowFarOnePoseLiesFromTheOtherIsSaid()
    {
        var change = _result.Value.Named[0].Change!;
        Assert.InRange(change.Moves, 0.05, 0.004 * DemoParts.Model("RC-077").Mesh.Bounds.Diagonal);
    }

    [Fact]
    public void AChangeOfANamedAlignmentPutsOutOfDateWhatStandsInItAndNothingElse()
    {
        var before = Keys(_clamp);
        var after = Keys(_clamp.Held(Best, new ChosenFacesPlan { Faces = [6] }));
        Assert.Equal((before.Aligned, before.Deviations), (after.Aligned, after.Deviations));
        Assert.Equal(before.Features, after.Features);
        Assert.NotEqual((before.Map, before.Compared), (after.Map, after.Compared));
        Assert.Equal([12], before.Values.Where(v => after.Values[v.Key] != v.Value).Select(v => v.Key));
        Assert.NotEqual(before.Evaluated, after.Evaluated);

        // A name is only a name, and an alignment in which nothing stands changes nothing.
        var named = Keys(_clamp with { Alignments = [.. _clamp.Alignments, new("beside", new AllSurfacesPlan())] });
        Assert.Equal((before.Compared, before.Evaluated, before.Measured), (named.Compared, named.Evaluated, named.Measured));
        Assert.Equal(named.Under[Best].Aligned, named.Under["beside"].Aligned);
        Assert.NotEqual(before.Report([], new(), ""), named.Report([], new(), ""));

        // What else is printed makes another report: sections, maps, their colours, what labels say.
        ComparePlan[] compared =
        [
            new(), new() { Sections = [new("s", [0, 0, 0], [0, 0, 1])] }, new() { Maps = [new SpacingMap { Name = "m" }] },
            new() { Ramp = new(RampKind.Grey) }, new() { LabelsSay = [LabelContent.Name] }, new() { Explain = true },
        ];
        InspectionPlan[] printed =
        [
            .. compared.Select(c => new InspectionPlan { Compare = c }), new() { Report = new() { Title = "Another" } },
            new() { Shown = ShownUnit.Inch }, new() { Standard = DrawingStandard.Asme },
        ];
        Assert.Equal(printed.Length, printed.Select(p => before.Report([], p, "")).Distinct().Count());

        static OutcomeKeys Keys(InspectionPlan plan) => OutcomeKeys.Of(new("s", ".ply", null, "mm"), new("n", "mm", "m"), plan);
    }

    [Fact]
    public void EveryOutcomeKnowsWhatItWasMadeFrom()
    {
        var keys = OutcomeKeys.Of(new("s", ".ply", null, "mm"), new("n", "mm", "m"), _clamp);
        Assert.Equal(keys.Under[Best].Deviations, keys.Map);
        Assert.Equal(keys.Map, keys.All[keys.Compared]);
        Assert.Equal(keys.Map, keys.All[keys.Values[12]]);
        Assert.Equal(keys.Deviations, keys.All[keys.Values[1]]);
        Assert.Equal(keys.Under[Best].Aligned, keys.All[keys.Map]);
        Assert.Equal(keys.Prepared, keys.All[keys.Under[Best].Aligned]);
        Assert.Subset(keys.All.Keys.ToHashSet(), keys.Judging.ToHashSet());
    }

    /// <summary>Without the base face the datum A is not there: only what stands in the alignment by it fails, with the reason.</summary>
    [Fact]
    public void AnAlignmentThatDeterminesNoPoseFailsAlone()
    {
        var nominal = DemoParts.Model("RC-077");
        var mesh = _scan.Value.Mesh;
        var aligned = _result.Value.Alignment.Transform;
        var plane = ((Plane3D)nominal.Face(6).Shape!).Point;
        var open = mesh.KeepTriangles(t => Math.Abs(aligned.Apply(mesh.Triangle(t).A).Z - plane.Z) > 1);
        var plan = _clamp with
        {
            Alignments = [.. _clamp.Alignments, new("by datums", new ByDatumsPlan { Datums = ["A", "B", "C"] })],
            Align = new AllSurfacesPlan(),
            Features = [.. _clamp.Features.Select(f => f.Id is "pin-1" ? f with { Alignment = "by datums" } : f)],
        };
        var result = _runner.Value.Run(open, plan);
        Assert.True(result.Alignment.Resembles);
        Assert.NotNull(result.Named[0].Aligned);
        Assert.Null(result.Named[1].Aligned);
        var failed = result.Features.Single(f => f.Plan.Id == "pin-1");
        Assert.Contains("Base face", failed.Failure, StringComparison.Ordinal);
        Assert.Null(result.Features.Single(f => f.Plan.Id == "pin-2").Failure);
        Assert.NotEqual(Verdict.NotMeasured, result.Characteristics.Single(c => c.Plan.No == 6).Verdict);
    }

    [Fact]
    public void WhatDoesNotBelongTogetherIsRefused()
    {
        Refused("'best fit' appears twice", _clamp with { Alignments = [.. _clamp.Alignments, .. _clamp.Alignments] });
        Refused("1 to 200 characters", _clamp with { Alignments = [.. _clamp.Alignments, new(" ", new AllSurfacesPlan())] });
        Refused("compare stands in alignment 'best fit', which the plan does not have", _clamp with { Alignments = [] });
        Refused("alignment 'x': faces: at least one face is needed",
            _clamp with { Alignments = [.. _clamp.Alignments, new("x", new ChosenFacesPlan())] });
        Refused("characteristic 9 stands in the system of its datums", _clamp with
        {
            Characteristics = [.. _clamp.Characteristics.Select(c => c.No == 9 ? c with { Alignment = Best } : c)],
        });
        Assert.Contains("no alignment 'gone'", Assert.Throws<BadInputException>(() => _clamp.Under("gone")).Message,
            StringComparison.Ordinal);
        Assert.Contains("alignment 'x' names face 900", Assert.Throws<BadInputException>(() =>
            (_clamp with { Alignments = [.. _clamp.Alignments, new("x", new ChosenFacesPlan { Faces = [900] })] })
                .CheckFaces(DemoParts.Model("RC-077"))).Message, StringComparison.Ordinal);
        Assert.Contains("alignment best fit: the method 'guess' is not one of", Assert.Throws<BadInputException>(() =>
            InspectionPlan.Parse(_clamp.ToJson().Replace("all-surfaces", "guess", StringComparison.Ordinal))).Message,
            StringComparison.Ordinal);

        static void Refused(string why, InspectionPlan plan) =>
            Assert.Contains(why, Assert.Throws<BadInputException>(() => plan.Check()).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void APlanSaysWhatStandsWhere()
    {
        var lines = PlanWords.Of(_clamp);
        Assert.Contains(new PlanLine("Align", "alignment best fit", "best fit to all surfaces"), lines);
        Assert.EndsWith("in alignment 'best fit'", lines.Single(l => l.Key == "search").Words, StringComparison.Ordinal);
        Assert.Contains("alignment best fit", lines.Single(l => l.Key == "characteristic 12").Words, StringComparison.Ordinal);
    }
}
