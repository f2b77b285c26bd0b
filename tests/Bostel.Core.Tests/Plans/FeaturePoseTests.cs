using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Plans;

/// <summary>Poses that features determine, by datums and by an axis system, and how sure they are.</summary>
public class FeaturePoseTests
{
    private static readonly InspectionPlan _clamp = InspectionPlan.Parse(
        File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "RC-077.json")));

    private static readonly InspectionRunner _runner = new(DemoParts.Model("RC-077"));

    private static readonly AxisSystemPlan _axes = new() { First = "base", Second = "end", Origin = ["base", "end", "left"] };

    [Fact]
    public void AnAxisSystemBringsItsFeaturesOntoTheirNominals()
    {
        var scan = Scan(4, 0.8);
        var prepared = _runner.Prepare(scan.Mesh, _clamp);
        var plan = _clamp with { Align = _axes };
        var result = _runner.Align(prepared, plan);
        Assert.All(result.Steps, s => Assert.InRange(s.Residual, 0, 0.02));
        Assert.All(HeldMotion.Of(new(_axes, result)), m => Assert.NotNull(m.By));
        Assert.Equal(["Base face", "End face", "Left side"], result.Steps.Select(s => s.Name));

        // An origin on one plane alone leaves two shifts as fitted: nothing of the features says how sure they are.
        var loose = _axes with { Origin = ["end"] };
        var free = _runner.Align(prepared, _clamp with { Align = loose });
        Assert.Equal([Motion.ShiftY, Motion.ShiftZ],
            HeldMotion.Of(new(loose, free)).Where(m => m.By is null).Select(m => m.Motion));
        Assert.True(double.IsPositiveInfinity(free.FarthestSigma!.Value));

        // Measured anew where it lies now, the base is parallel to its nominal and through it at the corner, whatever its form.
        var aligned = new Core.Features.AlignedScan(
            prepared.Mesh, result.Transform, _runner.Compare(prepared, result.Transform, plan));
        var features = _runner.FeaturesOf(plan, aligned);
        Assert.InRange(features["base"].Direction!.Value.AngleTo(features["base"].NominalDirection!.Value), 0, 1e-5);
        Assert.Contains(new("Align", "method",
            "set by an axis system: first axis base, second towards end, origin on base, end, left"), PlanWords.Of(plan));
    }

    [Fact]
    public void AnAxisSystemNamesFeaturesThatThePlanHas()
    {
        Refused("align names feature 'gone'", _axes with { Second = "gone" });
        Refused("one to three for the origin", _axes with { Origin = [] });
        Refused("a feature for each axis", _axes with { First = "" });
        Assert.Contains("alignment 'x' names feature 'gone'", Assert.Throws<BadInputException>(() =>
            (_clamp with { Alignments = [.. _clamp.Alignments, new("x", _axes with { First = "gone" })] }).Check()).Message,
            StringComparison.Ordinal);

        static void Refused(string why, AxisSystemPlan axes) => Assert.Contains(
            why, Assert.Throws<BadInputException>(() => (_clamp with { Align = axes }).Check()).Message, StringComparison.Ordinal);
    }

    /// <summary>
    /// Where the farthest corner comes to lie scatters from scan to scan as stated. The root mean square over 12 scans has a standard
    /// error of 1/√(2·12) = 20 % if one direction tells all: three of them about the ratio 1. What is stated is the worst direction
    /// alone; with three directions alike the whole is √3 times that.
    /// </summary>
    [Fact]
    public void APoseByFeaturesScattersAsStated()
    {
        AlignPlan[] ways = [_axes, new ByDatumsPlan { Datums = ["A", "B", "C"] }];
        var corners = _runner.Nominal.Mesh.Bounds.Corners.ToList();
        var off = ways.Select(_ => new List<Vector3D[]>()).ToArray();
        var stated = ways.Select(_ => new List<double>()).ToArray();
        for (var seed = 0; seed < 12; seed++)
        {
            var scan = Scan(100 + seed, 1.2);
            var prepared = _runner.Prepare(scan.Mesh, _clamp);
            for (var w = 0; w < ways.Length; w++)
            {
                var result = _runner.Align(prepared, _clamp with { Align = ways[w] });
                var error = result.Transform.After(RigidTransform.FromArray(scan.Truth.Transform).Inverse());
                off[w].Add([.. corners.Select(c => error.Apply(c) - c)]);
                stated[w].Add(result.FarthestSigma!.Value);
            }
        }

        for (var w = 0; w < ways.Length; w++)
        {
            var rms = Enumerable.Range(0, corners.Count).Max(k => Math.Sqrt(off[w].Average(o => o[k].LengthSquared)));
            Assert.InRange(rms / stated[w].Average(), 1 - (3 * 0.2), Math.Sqrt(3) * (1 + (3 * 0.2)));
        }
    }

    private static SimulatedScan Scan(int seed, double spacing) => SimulatedScanner.Scan(DemoParts.Model("RC-077"),
        new() { Seed = seed, Spacing = spacing, Noise = 0.02, StrayPieces = 0, TablePatch = false });
}
