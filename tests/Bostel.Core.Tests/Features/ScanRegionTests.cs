using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Spatial;
using Bostel.Core.Tolerancing;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Features;

/// <summary>Surfaces picked on a scan: what they are, what they measure there and on the next piece, and what is no such surface.</summary>
public class ScanRegionTests
{
    private const double Noise = 0.005;

    /// <summary>Faces of the clamp.</summary>
    private const int Bore = 29, Dome = 33, Base = 6;

    private static readonly NominalModel _clamp = DemoParts.Model("RC-077");

    private static readonly InspectionPlan _empty = new();

    /// <summary>
    /// Picked on one piece and measured on it and on another in another pose, each is where the part has it: the scanner adds noise and no
    /// form, so that four standard deviations hold, beside what rounding a size to 0.01 mm does not touch.
    /// </summary>
    [Theory]
    [InlineData(Bore, false)]
    [InlineData(Base, false)]
    [InlineData(Dome, false)]
    [InlineData(Bore, true)]
    [InlineData(Base, true)]
    public void WhatIsPickedIsFoundAgain(int face, bool cloud)
    {
        var ideal = _clamp.Face(face);
        var scan = Scanned(3, cloud);
        var picked = RegionOffer.At(scan, On(face, scan), _empty);
        Assert.Empty(picked.Faces);
        Assert.Equal(ideal.Kind, picked.Region!.Kind);
        if (!cloud)
        {
            Assert.Equal(ideal.Internal, picked.Region.Internal);

            // The scanner does not see into all corners, and a region goes on a little where a face ends in a rounding.
            Assert.InRange(picked.Region.Area, 0.7 * ideal.Area, 1.05 * ideal.Area);
        }

        foreach (var seed in new[] { 3, 11 })
        {
            var found = FeatureExtraction.Measure(picked, Scanned(seed, cloud), _clamp);
            Assert.InRange(found.Used, 50, int.MaxValue);
            Assert.InRange(found.Coverage, 0.9, 1);
            switch (ideal.Shape)
            {
                case Cylinder3D bore:
                    Assert.Equal(Math.Round(2 * bore.Radius, 2), 2 * found.NominalRadius!.Value, 1e-9);
                    Assert.InRange(Math.Abs(found.Radius!.Value - bore.Radius), 0, 4 * found.RadiusSigma);
                    Assert.InRange(bore.AxisLine.Distance(found.Axis!.Project(ideal.Center)), 0, 4 * found.PositionSigma);
                    break;
                case Sphere3D dome:
                    Assert.InRange(Math.Abs(found.Radius!.Value - dome.Radius), 0, 4 * found.RadiusSigma);
                    Assert.InRange(Vector3D.Distance(((Sphere3D)found.Shape).Center, dome.Center), 0, 4 * found.PositionSigma);
                    break;
                default:
                    Assert.InRange(Math.Abs(found.Shape.Distance(ideal.Center)), 0, 4 * found.PositionSigma);
                    Assert.InRange(found.Direction!.Value.AngleTo(((Plane3D)ideal.Shape!).Normal), 0, 4 * found.DirectionSigma);
                    break;
            }
        }
    }

    /// <summary>Steep and deeper than any band of noise, a dent is of the surface all the same: what surrounds it is.</summary>
    [Fact]
    public void ADentIsOfTheSurface()
    {
        const double Depth = 0.8, Reach = 1.5;
        var mesh = Shapes.Field(40, 160, (x, y) => Math.Sqrt(((x - 20) * (x - 20)) + ((y - 20) * (y - 20))) is var r && r < Reach
            ? -Depth * (1 + Math.Cos(Math.PI * r / Reach)) / 2
            : 0);
        var scan = new AlignedScan(mesh, RigidTransform.Identity, null!);
        var picked = RegionOffer.At(scan, new(8, 6, 0), _empty);
        var found = FeatureExtraction.Measure(picked, scan, _clamp);
        Assert.Equal("plane", found.Nominal.Kind);

        // Lattice points lie within half a lattice of the deepest place, where the dent is flat.
        Assert.InRange(found.Form, 0.97 * Depth, 1.01 * Depth);
    }

    /// <summary>
    /// A sheet thinner than the search distance: its other side, which is all surrounded by walls as near, is none of the picked one;
    /// nor is a loose piece that floats before it.
    /// </summary>
    [Fact]
    public void TheOtherSideOfASheetAndLoosePiecesAreNot()
    {
        const double Thickness = 0.8, Floating = 0.5;
        var sheet = Shapes.Cube(40, 40);
        var points = sheet.Coordinates.Select((c, i) => i % 3 == 2 ? c * Thickness / 40 : c).ToArray();
        var island = Shapes.Field(3, 6, (_, _) => 0);
        var mesh = new TriangleMesh(
            [.. points, .. island.Coordinates.Select((c, i) => c + (i % 3 == 2 ? Thickness + Floating : 18))],
            [.. sheet.Indices, .. island.Indices.Select(i => i + sheet.VertexCount)]);
        var scan = new AlignedScan(mesh, RigidTransform.Identity, null!);
        var found = FeatureExtraction.Measure(RegionOffer.At(scan, new(9, 9, Thickness), _empty), scan, _clamp);
        Assert.Equal("plane", found.Nominal.Kind);
        Assert.All(found.Points.Chunk(3), p => Assert.Equal(Thickness, p[2], 1e-12));
        Assert.InRange(found.Used, 30 * 30, 41 * 41);
    }

    /// <summary>A point that stands alone, far off, is stray data as on any feature: left out, and told.</summary>
    [Fact]
    public void AnIsolatedPointIsLeftOutAndTold()
    {
        var flat = Shapes.Noisy(Shapes.Field(40, 80, (_, _) => 0), 0.005, 4);
        var spike = (40 * 81) + 40;
        var mesh = flat.WithCoordinates([.. flat.Coordinates.Select((c, i) => i == (3 * spike) + 2 ? 0.6 : c)]);
        var scan = new AlignedScan(mesh, RigidTransform.Identity, null!);
        var found = FeatureExtraction.Measure(RegionOffer.At(scan, new(9, 9, 0), _empty), scan, _clamp);
        Assert.Equal(1, found.LeftOut.Count);
        Assert.Equal(0.6, found.LeftOut.Extreme, 0.02);
        Assert.InRange(found.Form, 0, 12 * 0.005);
        Assert.InRange(FeatureExtraction.Measure(found.Plan, scan, _clamp, leaveOut: false).Form, 0.55, 0.65);
    }

    /// <summary>A plate of 40 mm bowed by 0.06 mm is a plane, and its bow the form of one; bowed by 2 mm it is a sphere.</summary>
    [Theory]
    [InlineData(0.06, "plane")]
    [InlineData(2, "sphere")]
    public void APlateThatIsHardlyBowedIsAPlane(double bow, string kind)
    {
        // Sagitta of a sphere over the plate's diagonal.
        var half = 20 * Math.Sqrt(2);
        var radius = ((half * half) + (bow * bow)) / (2 * bow);
        var mesh = Shapes.Noisy(Shapes.Field(40, 80, (x, y) =>
            Math.Sqrt((radius * radius) - ((x - 20) * (x - 20)) - ((y - 20) * (y - 20))) - radius), 0.002, 5);
        var scan = new AlignedScan(mesh, RigidTransform.Identity, null!);
        var picked = RegionOffer.At(scan, new(20, 20, 0), _empty);
        Assert.Equal(kind, picked.Region!.Kind);
        if (kind == "plane")
        {
            Assert.InRange(FeatureExtraction.Measure(picked, scan, _clamp).Form, 0.9 * bow, bow + (12 * 0.002));
        }
        else
        {
            Assert.Equal(radius, ((Sphere3D)picked.Region.Face.Shape!).Radius, 0.01 * radius);
        }
    }

    [Fact]
    public void WhereTheRegionIsMissingNothingIsMeasured()
    {
        var scan = Scanned(3, false);
        var picked = RegionOffer.At(scan, On(Bore, scan), _empty);
        var elsewhere = scan with { Transform = RigidTransform.FromTranslation(new(0, 0, 400)).After(scan.Transform) };
        Assert.Contains("no point of the scan lies near", Refusal(() => FeatureExtraction.Measure(picked, elsewhere, _clamp)));
        Assert.Contains("no point of the scan lies near", Refusal(() => RegionOffer.At(scan, new(500, 0, 0), _empty)));
        Assert.Contains("inside the edge margin", Refusal(() => FeatureExtraction.Measure(picked with { EdgeMargin = 50 }, scan, _clamp)));
    }

    /// <summary>What rests on it is offered, judged and said as of any feature.</summary>
    [Fact]
    public void ARegionIsAFeatureOfThePlan()
    {
        var scan = Scanned(3, false);
        var picked = RegionOffer.At(scan, On(Bore, scan), _empty);
        var plan = _empty with { Features = [picked] };
        plan.Check();
        plan.CheckFaces(_clamp);
        Assert.Contains("fit of the cylinder on the scan about", PlanWords.Of(plan).Single(l => l.Key == "feature region-1").Words);
        Assert.Equal("region-2", RegionOffer.At(scan, On(Base, scan), plan).Id);
        Assert.Equal(picked.Region!.Numbers, InspectionPlan.Parse(plan.ToJson()).Features[0].Region!.Numbers);
        var offered = Proposals.For(_clamp, plan, [], [picked.Id]);
        Assert.Contains(offered, p => p.Characteristic is DiameterPlan);
        Refused(picked with { Faces = [33] });
        Refused(picked with { Region = picked.Region with { Kind = "cube" } });
        Refused(picked with { Region = picked.Region with { Numbers = [1, 2] } });
        Refused(picked with { Region = picked.Region with { Area = double.NaN } });
        Refused(picked with { Region = picked.Region with { Numbers = [.. picked.Region.Numbers[..6], -3] } });
        var asked = plan with
        {
            Characteristics = [new DiameterPlan(1, "d") { Features = ["region-1"], Nominal = 8, Lower = -1, Upper = 1 }],
        };
        var row = new InspectionRunner(_clamp).Run(scan.Mesh, asked).Characteristics.Single();
        Assert.EndsWith("on the scan 1: grown on the scan", row.Method, StringComparison.Ordinal);

        void Refused(FeaturePlan feature) => Assert.Contains("a region of the scan has a place",
            Refusal(() => (_empty with { Features = [feature] }).Check()));
    }

    private static string Refusal(Action act) => Assert.Throws<BadInputException>(act).Message;

    /// <summary>A place of a face that the scanner has seen.</summary>
    private static Vector3D On(int face, AlignedScan scan)
    {
        var seen = new PointTree(scan.Transform.ApplyAll(scan.Mesh.Coordinates));
        return Enumerable.Range(0, _clamp.Mesh.TriangleCount).Where(t => _clamp.FaceOfTriangle[t] == face)
            .Select(t => _clamp.Mesh.Triangle(t)).Select(t => (t.A + t.B + t.C) / 3).Where(p => seen.Nearest(p, 0.3) >= 0)
            .MinBy(p => Vector3D.Distance(p, _clamp.Face(face).Center));
    }

    /// <summary>In the pose that the scanner knows.</summary>
    private static AlignedScan Scanned(int seed, bool cloud)
    {
        var scan = SimulatedScanner.Scan(
            _clamp, new() { Seed = seed, Spacing = 0.6, Noise = Noise, Cloud = cloud, StrayPieces = 0, TablePatch = false });
        return new(scan.Mesh, RigidTransform.FromArray(scan.Truth.Transform), null!);
    }
}
