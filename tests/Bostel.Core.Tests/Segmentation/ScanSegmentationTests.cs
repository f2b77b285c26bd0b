using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Segmentation;

/// <summary>Surfaces recognised in simulated scans, against the CAD the scans were made from.</summary>
public class ScanSegmentationTests
{
    private const double LeastArea = 700;
    private static readonly Lazy<TriangleMesh> _scan = new(() => Scan(5, 1.1));

    /// <summary>Faces the scanner could not see are not asked for.</summary>
    private static readonly Lazy<IReadOnlyList<double>> _measured =
        new(() => NominalCoverage.Of(_scan.Value, RigidTransform.Identity, DemoParts.Model("VH-310"), 0.3, 20_000).OfFace);

    /// <summary>
    /// Every large plane and whole cylinder of the part is found: same kind, side, place and size within 0.03 mm and 0.2° (0.02 mm of
    /// noise over hundreds of points leaves micrometres; rounded rims some more).
    /// </summary>
    [Theory]
    [InlineData("in another pose")]
    [InlineData("scanned again")]
    [InlineData("sensitivity 1.8")]
    public void LargeSurfacesAreFound(string how)
    {
        var pose = how == "in another pose"
            ? RigidTransform.FromAxisAngle(new(1, 2, -0.4), 2.2) with { Translation = new(300, -100, 40) }
            : RigidTransform.Identity;
        var scan = how == "scanned again" ? Scan(77, 1.25) : _scan.Value;
        var sensitivity = how.StartsWith("sensitivity", StringComparison.Ordinal)
            ? double.Parse(how[12..], System.Globalization.CultureInfo.InvariantCulture)
            : 1;
        var found = ScanSegmentation.Recognise(scan.Transformed(pose), sensitivity);
        var missing = Wanted().Where(f => !found.Faces.Any(g => g.Area > 0.5 * f.Area && Same(f, g, pose))).ToList();
        Assert.Empty(missing.Select(f => $"{f.Kind} {f.Shape} {f.Area:0}"));
        Assert.Equal(scan.TriangleCount, found.FaceOfTriangle.Length);
        Assert.All(found.FaceOfTriangle, f => Assert.InRange(f, 0, found.Faces.Count - 1));
        Assert.Equal(scan.Area(), found.Faces.Sum(f => f.Area), 1e-6 * scan.Area());
    }

    [Fact]
    public void ANoisySphereIsOneSphere()
    {
        var found = ScanSegmentation.Recognise(Shapes.Noisy(Shapes.Sphere(20, 5), 0.01, 4));
        var face = found.Faces[0];
        Assert.Equal("sphere", face.Kind);
        Assert.Equal(20, ((Sphere3D)face.Shape!).Radius, 0.005);
        Assert.True(face.Area > 0.95 * found.Mesh.Area());
    }

    [Fact]
    public void ANoisyTorusIsOneTorus()
    {
        const int Around = 220, Across = 70;
        var points = Enumerable.Range(0, Around * Across)
            .Select(i => (U: 2 * Math.PI * (i / Across) / Around, V: 2 * Math.PI * (i % Across) / Across))
            .Select(p =>
                new Vector3D((20 + (6 * Math.Cos(p.V))) * Math.Cos(p.U), (20 + (6 * Math.Cos(p.V))) * Math.Sin(p.U), 6 * Math.Sin(p.V)));
        var triangles = Enumerable.Range(0, Around * Across).SelectMany(i =>
        {
            var (next, up) = ((i + Across) % (Around * Across), (i % Across) == Across - 1 ? i + 1 - Across : i + 1);
            var across = (up + Across) % (Around * Across);
            return (int[])[i, next, across, i, across, up];
        });
        var found = ScanSegmentation.Recognise(Shapes.Noisy(Shapes.Mesh(points, triangles), 0.01, 4));
        var face = found.Faces[0];
        var torus = Assert.IsType<Torus3D>(face.Shape);

        // 0.01 mm over 15,000 points: a tenth of a micrometre; what grew past the band's four sigma and its joints leave some more.
        Assert.Equal(20, torus.MajorRadius, 0.005);
        Assert.Equal(6, torus.MinorRadius, 0.005);
        Assert.True(face.Area > 0.95 * found.Mesh.Area(), $"{face.Area / found.Mesh.Area()}");
    }

    /// <summary>A slender ring is begun in many places, each a piece of tube: they are to end as one torus, of the CAD's radii.</summary>
    [Fact]
    public void TheRimOfTheHandWheelIsOneTorus()
    {
        var nominal = DemoParts.Model("HW-118");
        var rim = nominal.Faces.Where(f => f.Shape is Torus3D { MajorRadius: > 60 }).ToList();
        var truth = (Torus3D)rim[0].Shape!;
        Assert.All(rim, f => Assert.Equal(truth.MajorRadius, ((Torus3D)f.Shape!).MajorRadius, 1e-6));
        var scan = SimulatedScanner.Scan(
            nominal, new() { Seed = 8, Spacing = 1.2, Noise = 0.02, RandomPose = false, StrayPieces = 0, TablePatch = false }).Mesh;
        var found = ScanSegmentation.Recognise(scan).Faces.OrderByDescending(f => f.Area).First();
        var torus = Assert.IsType<Torus3D>(found.Shape);

        // 0.02 mm over ten thousands of points is nothing; the joints with the spokes and the band of four sigma leave some hundredths.
        Assert.Equal(truth.MajorRadius, torus.MajorRadius, 0.03);
        Assert.Equal(truth.MinorRadius, torus.MinorRadius, 0.03);
        Assert.InRange(found.Area, 0.9 * rim.Sum(f => f.Area), 1.05 * rim.Sum(f => f.Area));
    }

    /// <summary>
    /// Bores of 2 mm and 1.6 mm radius and rounds of 3 mm in a scan with 0.5 mm between points: four to six points to a radius.
    /// </summary>
    [Fact]
    public void SmallRadiiAreFound()
    {
        var nominal = DemoParts.Model("RC-077");
        var scan = SimulatedScanner.Scan(
            nominal, new() { Seed = 6, Spacing = 0.5, Noise = 0.01, RandomPose = false, StrayPieces = 0, TablePatch = false }).Mesh;
        var found = ScanSegmentation.Recognise(scan);
        (double X, double Y, double Radius)[] wanted = [(62, 16, 2), (4.8, 24, 1.6), (4.8, 8, 1.6), (67, 29, 3), (67, 3, 3)];
        var missing = wanted.Where(
            w => !found.Faces.Any(f => f.Shape is Cylinder3D c && Math.Abs(c.Axis.Z) > 0.999 && Math.Abs(c.Radius - w.Radius) < 0.05 &&
            c.AxisLine.Distance(new(w.X, w.Y, f.Center.Z)) < 0.05));
        Assert.Empty(missing);
    }

    [Fact]
    public void ACloudAndAWrongSensitivityAreRefused()
    {
        Assert.Contains("triangles", Assert.Throws<BadInputException>(
            () => ScanSegmentation.Recognise(new([0, 0, 0, 1, 0, 0], []))).Message, StringComparison.Ordinal);
        Assert.Contains("sensitivity", Assert.Throws<BadInputException>(() => ScanSegmentation.Recognise(Shapes.Cube(1, 2), 9)).Message,
            StringComparison.Ordinal);
    }

    private static IEnumerable<NominalFace> Wanted() => DemoParts.Model("VH-310").Faces
        .Where(f => f.Area > LeastArea && _measured.Value[f.Id] > 0.6 && f.Shape is Plane3D or Cylinder3D
            && (f.Shape is Plane3D || f.Sweep > 6));

    private static bool Same(NominalFace nominal, NominalFace found, RigidTransform pose) =>
        (nominal.Shape!.Transformed(pose), found.Shape) switch
        {
            (Plane3D p, Plane3D q) => p.Normal.AngleTo(q.Normal) < 0.0035 && Math.Abs(p.Distance(q.Project(p.Point))) < 0.03,
            (Cylinder3D p, Cylinder3D q) =>
                nominal.Internal == found.Internal && p.Axis.LineAngleTo(q.Axis) < 0.0035 && Math.Abs(p.Radius - q.Radius) < 0.03
                && q.AxisLine.Distance(pose.Apply(nominal.Center)) is var d && p.AxisLine.Distance(pose.Apply(nominal.Center)) is var e
                    && Math.Abs(d - e) < 0.06,
            _ => false,
        };

    private static TriangleMesh Scan(int seed, double spacing) => SimulatedScanner.Scan(
        DemoParts.Model("VH-310"),
        new() { Seed = seed, Spacing = spacing, Noise = 0.02, RandomPose = false, StrayPieces = 0, TablePatch = false }).Mesh;
}
