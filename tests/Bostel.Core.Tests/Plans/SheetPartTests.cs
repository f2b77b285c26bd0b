using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Plans;

/// <summary>The louvre bracket, 1.5 mm thick: holes, slots, a window and trim lines measured from the edges of its sides.</summary>
public class SheetPartTests
{
    private const int Upper = 26, Under = 23, Flange = 0;
    private static readonly InspectionPlan _empty = new();

    [Theory]
    [InlineData(35, "Hole ø6.5, edge")]
    [InlineData(40, "Trim line, 12 long, edge")]
    [InlineData(15, "Slot 14 × 6, edge", "Trim line, 8 long, edge")]
    public void AWallOffersTheEdgeOfItsOpeningAndOfItself(int wall, params string[] names)
    {
        var offers = EdgeOffers.For(DemoParts.Model("LB-045"), _empty, [wall]);
        int[] sides = wall == 15 ? [Flange, 18] : [Under, Upper];
        Assert.Equal(sides, offers.Select(o => o.EdgeOf!.Value).Distinct().Order());
        Assert.All(sides, side => Assert.Equal(names, offers.Where(o => o.EdgeOf == side).Select(o => o.Name)));
        Assert.Equal(wall == 15 ? 4 : 1, offers[0].Faces.Length);
        Assert.Equal(offers.Count, offers.Select(o => o.Id).Distinct().Count());
    }

    [Fact]
    public void FacesWithoutAnEdgeThatCanBeMeasuredOfferNone()
    {
        var nominal = DemoParts.Model("LB-045");
        Assert.Empty(EdgeOffers.For(nominal, _empty, []));

        // A corner radius of the window is a quarter of a circle, and its opening neither a circle nor a slot.
        Assert.Empty(EdgeOffers.For(nominal, _empty, [37]));
        Assert.Throws<BadInputException>(() => EdgeOffers.For(nominal, _empty, [400]));
    }

    /// <summary>What its drawing shows on each side of the sheet: holes and slots whole, straight cuts one by one.</summary>
    [Theory]
    [InlineData(Upper, 2, 0, 11)]
    [InlineData(Under, 2, 0, 11)]
    [InlineData(Flange, 0, 2, 5)]
    [InlineData(20, 3, 0, 2)]
    public void ASideOffersAllItsEdges(int side, int holes, int slots, int cuts)
    {
        var nominal = DemoParts.Model("LB-045");
        var offers = EdgeOffers.For(nominal, _empty, [side]);
        Assert.All(offers, o => Assert.Equal(side, o.EdgeOf));
        int Of(string kind) => offers.Count(o => o.Name.StartsWith(kind, StringComparison.Ordinal));
        Assert.Equal((holes, slots, cuts), (Of("Hole"), Of("Slot"), Of("Trim line")));
        Assert.Equal(offers.Count, offers.Select(o => o.Name).Distinct().Count());

        // Those that the plan has already are not offered again.
        Assert.Equal(offers.Count - 2, EdgeOffers.For(nominal, new() { Features = [.. offers.Take(2)] }, [side]).Count);
    }

    /// <summary>A block is no sheet: its faces offer the edges that they make on wider ones, and none of their own.</summary>
    [Fact]
    public void OnlySidesOfSheetsDo()
    {
        var nominal = DemoParts.Model("VH-310");
        var planes = nominal.Faces.Where(f => f.Shape is Plane3D).ToList();
        Assert.NotEmpty(planes);
        Assert.All(planes, f => Assert.DoesNotContain(EdgeOffers.For(nominal, _empty, [f.Id]), o => o.EdgeOf == f.Id));
    }

    [Fact]
    public void EdgesAlikeLieOnTheSameSide()
    {
        var alike = FeaturesAlike.Of(DemoParts.Model("LB-045"), _empty, 28, edgeOf: 20);
        Assert.Equal([28, 29, 30], alike.SelectMany(f => f.Faces).Order());
        Assert.All(alike, f => Assert.Equal(20, f.EdgeOf));
        Assert.Equal("Hole ø4.2 no. 1, edge", alike[0].Name);
    }

    /// <summary>
    /// 6.5 mm holes within 0.1 mm at 0.5 mm between points, whether the scan is a mesh with its walls or a cloud without. Of 13 sizes and
    /// distances no more than two lie out of U: of values that do in one of twenty, three of 13 come out in one scan of forty.
    /// </summary>
    [Theory]
    [InlineData(true, 3)]
    [InlineData(false, 6)]
    public void SizesAndPlacesOfASheetAreThoseOfItsDrawing(bool cloud, int seed)
    {
        var plan = InspectionPlan.Parse(File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "LB-045.json")));
        var run = new InspectionRunner(DemoParts.Model("LB-045")).Run(Scan(cloud, seed), plan);
        var holes = run.Features.Where(f => f.Plan.Id is "hole-1" or "hole-2").ToList();
        Assert.Equal(2, holes.Count);
        Assert.All(holes, h => Assert.InRange(Math.Abs((2 * h.Measured[6]) - 6.5), 0, 0.1));
        Assert.All(holes, h => Assert.InRange(h.Coverage, 0.95, 1));
        var ofEdges = run.Characteristics.Where(c => c.Plan is DimensionalPlan && c.Plan.No is >= 8 and <= 21).ToList();
        var off = ofEdges.Where(r => !(Math.Abs(r.Measured!.Value - r.Plan.Limits.Nominal!.Value) <= r.Uncertainty)).ToList();
        Assert.Equal(13, ofEdges.Count);
        Assert.True(off.Count <= 2, string.Join(", ", off.Select(r => $"{r.Plan.Name} {r.Measured} ± {r.Uncertainty}")));
    }

    /// <summary>Without a nominal, from the borders alone: each hole from either side.</summary>
    [Fact]
    public void HolesAreFoundWithoutANominal()
    {
        var radii = SheetEdges.Find(Scan(true, 3)).Where(e => e.Sigma is not null).Select(e => (e.Shape as Circle3D)?.Radius).ToList();
        Assert.InRange(radii.Count(r => Math.Abs((2 * r ?? 0) - 6.5) <= 0.15), 3, 4);
        Assert.DoesNotContain(radii, r => 2 * r is > 6.65 and < 8);
    }

    /// <summary>Points in the mouth of a hole are left out, and told.</summary>
    [Fact]
    public void WhatStandsBeforeAnEdgeIsTold()
    {
        var nominal = DemoParts.Model("LB-045");
        var scan = Scanned(true, 3);
        double[] inside = [16, 48.4, 1.5, 16.05, 48.4, 1.5];
        var strayed = new TriangleMesh([.. scan.Mesh.Coordinates, .. inside], []);
        var runner = new InspectionRunner(nominal);
        var with = new AlignedScan(
            strayed, RigidTransform.Identity, runner.Compare(runner.Begin(strayed), RigidTransform.Identity, _empty));
        var hole = EdgeOffers.For(nominal, _empty, [35]).First(e => e.EdgeOf == Upper);
        var (clean, told) = (FeatureExtraction.Measure(hole, scan, nominal), FeatureExtraction.Measure(hole, with, nominal));
        Assert.Equal(0, clean.LeftOut.Count);
        Assert.Equal(2, told.LeftOut.Count);
        Assert.Equal([strayed.VertexCount - 2, strayed.VertexCount - 1], told.LeftOutVertices);

        // 2.4 of 3.25 mm from the centre: 0.85 mm before the edge.
        Assert.Equal(-0.85, told.LeftOut.Extreme, 0.1);
        Assert.Equal(clean.Radius!.Value, told.Radius!.Value, 0.02);
    }

    [Fact]
    public void AnEdgeThatIsNotThereIsSaidToBeMissing()
    {
        var nominal = DemoParts.Model("LB-045");
        var scan = Scanned(true, 3);
        var without = new AlignedScan(scan.Mesh, RigidTransform.FromTranslation(new(500, 0, 0)), scan.Deviations);
        var hole = EdgeOffers.For(nominal, _empty, [35])[0];
        Assert.Contains("cannot be measured", Assert.Throws<BadInputException>(
            () => FeatureExtraction.Measure(hole, without, nominal)).Message, StringComparison.Ordinal);
        Assert.Contains("no circle, slot or straight line", Assert.Throws<BadInputException>(
            () => FeatureExtraction.Measure(hole with { Faces = [35, 36] }, scan, nominal)).Message, StringComparison.Ordinal);
        Assert.Contains("do not stand square", Assert.Throws<BadInputException>(
            () => FeatureExtraction.Measure(hole with { EdgeOf = Flange, Faces = [28] }, scan, nominal)).Message, StringComparison.Ordinal);
    }

    private static AlignedScan Scanned(bool cloud, int seed)
    {
        var (mesh, runner) = (Scan(cloud, seed), new InspectionRunner(DemoParts.Model("LB-045")));
        var prepared = runner.Begin(mesh);
        return new(mesh, RigidTransform.Identity, runner.Compare(prepared, RigidTransform.Identity, _empty));
    }

    private static TriangleMesh Scan(bool cloud, int seed) => SimulatedScanner.Scan(DemoParts.Model("LB-045"), new()
    {
        Seed = seed,
        Spacing = 0.5,
        Noise = 0.012,
        Cloud = cloud,
        NarrowestFace = cloud ? 2 : 0,
        StrayPieces = 0,
        TablePatch = false,
        RandomPose = false,
    }).Mesh;
}
