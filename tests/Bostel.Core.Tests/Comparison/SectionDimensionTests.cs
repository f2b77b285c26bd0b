using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Segmentation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Comparison;

/// <summary>Dimensions between the lines and arcs of a section, against closed forms; as rows of a plan.</summary>
public class SectionDimensionTests
{
    private const double Side = 40, Height = 17.3;

    private static readonly NominalModel _block = CadMeshSegmentation.Recognise(Shapes.Cube(Side, 1));

    private static readonly double[] _left = [0, 20, Height], _right = [Side, 20, Height], _front = [20, 0, Height];

    /// <summary>A block that is 0.1 % larger: its opposite sides are 40.04 mm apart, from whichever one begins.</summary>
    [Fact]
    public void OppositeSidesAreAsFarApartAsTheBlockIsWide()
    {
        var sheet = Cut(Scaled(Shapes.Cube(Side, 20), 1.001));
        foreach (double[][] places in (double[][][])[[_left, _right], [_right, _left]])
        {
            var found = SectionDimension.Of(SectionMeasure.Distance, SectionDimension.Named(sheet, places), null);
            Assert.Equal(Side, found.Nominal, 1e-9);
            Assert.Equal(1.001 * Side, found.Value, 1e-9);
            Assert.All(found.Parts, p => Assert.Equal(1, p.Coverage));
        }
    }

    /// <summary>A block sheared by 1 in 100 in the plane of the cut: its corners have 90° less the shear, or more.</summary>
    [Theory]
    [InlineData(90.0, 1)]
    [InlineData(null, 1)]
    public void AnAngleIsThatOfTheTwoLines(double? asked, int sign)
    {
        var sheared = Mapped(Shapes.Cube(Side, 20), p => new(p.X + (0.01 * (p.Y - 20)), p.Y, p.Z));
        var parts = SectionDimension.Named(Cut(sheared), [_left, _front]);
        Assert.Equal([SectionMeasure.Angle], SectionDimension.Possible(parts));
        var found = SectionDimension.Of(SectionMeasure.Angle, parts, asked);
        Assert.Equal(90, found.Nominal, 1e-9);
        Assert.Equal(Math.Atan(0.01) * 180 / Math.PI, sign * Math.Abs(found.Value - 90), 1e-6);
    }

    [Fact]
    public void WhatPartsDoNotMakeIsRefusedInWords()
    {
        var sheet = Cut(Shapes.Cube(Side, 20));
        Refused("no one distance", () => Of(sheet, SectionMeasure.Distance, _left, _front));
        Refused("parallel", () => Of(sheet, SectionMeasure.Angle, _left, _right));
        Refused("one arc", () => Of(sheet, SectionMeasure.Radius, _left));
        Refused("no line or arc within 1 mm", () => SectionDimension.Named(sheet, [[20, 20, Height]]));

        // A scan that ends before the right side: nothing tells where that is.
        var half = Shapes.Cube(Side, 20);
        int[] kept = [.. Enumerable.Range(0, half.TriangleCount).Where(t => Middle(half, t).X < 30)
            .SelectMany(t => half.Indices[(3 * t)..((3 * t) + 3)])];
        Refused("too few", () => Of(Cut(new(half.Coordinates, kept)), SectionMeasure.Distance, _left, _right));

        static SectionDimension Of(SectionSheet sheet, SectionMeasure measure, params double[][] places) =>
            SectionDimension.Of(measure, SectionDimension.Named(sheet, places), null);

        static void Refused(string why, Action act) => Assert.Contains(
            why, Assert.Throws<BadInputException>(act).Message, StringComparison.Ordinal);
    }

    /// <summary>
    /// A ball cut off its middle: √(r² − h²), the nominal's own from its sphere and not from the chords of its facets.
    /// </summary>
    [Fact]
    public void AnArcHasItsRadiusAndDiameter()
    {
        var ball = NominalModel.OfSurface(Shapes.Sphere(20, 6));
        var sheet = SectionSheet.Of(
            new(new(0, 0, 7), Vector3D.UnitZ), Shapes.Sphere(20.05, 6), RigidTransform.Identity, 0.4, ball, new(3), -0.1, 0.1);
        var at = Math.Sqrt(400 - 49);
        var parts = SectionDimension.Named(sheet, [[at, 0, 7]]);
        Assert.Equal([SectionMeasure.Radius, SectionMeasure.Diameter], SectionDimension.Possible(parts));
        var radius = SectionDimension.Of(SectionMeasure.Radius, parts, null);
        var diameter = SectionDimension.Of(SectionMeasure.Diameter, parts, null);
        Assert.Equal(at, radius.Nominal, 0.002);
        Assert.Equal(Math.Sqrt((20.05 * 20.05) - 49), radius.Value, 0.002);
        Assert.Equal(2 * radius.Value, diameter.Value, 1e-12);
        Assert.Equal(2 * radius.Sigmas[0].Sigma, diameter.Sigmas[0].Sigma, 1e-9);
    }

    /// <summary>
    /// A block of 40 mm with a half-round end of 10 mm at its right: the scan's is 10.05 mm and sits 0.1 mm farther out. With a groove of
    /// that size instead, what is left behind it.
    /// </summary>
    [Theory]
    [InlineData(1, SectionMeasure.Greatest, 50, 50.15)]
    [InlineData(-1, SectionMeasure.Least, 30, 30.05)]
    public void AnExtremeIsMeasuredFromALineToTheSideOfAnArc(int side, SectionMeasure measure, double nominal, double value)
    {
        var part = CadMeshSegmentation.Recognise(Ended(side, 10, 0, 4, 36));
        var sheet = SectionSheet.Of(
            new(new(0, 0, 10), Vector3D.UnitZ), Ended(side, 10.05, 0.1, 0.4, 720), RigidTransform.Identity, 0.4, part, new(3), -0.1, 0.1);
        foreach (double[][] places in (double[][][])[[[-40, 0, 10], [10 * side, 0, 10]], [[10 * side, 0, 10], [-40, 0, 10]]])
        {
            var parts = SectionDimension.Named(sheet, places);
            Assert.Equal([SectionMeasure.Distance, measure], SectionDimension.Possible(parts));
            var found = SectionDimension.Of(measure, parts, null);
            Assert.Equal(nominal, found.Nominal, 1e-6);
            Assert.Equal(value, found.Value, 1e-3);
        }

        var sides = SectionDimension.Named(sheet, [[-40, 0, 10], [-20, side > 0 ? -10 : -20, 10]]);
        Assert.Contains("extreme", Assert.Throws<BadInputException>(() => SectionDimension.Of(measure, sides, null)).Message,
            StringComparison.Ordinal);
    }

    /// <summary>
    /// The walls, 20 mm high, of a block from x = −40 mm to 0 between y = ±20 mm (±10 mm with a round end), whose right side is a half
    /// circle.
    /// </summary>
    /// <param name="side">1: round end, −1: groove.</param>
    private static TriangleMesh Ended(int side, double radius, double shift, double step, int facets)
    {
        var half = side > 0 ? radius : 20;
        var arc = Enumerable.Range(0, facets).Select(k => Math.PI * (((double)k / facets) - 0.5))
            .Select(a => new Vector3D(shift + (side * radius * Math.Cos(a)), radius * Math.Sin(a), 0));
        Vector3D[] corners = [new(-40, half, 0), new(-40, -half, 0), new(shift, -half, 0)];
        Vector3D[] straight = [.. Line(new(shift, half, 0), corners[0]), .. Line(corners[0], corners[1]), .. Line(corners[1], corners[2])];
        Vector3D[] outline = side > 0
            ? [.. straight, .. arc]
            : [.. straight, .. Line(corners[2], new(shift, -radius, 0)), .. arc, .. Line(new(shift, radius, 0), new(shift, half, 0))];
        var n = outline.Length;
        const int Rings = 10;
        return Shapes.Mesh(
            Enumerable.Range(0, Rings + 1).SelectMany(k => outline.Select(p => p + (20.0 * k / Rings * Vector3D.UnitZ))),
            Enumerable.Range(0, Rings * n).SelectMany(i =>
            {
                var next = (i / n * n) + ((i + 1) % n);
                return new[] { i, next, n + next, i, n + next, n + i };
            }));

        // Without its end.
        IEnumerable<Vector3D> Line(Vector3D from, Vector3D to)
        {
            var count = Math.Max(1, (int)((to - from).Length / step));
            return Enumerable.Range(0, count).Select(k => from + ((double)k / count * (to - from)));
        }
    }

    /// <summary>Of 60 noisy blocks U holds the width: of 95.45 %, 57.3, three standard deviations below are 52.</summary>
    [Fact]
    public void TheUncertaintyOfADistanceHoldsIt()
    {
        var block = Shapes.Cube(Side, 40);
        var held = Enumerable.Range(1, 60).Count(seed =>
        {
            var parts = SectionDimension.Named(Cut(Shapes.Noisy(block, 0.02, seed)), [_left, _right]);
            var found = SectionDimension.Of(SectionMeasure.Distance, parts, null);
            var u = Contribution.Expanded([.. found.Sigmas.Select(s => new Contribution("", s.Sigma, s.Freedom))]);

            // A line of 40 points, neighbours joined by facets: no wider than of a tenth as many.
            Assert.InRange(u, 0, 2 * 0.02 * Math.Sqrt(2.0 / 4));
            return Math.Abs(found.Value - Side) <= u;
        });
        Assert.InRange(held, 52, 60);
    }

    /// <summary>What a plan asks of a section is measured, judged, told in words, and refused where the plan lacks the section.</summary>
    [Fact]
    public void APlanAsksForDimensionsOfItsSections()
    {
        var plan = new InspectionPlan
        {
            Align = new AsGivenPlan { Start = RigidTransform.Identity.ToArray() },
            Compare = new() { Sections = [new("Waist", [0, 0, Height], [0, 0, 1])] },
            Characteristics =
            [
                new SectionDistancePlan(1, "Waist width")
                { Section = "Waist", Parts = [.. _left, .. _right], Nominal = Side, Lower = -0.03, Upper = 0.03 },
            ],
        };
        plan.Check();
        var read = InspectionPlan.Parse(plan.ToJson());
        Assert.Equal(plan.ToJson(), read.ToJson());
        var row = Assert.Single(new InspectionRunner(_block).Run(Scaled(Shapes.Cube(Side, 20), 1.001), read).Characteristics);
        Assert.Equal(Verdict.NonConforming, row.Verdict);
        Assert.Equal(1.001 * Side, row.Measured!.Value, 1e-9);
        Assert.Equal(1, row.Coverage);
        Assert.Equal([0.0, 0, 1], row.View!.Direction);
        Assert.Contains(PlanWords.Of(read), l => l.Words.Contains(
            "distance in a section of 'Waist' at 0, 20, 17.3 and 40, 20, 17.3", StringComparison.Ordinal));

        var moved = read with { Compare = new() { Sections = [new("Waist", [0, 0, 20], [0, 0, 1])] } };
        string Key(InspectionPlan p) => OutcomeKeys.Of(new("", "", null, ""), new("", "", ""), p).Values[1];
        Assert.NotEqual(Key(read), Key(moved));
        var bare = read with { Compare = new() };
        Assert.Contains("section 'Waist'", Assert.Throws<BadInputException>(() => bare.Check()).Message, StringComparison.Ordinal);
    }

    /// <summary>
    /// A block 0.2 % wider about its middle: left and right stand 0.04 mm out. Twice that is their profile as aligned; about a zone of
    /// 0.04 out of the material, or of any one offset, nothing is left. Of their lines in a cut the same.
    /// </summary>
    [Fact]
    public void ProfilesMayLieBesideTheNominal()
    {
        var large = Mapped(Shapes.Cube(Side, 20), p => new(20 + (1.002 * (p.X - 20)), p.Y, p.Z));
        int[] faces = [.. _block.Faces.Where(f => f.Shape is Plane3D { Normal.X: < -0.5 or > 0.5 }).Select(f => f.Id)];
        var plan = new InspectionPlan
        {
            Align = new AsGivenPlan { Start = RigidTransform.Identity.ToArray() },
            Compare = new() { Sections = [new("Waist", [0, 0, Height], [0, 0, 1])] },
            Characteristics =
            [
                new SurfaceProfilePlan(1, "all") { Faces = faces, Tolerance = 1, AsAligned = true },
                new SurfaceProfilePlan(2, "out") { Faces = faces, Tolerance = 1, AsAligned = true, ZoneOffset = 0.04 },
                new SurfaceProfilePlan(3, "any") { Faces = faces, Tolerance = 1, FreeOffset = true },
                new LineProfilePlan(4, "cut") { Section = "Waist", Faces = faces, Tolerance = 1 },
                new LineProfilePlan(5, "cut out") { Section = "Waist", Faces = faces, Tolerance = 1, ZoneOffset = 0.04 },
            ],
        };
        plan.Check();
        var rows = new InspectionRunner(_block).Run(large, InspectionPlan.Parse(plan.ToJson())).Characteristics;
        double[] expected = [0.08, 0, 0, 0.08, 0];
        foreach (var (row, value) in rows.Zip(expected))
        {
            Assert.True(row.Measured is { } m && Math.Abs(m - value) < 1e-6, $"{row.Plan.Name}: {row.Measured}, {row.Remark}");
        }

        Assert.Contains("zoneOffset", Assert.Throws<BadInputException>(() => (plan with
        {
            Characteristics = [new SurfaceProfilePlan(1, "both") { Faces = faces, Tolerance = 1, FreeOffset = true, ZoneOffset = 1 }],
        }).Check()).Message, StringComparison.Ordinal);
    }

    private static SectionSheet Cut(TriangleMesh scan) =>
        SectionSheet.Of(new(new(0, 0, Height), Vector3D.UnitZ), scan, RigidTransform.Identity, 1, _block, new(3), -0.1, 0.1);

    private static TriangleMesh Scaled(TriangleMesh mesh, double by) => Mapped(mesh, p => by * p);

    private static TriangleMesh Mapped(TriangleMesh mesh, Func<Vector3D, Vector3D> to) =>
        new([.. Enumerable.Range(0, mesh.VertexCount).SelectMany(v => to(mesh.Vertex(v)).ToArray())], mesh.Indices);

    private static Vector3D Middle(TriangleMesh mesh, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        return (a + b + c) / 3;
    }
}
