using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Tests.Comparison;

/// <summary>Sections against closed forms and against the segments of single triangles.</summary>
public class PlaneSectionTests
{
    [Theory]
    [InlineData(0.5)]
    [InlineData(5)]
    [InlineData(10)]
    [InlineData(3.7)]
    public void ACubeIsCutIntoOneSquareAlsoThroughItsVerticesAndFaces(double height)
    {
        // Heights 5 and 10 pass through rows of vertices and the top face.
        var outline = Assert.Single(PlaneSection.Cut(Shapes.Cube(10, 4), Vector3D.UnitZ, height));
        Assert.True(outline.Closed);
        Assert.Equal(40, outline.Length(), 1e-12);
        Assert.Equal(100, Area(outline, Vector3D.UnitZ), 1e-10);
    }

    [Fact]
    public void BelowAndAboveAndOnTheFloorThereIsNothing()
    {
        // A vertex on the plane counts as above: the floor is not cut, the ceiling is.
        var cube = Shapes.Cube(10, 3);
        Assert.Empty(PlaneSection.Cut(cube, Vector3D.UnitZ, 0));
        Assert.Empty(PlaneSection.Cut(cube, Vector3D.UnitZ, -1));
        Assert.Empty(PlaneSection.Cut(cube, Vector3D.UnitZ, 10.001));
    }

    [Theory]
    [InlineData(1, 2, 3)]
    [InlineData(1, 1, 0)]
    [InlineData(-0.3, 0.9, 0.2)]
    public void ASkewCutOfACubeHasTheAreaOfTheConvexHullOfItsCuts(double x, double y, double z)
    {
        // Through the centre: the section is a convex polygon whose corners are the cuts of the cube's twelve edges.
        var n = new Vector3D(x, y, z).Normalized();
        var center = new Vector3D(5, 5, 5);
        var outline = Assert.Single(PlaneSection.Cut(Shapes.Cube(10, 6), n, n.Dot(center)));
        var corners = new List<Vector3D>();
        foreach (var (a, b) in Edges())
        {
            double da = n.Dot(a - center), db = n.Dot(b - center);
            if (da * db < 0)
            {
                corners.Add(a + (da / (da - db) * (b - a)));
            }
            else if (da == 0)
            {
                corners.Add(a);
            }
        }

        var u = n.Perpendicular();
        var v = n.Cross(u);
        var hull = corners.OrderBy(p => Math.Atan2((p - center).Dot(v), (p - center).Dot(u))).ToList();
        var area = Enumerable.Range(0, hull.Count).Sum(i => 0.5 * (hull[i] - center).Cross(hull[(i + 1) % hull.Count] - center).Dot(n));
        Assert.Equal(Math.Abs(area), Area(outline, n), 1e-9);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(4.5)]
    [InlineData(-9)]
    public void ASphereGivesACircle(double height)
    {
        var outline = Assert.Single(PlaneSection.Cut(Shapes.Sphere(10, 5), Vector3D.UnitX, height));
        var radius = Math.Sqrt(100 - (height * height));

        // Edges of 0.35 mm: a chord lies at most 0.35²/8/10 = 0.0015 mm inside, in the section over the steeper slope.
        Assert.All(Enumerable.Range(0, outline.Count),
            i => Assert.Equal(radius, Math.Sqrt(Math.Pow(outline.Point(i).Y, 2) + Math.Pow(outline.Point(i).Z, 2)), 0.01));
        Assert.All(Enumerable.Range(0, outline.Count), i => Assert.Equal(height, outline.Point(i).X, 1e-12));
    }

    [Fact]
    public void TheMaterialLiesToTheLeft() =>
        Assert.True(SignedArea(Assert.Single(PlaneSection.Cut(Shapes.Cube(10, 2), Vector3D.UnitZ, 4)), Vector3D.UnitZ) > 0);

    [Fact]
    public void ManyPlanesInOnePassGiveTheSameBitsAsOneByOne()
    {
        var mesh = Shapes.Noisy(Shapes.Sphere(10, 4), 0.05, 2);
        var normal = new Vector3D(1, -2, 0.5);
        double[] offsets = [3, -4.5, 0, 9.9, 3.0001, -9];
        var all = PlaneSection.Cut(mesh, normal, offsets);
        for (var k = 0; k < offsets.Length; k++)
        {
            var alone = PlaneSection.Cut(mesh, normal, offsets[k]);
            Assert.Equal(alone.Select(o => o.Closed), all[k].Select(o => o.Closed));
            Assert.Equal(alone.SelectMany(o => o.Points), all[k].SelectMany(o => o.Points));
        }
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void NothingIsLostOrCutTwiceOnABumpySurface(int seed)
    {
        // Brute force: every triangle's own segment, summed.
        var mesh = Shapes.Noisy(Shapes.Field(20, 40, (x, y) => 2 * Math.Sin(x) * Math.Cos(0.7 * y)), 0.2, seed);
        var n = Vector3D.UnitZ;
        var expected = Enumerable.Range(0, mesh.TriangleCount).Sum(t => Segment(mesh.Triangle(t), 0.4));
        var outlines = PlaneSection.Cut(mesh, n, 0.4);
        Assert.Equal(expected, outlines.Sum(o => o.Length()), 1e-9);
        Assert.Contains(outlines, o => !o.Closed);
        Assert.Contains(outlines, o => o.Closed);

        // An open outline begins and ends at the border of the sheet.
        foreach (var open in outlines.Where(o => !o.Closed))
        {
            foreach (var p in (Vector3D[])[open.Point(0), open.Point(open.Count - 1)])
            {
                Assert.True(Math.Min(Math.Min(Math.Abs(p.X), Math.Abs(20 - p.X)), Math.Min(Math.Abs(p.Y), Math.Abs(20 - p.Y))) < 0.5,
                    $"{p}");
            }
        }
    }

    [Fact]
    public void ThreeSheetsOnOneEdgeAreCutIntoOpenOutlines()
    {
        var fan = new TriangleMesh([0, 0, 0, 0, 0, 1, 1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1, -1, -1, 0, -1, -1, 1],
            [0, 2, 1, 1, 2, 3, 0, 4, 1, 1, 4, 5, 0, 6, 1, 1, 6, 7]);
        var outlines = PlaneSection.Cut(fan, Vector3D.UnitZ, 0.5);
        Assert.Equal(1 + 1 + Math.Sqrt(2), outlines.Sum(o => o.Length()), 1e-12);
        Assert.All(outlines, o => Assert.False(o.Closed));
    }

    [Fact]
    public void PlanesThroughAnAxisCutATorusIntoTwoCircles()
    {
        var torus = Torus(20, 6, 96, 48);
        var cuts = PlaneSection.Polar(torus, Vector3D.Zero, Vector3D.UnitZ, Vector3D.UnitX, [0, 0.5, 2]);
        foreach (var (outlines, angle) in cuts.Zip([0, 0.5, 2.0]))
        {
            Assert.Equal(2, outlines.Count);
            Assert.All(outlines, o => Assert.Equal(2 * Math.PI * 6, o.Length(), 0.05));
            var along = new Vector3D(Math.Cos(angle), Math.Sin(angle), 0);
            Assert.All(outlines.SelectMany(o => Enumerable.Range(0, o.Count).Select(o.Point)),
                p => Assert.Equal(0, along.Cross(p).Z, 1e-9));
        }
    }

    [Fact]
    public void APlaneWithoutANormalIsRefused() =>
        Assert.Throws<BadInputException>(() => PlaneSection.Cut(Shapes.Cube(1, 1), Vector3D.Zero, 0));

    private static TriangleMesh Torus(double major, double minor, int around, int across)
    {
        var points = Enumerable.Range(0, around * across).Select(i =>
        {
            var (u, v) = (2 * Math.PI * (i / across) / around, 2 * Math.PI * (i % across) / across);
            return new Vector3D(
                (major + (minor * Math.Cos(v))) * Math.Cos(u), (major + (minor * Math.Cos(v))) * Math.Sin(u), minor * Math.Sin(v));
        });
        var triangles = Enumerable.Range(0, around * across).SelectMany(i =>
        {
            var (a, b) = (i / across, i % across);
            int At(int x, int y) => ((x % around) * across) + (y % across);
            return new[] { At(a, b), At(a + 1, b), At(a + 1, b + 1), At(a, b), At(a + 1, b + 1), At(a, b + 1) };
        });
        return Shapes.Mesh(points, triangles);
    }

    private static double Segment((Vector3D A, Vector3D B, Vector3D C) t, double z)
    {
        var cuts = new List<Vector3D>();
        foreach (var (p, q) in ((Vector3D, Vector3D)[])[(t.A, t.B), (t.B, t.C), (t.C, t.A)])
        {
            if (p.Z < z != q.Z < z)
            {
                cuts.Add(p + ((z - p.Z) / (q.Z - p.Z) * (q - p)));
            }
        }

        return cuts.Count == 2 ? Vector3D.Distance(cuts[0], cuts[1]) : 0;
    }

    private static IEnumerable<(Vector3D, Vector3D)> Edges() =>
        from a in Enumerable.Range(0, 8)
        from axis in Enumerable.Range(0, 3)
        where (a >> axis & 1) == 0
        select (Corner(a), Corner(a | (1 << axis)));

    private static Vector3D Corner(int i) => new(10 * (i & 1), 10 * (i >> 1 & 1), 10 * (i >> 2 & 1));

    private static double Area(SectionOutline outline, Vector3D n) => Math.Abs(SignedArea(outline, n));

    private static double SignedArea(SectionOutline o, Vector3D n) =>
        Enumerable.Range(0, o.Count).Sum(i => 0.5 * o.Point(i).Cross(o.Point((i + 1) % o.Count)).Dot(n));
}
