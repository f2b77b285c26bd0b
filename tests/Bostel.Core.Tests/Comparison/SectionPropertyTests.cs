using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Tests.Comparison;

/// <summary>What must hold for every section, on meshes with bumps, holes and sheets that meet.</summary>
public class SectionPropertyTests
{
    private static readonly TriangleMesh Bumpy = Shapes.Noisy(Shapes.Sphere(20, 3), 0.6, 9);

    /// <summary>Mesh and plane moved together give the moved outlines.</summary>
    [Theory]
    [InlineData(0.9)]
    [InlineData(-2.3)]
    public void OutlinesFollowTheMesh(double angle)
    {
        var motion = RigidTransform.FromAxisAngle(new(1, -2, 0.5), angle) with { Translation = new(300, -50, 20) };
        var normal = new Vector3D(0.3, -0.4, 0.85).Normalized();
        foreach (var offset in (double[])[-12.3, 0.4, 8.8, 17.1])
        {
            var here = PlaneSection.Cut(Bumpy, normal, offset);
            var there = PlaneSection.Cut(
                Bumpy.Transformed(motion), motion.Rotate(normal), offset + motion.Rotate(normal).Dot(motion.Translation));
            Assert.Equal(here.Count, there.Count);
            Assert.Equal(Summary(here), Summary(there));
            Assert.Equal(here.Sum(o => o.Length()), there.Sum(o => o.Length()), 1e-8);
        }

        static IEnumerable<(int, bool)> Summary(IReadOnlyList<SectionOutline> outlines) =>
            outlines.Select(o => (o.Count, o.Closed)).Order();
    }

    /// <summary>
    /// Every point of an outline lies on the plane and on an edge of the mesh; a closed surface gives closed outlines only.
    /// </summary>
    [Fact]
    public void PointsLieOnThePlaneAndOnEdges()
    {
        var normal = new Vector3D(1, 2, -0.7).Normalized();
        var edges = Enumerable.Range(0, Bumpy.Indices.Length).Select(h => (A: Bumpy.Indices[h], B: Bumpy.Indices[MeshTopology.Next(h)]))
            .Where(e => e.A < e.B).ToArray();
        foreach (var outline in PlaneSection.Cut(Bumpy, normal, 3.21))
        {
            Assert.True(outline.Closed);
            for (var i = 0; i < outline.Count; i++)
            {
                var p = outline.Point(i);
                Assert.Equal(3.21, normal.Dot(p), 1e-12 * 100);
                Assert.True(edges.Min(e => OffEdge(p, Bumpy.Vertex(e.A), Bumpy.Vertex(e.B))) < 1e-12 * 100);
            }
        }
    }

    /// <summary>
    /// The area under closed outlines at many heights adds up to the volume (Cavalieri; Simpson's rule is exact for the cubic pieces only,
    /// so to a part in a thousand).
    /// </summary>
    [Fact]
    public void TheAreasOfTheSectionsAddUpToTheVolume()
    {
        const int Slices = 400;
        var (low, high) = (Bumpy.Bounds.Min.Z, Bumpy.Bounds.Max.Z);
        var step = (high - low) / Slices;
        var sections = PlaneSection.Cut(Bumpy, Vector3D.UnitZ, [.. Enumerable.Range(0, Slices).Select(i => low + ((i + 0.5) * step))]);
        Assert.Equal(Shapes.Volume(Bumpy), sections.Sum(s => s.Sum(Area)) * step, 1e-3 * Shapes.Volume(Bumpy));
    }

    /// <summary>The order of the triangles changes where an outline starts, not where it runs.</summary>
    [Fact]
    public void TheOrderOfTheTrianglesChangesNoOutline()
    {
        var order = Enumerable.Range(0, Bumpy.TriangleCount).ToArray();
        new Random(4).Shuffle(order);
        var shuffled = new TriangleMesh(Bumpy.Coordinates, [.. order.SelectMany(t => Bumpy.Indices[(3 * t)..((3 * t) + 3)])]);
        for (var offset = -15.5; offset < 16; offset += 5)
        {
            Assert.Equal(
                Segments(PlaneSection.Cut(Bumpy, Vector3D.UnitX, offset)), Segments(PlaneSection.Cut(shuffled, Vector3D.UnitX, offset)));
        }
    }

    /// <summary>An open surface: outlines end on its border only, as many ends as border edges cross the plane.</summary>
    [Fact]
    public void OpenOutlinesEndOnTheBorder()
    {
        var random = new Random(6);
        var open = Bumpy.KeepTriangles(_ => random.Next(12) > 0);
        for (var offset = -14.7; offset < 15; offset += 4.2)
        {
            var outlines = PlaneSection.Cut(open, Vector3D.UnitY, offset);
            var crossing = Enumerable.Range(0, open.Indices.Length).Count(h => open.Topology.Neighbours[h] < 0
                && (open.Vertex(open.Indices[h]).Y < offset) != (open.Vertex(open.Indices[MeshTopology.Next(h)]).Y < offset));
            Assert.Equal(crossing, 2 * outlines.Count(o => !o.Closed));
            Assert.True(crossing > 0);
        }
    }

    /// <summary>A cut through the middle of a mesh that was doubled meets every outline twice.</summary>
    [Fact]
    public void ADoubledMeshHasEveryOutlineTwice()
    {
        var twice = new TriangleMesh([.. Bumpy.Coordinates, .. Bumpy.Coordinates.Select(c => c + 100)],
            [.. Bumpy.Indices, .. Bumpy.Indices.Select(i => i + Bumpy.VertexCount)]);
        var once = PlaneSection.Cut(Bumpy, new Vector3D(1, -1, 0).Normalized(), 0.3);
        var both = PlaneSection.Cut(twice, new Vector3D(1, -1, 0).Normalized(), 0.3);
        Assert.Equal(2 * once.Count, both.Count);
        Assert.Equal(2 * once.Sum(o => o.Length()), both.Sum(o => o.Length()), 1e-9);
    }

    private static List<string> Segments(IReadOnlyList<SectionOutline> outlines) =>
        [.. outlines.SelectMany(o => Enumerable.Range(0, o.Closed ? o.Count : o.Count - 1).Select(i =>
    {
        // Both ends of a segment, the lesser first: independent of start and sense.
        string[] ends =
            [.. new[] { o.Point(i), o.Point((i + 1) % o.Count) }.Select(p => $"{p.X:0.########} {p.Y:0.########} {p.Z:0.########}")
                .Order(StringComparer.Ordinal)];
        return string.Join(" | ", ends);
    })).Order(StringComparer.Ordinal)];

    private static double Area(SectionOutline outline) => Math.Abs(Enumerable.Range(0, outline.Count).Sum(i =>
    {
        var (p, q) = (outline.Point(i), outline.Point((i + 1) % outline.Count));
        return ((p.X * q.Y) - (p.Y * q.X)) / 2;
    }));

    private static double OffEdge(Vector3D p, Vector3D a, Vector3D b)
    {
        var t = Math.Clamp((p - a).Dot(b - a) / (b - a).LengthSquared, 0, 1);
        return Vector3D.Distance(p, a + (t * (b - a)));
    }
}
