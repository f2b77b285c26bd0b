using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Features;

/// <summary>Features measured in limited areas: the base of the ridge clamp, 70 by 32 mm, bowed, and held at three of its places.</summary>
public class TargetAreaTests
{
    private const double Bow = 0.3, Radius = 2.5;

    /// <summary>Of the base z = 0: two near one end, one towards the other.</summary>
    private static readonly double[][] _places = [[20, 7, 0], [20, 25, 0], [46, 16, 0]];

    private static readonly FeaturePlan _held = new("held", "Held", [6]) { Targets = [.. _places.Select(p => new TargetArea(p, Radius))] };

    private static readonly AlignedScan _scan = Aligned();

    /// <summary>
    /// The plane through three targets, not that of the whole bowed face: least squares over all of it lie at the mean of the bow.
    /// </summary>
    [Fact]
    public void OnlyTheTargetsCount()
    {
        var nominal = DemoParts.Model("RC-077");
        var held = FeatureExtraction.Measure(_held, _scan, nominal);
        var whole = FeatureExtraction.Measure(_held with { Targets = null }, _scan, nominal);
        Assert.All(held.Points.Chunk(3), p => Assert.Contains(_places, t =>
            Vector3D.Distance(Vector3D.FromArray(t), Vector3D.FromArray([p[0], p[1], 0])) <= Radius + 0.02));
        Assert.InRange(held.Used, 30, whole.Used / 10);
        Assert.InRange(held.Coverage, 0.95, 1);

        // What its own points say, by hand: the mean of each target, and the plane through the three.
        var means = _places.Select(t => held.Points.Chunk(3).Select(Vector3D.FromArray)
            .Where(p => Vector3D.Distance(p with { Z = 0 }, Vector3D.FromArray(t)) < 2 * Radius).ToList())
            .Select(ps => ps.Aggregate(Vector3D.Zero, (s, p) => s + (p / ps.Count))).ToArray();
        var through = (means[1] - means[0]).Cross(means[2] - means[0]).Normalized();
        Assert.InRange(Math.Min(through.AngleTo(held.Direction!.Value), (-through).AngleTo(held.Direction.Value)), 0, 2e-4);
        Assert.All(means, m => Assert.InRange(Math.Abs(held.Shape.Distance(m)), 0, 0.004));
        Assert.True(Math.Abs(whole.Shape.Distance(means[0])) > 0.02);
        Assert.True(held.Form < whole.Form / 2);
    }

    [Fact]
    public void ATargetWithoutPointsIsMissedAndNotInvented()
    {
        var nominal = DemoParts.Model("RC-077");
        var off = _held with { Targets = [new([-200, 0, 0], Radius)] };
        Assert.Contains("in its target areas", Assert.Throws<BadInputException>(
            () => FeatureExtraction.Measure(off, _scan, nominal)).Message, StringComparison.Ordinal);
        var bare = new AlignedScan(_scan.Mesh.KeepTriangles(t => Vector3D.Distance(_scan.Transform.Apply(_scan.Mesh.Triangle(t).A),
            Vector3D.FromArray(_places[2])) > 6), _scan.Transform, _scan.Deviations);
        var map = new InspectionRunner(nominal).Compare(new(bare.Mesh, new(0, 0, 0, 0, 0, [])), _scan.Transform, new());
        var two = FeatureExtraction.Measure(_held, bare with { Deviations = map }, nominal);
        Assert.Equal(2.0 / 3, two.Coverage, 0.06);
    }

    [Fact]
    public void TargetsAreCheckedAndSaid()
    {
        var plan = new InspectionPlan { Features = [_held] };
        plan.Check();
        plan.CheckFaces(DemoParts.Model("RC-077"));
        Assert.Contains("in 3 target areas (2.5 mm about 20, 7, 0; ", PlanWords.Of(plan).Single(l => l.Key == "feature held").Words,
            StringComparison.Ordinal);
        Refused("radius above 0", _held with { Targets = [new([0, 0, 0], 0)] });
        Refused("three coordinates", _held with { Targets = [new([0, 0], 1)] });
        Refused("a surface has", _held with { EdgeOf = 0 });
        Assert.Contains("lies 5 mm off its faces", Assert.Throws<BadInputException>(() =>
            (plan with { Features = [_held with { Targets = [new([30, 16, -5], 2)] }] }).CheckFaces(DemoParts.Model("RC-077"))).Message,
            StringComparison.Ordinal);

        static void Refused(string why, FeaturePlan feature) => Assert.Contains(why, Assert.Throws<BadInputException>(() =>
            new InspectionPlan { Features = [feature] }.Check()).Message, StringComparison.Ordinal);
    }

    /// <summary>In the pose that the scanner knows.</summary>
    private static AlignedScan Aligned()
    {
        var nominal = DemoParts.Model("RC-077");
        var scan = SimulatedScanner.Scan(nominal,
            new() { Seed = 3, Spacing = 0.5, Noise = 0.005, StrayPieces = 0, TablePatch = false, Errors = [new("bow", [6], Bow)] });
        var pose = RigidTransform.FromArray(scan.Truth.Transform);
        return new(scan.Mesh, pose, new InspectionRunner(nominal).Compare(new(scan.Mesh, new(0, 0, 0, 0, 0, [])), pose, new()));
    }
}
