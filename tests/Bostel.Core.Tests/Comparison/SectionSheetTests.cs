using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;

namespace Bostel.Core.Tests.Comparison;

/// <summary>A piece and its nominal cut in one plane and seen square on, against closed forms.</summary>
public class SectionSheetTests
{
    private const double Radius = 20;

    /// <summary>Sides of at most 0.4 mm: the facets of both balls lie within 0.001 mm of their spheres.</summary>
    private const int Divisions = 6;
    private const double Facets = 0.002;

    private static readonly NominalModel _ball = NominalModel.OfSurface(Shapes.Sphere(Radius, Divisions));

    /// <summary>A larger ball cut off its middle: circles, apart by the difference of √(r² − h²).</summary>
    [Theory]
    [InlineData(0.05, 7)]
    [InlineData(-0.08, -11)]
    public void ABallIsCutIntoCircles(double larger, double height)
    {
        var sheet = Cut(Shapes.Sphere(Radius + larger, Divisions), height, RigidTransform.Identity);
        double At(double r) => Math.Sqrt((r * r) - (height * height));
        var outline = Assert.Single(sheet.Scan);
        Assert.True(outline is { Closed: true, Joined: true });
        Assert.All(outline.Values, v => Assert.Equal(At(Radius + larger) - At(Radius), v!.Value, Facets));

        // Each foot lies on the nominal, straight below its point.
        for (var i = 0; i < outline.Values.Length; i++)
        {
            var (x, y) = (outline.Feet[2 * i], outline.Feet[(2 * i) + 1]);
            Assert.Equal(At(Radius), Math.Sqrt((x * x) + (y * y)), Facets);
            Assert.Equal(Math.Abs(outline.Values[i]!.Value), Math.Sqrt(
                Math.Pow(outline.Points[2 * i] - x, 2) + Math.Pow(outline.Points[(2 * i) + 1] - y, 2)), 1e-9);
        }

        var arc = Assert.Single(sheet.Parts);
        Assert.True(arc is { Arc: true, Hollow: false });
        Assert.Equal(At(Radius), arc.Nominal, Facets);
        Assert.Equal(At(Radius + larger), arc.Measured!.Value, Facets);
        Assert.Empty(sheet.Remarks);
    }

    /// <summary>
    /// Scans bridge sharp edges with facets that were never measured: a block without noise, its points every 2 mm but none on its edges,
    /// deviates nowhere on its sheet.
    /// </summary>
    [Fact]
    public void FacetsAcrossAnEdgeAreNoData()
    {
        var nominal = NominalModel.OfSurface(Shapes.Cube(40, 1));
        var scan = Shapes.Cube(40, 20);
        var blunt = new TriangleMesh(
            [.. Enumerable.Range(0, scan.VertexCount).SelectMany(v => Blunt(scan.Vertex(v)).ToArray())], scan.Indices);
        var sheet = SectionSheet.Of(
            new Plane3D(new(0, 0, 17.3), Vector3D.UnitZ), blunt, RigidTransform.Identity, 2, nominal, new(3), -0.1, 0.1);
        var values = sheet.Scan.SelectMany(o => o.Values).ToList();
        Assert.All(values.Where(v => v is not null), v => Assert.Equal(0, v!.Value, 1e-9));
        Assert.InRange(values.Count(v => v is not null), values.Count / 2, values.Count - 4);

        // Its vertical edges are cut off by 1.5 mm.
        static Vector3D Blunt(Vector3D p)
        {
            static double In(double x) => Math.Clamp(x, 1.5, 38.5);
            return (p.X is 0 or 40) && (p.Y is 0 or 40) ? new(In(p.X), In(p.Y), p.Z) : p;
        }
    }

    /// <summary>Of 60 noisy balls U holds the radius of their circles: of 95.45 %, 57.3, three standard deviations below are 52.</summary>
    [Fact]
    public void TheUncertaintyOfAnArcHoldsItsRadius()
    {
        var ball = Shapes.Sphere(Radius, Divisions);
        var truth = Cut(ball, 7, RigidTransform.Identity).Parts[0].Measured!.Value;
        var arcs = Enumerable.Range(1, 60)
            .Select(seed => Cut(Shapes.Noisy(ball, 0.02, seed), 7, RigidTransform.Identity).Parts[0]).ToList();
        Assert.InRange(arcs.Count(a => Math.Abs(a.Measured!.Value - truth) <= a.U!.Value), 52, 60);

        // And it is no wider than the noise of as many points would be if a tenth of them were independent.
        Assert.All(arcs, a => Assert.InRange(a.U!.Value, 0, 2 * 0.02 / Math.Sqrt(a.Points / 10.0)));
    }

    /// <summary>How the scan lies in its own coordinates changes nothing on the sheet.</summary>
    [Fact]
    public void TheScanIsCutWhereItLies()
    {
        var pose = RigidTransform.FromAxisAngle(new Vector3D(1, -2, 0.5).Normalized(), 0.9) with { Translation = new(300, -80, 120) };
        var ball = Shapes.Sphere(Radius + 0.05, Divisions);
        var (here, there) = (Cut(ball, 7, RigidTransform.Identity), Cut(ball.Transformed(pose.Inverse()), 7, pose));
        Assert.Equal(here.Statistics!.Mean, there.Statistics!.Mean, 1e-9);
        Assert.Equal(here.Scan[0].Points.Length, there.Scan[0].Points.Length);
    }

    [Fact]
    public void ACloudShowsItsPointsNearThePlane()
    {
        var ball = Shapes.Sphere(Radius + 0.05, Divisions);
        var sheet = Cut(new TriangleMesh(ball.Coordinates, []), 0, RigidTransform.Identity);
        var points = Assert.Single(sheet.Scan);
        Assert.False(points.Joined || points.Closed);
        Assert.NotEmpty(points.Values);

        // Half a spacing of 0.5 mm off the middle of a ball of 20 the circle is 0.0016 smaller.
        Assert.All(points.Values, v => Assert.Equal(0.05, v!.Value, Facets + 0.0016));
    }

    [Fact]
    public void WhereTheScanEndsOrThePlaneMissesThatIsSaid()
    {
        var beside = Cut(Shapes.Sphere(Radius, 3), 7, RigidTransform.FromTranslation(new(0, 0, 300)));
        Assert.Contains("does not cut the scan", Assert.Single(beside.Remarks), StringComparison.Ordinal);
        Assert.Null(beside.Statistics);
        var far = Cut(Shapes.Sphere(Radius, 3), 7, RigidTransform.FromTranslation(new(300, 0, 0)));
        Assert.Contains("counterpart", Assert.Single(far.Remarks), StringComparison.Ordinal);
        Assert.Contains("does not cut the nominal", Assert.Throws<BadInputException>(
            () => Cut(Shapes.Sphere(Radius, 3), 21, RigidTransform.Identity)).Message, StringComparison.Ordinal);
    }

    /// <summary>The long axis of the ellipse in which a plane cuts a cylinder is its diameter over the cosine of the tilt.</summary>
    [Theory]
    [InlineData(0, false)]
    [InlineData(2, true)]
    [InlineData(90, false)]
    public void ABoreCutAskewIsTold(double degrees, bool told)
    {
        var nominal = DemoParts.Model("VH-310");
        var bore = (Cylinder3D)nominal.Faces.Where(f => f.Shape is Cylinder3D { Radius: 26 }).MaxBy(f => f.Area)!.Shape!;
        var normal = RigidTransform.FromAxisAngle(bore.Axis.Perpendicular(), degrees * Math.PI / 180).Rotate(bore.Axis);
        var middle = nominal.Faces.Where(f => f.Shape is Cylinder3D { Radius: 26 }).MaxBy(f => f.Area)!.Center;
        var options = DeviationOptions.For(nominal);
        var remarks = SectionSheet.Of(
            new Plane3D(middle, normal), nominal.Mesh, RigidTransform.Identity, 1, nominal, options, -0.1, 0.1).Remarks;
        var wide = FormattableString.Invariant($"{52 * ((1 / Math.Cos(2 * Math.PI / 180)) - 1):0.####} mm");
        bool Says(string what) => remarks.Any(r => r.Contains(what, StringComparison.Ordinal));
        Assert.Equal((told, told), (Says("⌀52 at 2°"), Says(wide)));
    }

    [Theory]
    [InlineData("", 0, 0, 1, null)]
    [InlineData("A", 0, 0, 0, null)]
    [InlineData("A", 0, double.NaN, 1, null)]
    [InlineData("A", 0, 0, 1, 0.0)]
    public void APlanHoldsNoSectionThatIsNone(string name, double x, double y, double z, double? times)
    {
        var section = new SectionPlan(name, [0, 0, 1], [x, y, z]) { Exaggeration = times };
        var plan = new InspectionPlan { Compare = new() { Sections = [section] } };
        Assert.Contains("section", Assert.Throws<BadInputException>(() => plan.Check()).Message, StringComparison.Ordinal);
    }

    private static SectionSheet Cut(TriangleMesh scan, double height, RigidTransform transform) => SectionSheet.Of(
        new Plane3D(new(0, 0, height), Vector3D.UnitZ), scan, transform, 0.5, _ball, new(1), -0.1, 0.1);
}
