using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;

namespace Bostel.Core.Tests.Preparation;

/// <summary>Patches against the surface that was cut away, and what may never be taken for measured.</summary>
public class HoleFillingTests
{
    private const double Radius = 10;

    /// <summary>A sphere without the cap within an angle of +z.</summary>
    private static TriangleMesh OpenSphere(double degrees) => Shapes.Sphere(Radius, 4).KeepTriangles(new CapTest(degrees).Outside);

    private sealed class CapTest(double degrees)
    {
        private readonly TriangleMesh _sphere = Shapes.Sphere(Radius, 4);

        public bool Outside(int t)
        {
            var (a, b, c) = _sphere.Triangle(t);
            return (a + b + c).AngleTo(Vector3D.UnitZ) * 180 / Math.PI > degrees;
        }
    }

    [Theory]
    [InlineData(10)]
    [InlineData(25)]
    [InlineData(40)]
    public void ACurvedPatchCarriesTheSphereOn(double degrees)
    {
        var open = OpenSphere(degrees);
        var (filled, holes) = HoleFilling.Fill(open, _ => true, curved: true);
        Assert.Single(holes);
        Assert.Equal(0, filled.Topology.BoundaryEdges);
        Assert.Equal(0, MeshSheet.Of(filled).FlippedEdges);

        // Without bending, the patch would lie a sagitta R(1 − cos α) below the sphere; a thin plate must come within a tenth of that.
        var sagitta = Radius * (1 - Math.Cos(degrees * Math.PI / 180));
        for (var v = open.VertexCount; v < filled.VertexCount; v++)
        {
            Assert.InRange(filled.Vertex(v).Length - Radius, -0.1 * sagitta, 0.1 * sagitta);
        }
    }

    [Fact]
    public void AFlatPatchOfAFlatHoleIsExact()
    {
        // A 10 × 10 mm window in a plate: its area is known.
        var plate = Shapes.Field(30, 30, (_, _) => 2);
        var open = plate.KeepTriangles(t =>
        {
            var (a, b, c) = plate.Triangle(t);
            var m = (a + b + c) / 3;
            return !(m.X is > 10 and < 20 && m.Y is > 10 and < 20);
        });
        var (filled, holes) = HoleFilling.Fill(open, l => l.Diameter < 20, curved: false);
        var hole = Assert.Single(holes);
        Assert.Equal(100, hole.Area, 9);
        Assert.Equal(Math.Sqrt(200), hole.Diameter, 9);
        Assert.Equal(900, filled.Area(), 9);
        Assert.All(Enumerable.Range(0, filled.VertexCount), v => Assert.Equal(2, filled.Vertex(v).Z, 12));
        Assert.All(Enumerable.Range(0, filled.TriangleCount), t => Assert.True(Normal(filled, t).Z > 0));

        // The outer border, 30√2 across, stays open, and the patch has triangles of the size around it.
        Assert.Equal(120, filled.Topology.BoundaryEdges);
        Assert.InRange(holes[0].Triangles, 100, 400);
    }

    [Fact]
    public void WhatWasMeasuredKeepsItsNumbersAndPatchesStandBehindIt()
    {
        var open = OpenSphere(25);
        var (filled, _) = HoleFilling.Fill(open, _ => true, curved: true);
        Assert.Equal((open.VertexCount, open.TriangleCount), (filled.MeasuredVertexCount, filled.MeasuredTriangleCount));
        Assert.Equal(open.Coordinates, filled.Coordinates[..open.Coordinates.Length]);
        Assert.Equal(open.VertexAreas.Sum(), filled.VertexAreas.Sum(), 9);
        Assert.Equal(open.VertexNormals, filled.VertexNormals[..open.VertexNormals.Length]);

        // Dropping something later keeps the split; so does doing it twice.
        var half = filled.KeepTriangles(t => filled.Triangle(t).A.X > 0);
        Assert.True(half.MeasuredTriangleCount < half.TriangleCount && half.MeasuredVertexCount < half.VertexCount);
        for (var v = half.MeasuredVertexCount; v < half.VertexCount; v++)
        {
            Assert.True(half.Vertex(v).AngleTo(Vector3D.UnitZ) * 180 / Math.PI < 26);
        }
    }

    [Fact]
    public void PatchesCarryNoDeviation()
    {
        var nominal = DemoParts.Model("RC-077");
        var mesh = nominal.Mesh;
        var hole = new RefillStep
        {
            Selection = [
            new BrushTerm { Frame = Frame.Scan, Path = mesh.Bounds.Center.ToArray(), Radius = 0.3 * mesh.Bounds.Diagonal }]
        };
        var refilled = hole.Apply(mesh, new(null, null)).Mesh;
        Assert.True(refilled.TriangleCount > refilled.MeasuredTriangleCount);
        var map = Deviation.Compute(refilled, RigidTransform.Identity, nominal, DemoParts.Tree("RC-077"), new(5));
        Assert.All(Enumerable.Range(refilled.MeasuredVertexCount, refilled.VertexCount - refilled.MeasuredVertexCount),
            v => Assert.True(double.IsNaN(map.Values[v]) && map.Triangles[v] == -1));
    }

    [Fact]
    public void ManyHolesAreClosedAlikeWhateverTheOrder()
    {
        var sphere = Shapes.Sphere(Radius, 5);
        var random = new Random(4);
        var centers = Enumerable.Range(0, 30).Select(_ => sphere.Vertex(random.Next(sphere.VertexCount))).ToArray();
        var open = sphere.KeepTriangles(t => !centers.Any(c => Vector3D.Distance(c, sphere.Triangle(t).A) < 0.9));
        var once = HoleFilling.Fill(open, _ => true, curved: true);
        var again = HoleFilling.Fill(open, _ => true, curved: true);
        Assert.InRange(once.Filled.Count, 20, 30);
        Assert.Equal(0, once.Mesh.Topology.BoundaryEdges);
        Assert.Equal(once.Mesh.Coordinates, again.Mesh.Coordinates);
        Assert.InRange(once.Mesh.Coordinates.Length / 3, open.VertexCount, 1.05 * sphere.VertexCount);

        // The volume of the sphere's polyhedron comes back to a ten-thousandth.
        Assert.Equal(Shapes.Volume(sphere), Shapes.Volume(once.Mesh), 1e-4 * Shapes.Volume(sphere));
    }

    [Fact]
    public void LoopsThatTouchInOneVertexAreKeptApart()
    {
        // Two windows of a plate sharing a corner.
        var plate = Shapes.Field(6, 6, (_, _) => 0);
        var open = plate.KeepTriangles(t =>
        {
            var (a, b, c) = plate.Triangle(t);
            var m = (a + b + c) / 3;
            return !((m.X is > 1 and < 3 && m.Y is > 1 and < 3) || (m.X is > 3 and < 5 && m.Y is > 3 and < 5));
        });
        var loops = BoundaryLoops.Find(open);
        Assert.Equal([24, 8, 8], loops.Select(l => l.Vertices.Length));
        Assert.Equal([24.0, 8.0, 8.0], loops.Select(l => l.Perimeter));
        var (filled, holes) = HoleFilling.Fill(open, l => l.Diameter < 4, curved: true);
        Assert.Equal(2, holes.Count);
        Assert.Equal(36, filled.Area(), 9);
    }

    [Fact]
    public void TheBorderOfASheetIsNoHole()
    {
        // A disc, a lone triangle, and a bowl deep enough to be a vessel: only that is closed.
        var disc = Shapes.Field(10, 10, (_, _) => 0);
        Assert.Empty(HoleFilling.Fill(disc, _ => true, curved: false).Filled);
        Assert.Empty(HoleFilling.Fill(new([0, 0, 0, 1, 0, 0, 0, 1, 0], [0, 1, 2]), _ => true, curved: false).Filled);
        Assert.Single(HoleFilling.Fill(OpenSphere(60), _ => true, curved: false).Filled);
    }

    [Fact]
    public void ALongLoopIsSpannedToo()
    {
        // A ring of 400 border edges: a wide annulus whose inner circle is closed.
        const int N = 400;
        var points = Enumerable.Range(0, 2 * N)
            .Select(i => (i < N ? 10 : 25) * new Vector3D(Math.Cos(2 * Math.PI * (i % N) / N), Math.Sin(2 * Math.PI * (i % N) / N), 0));
        var triangles = Enumerable.Range(0, N).SelectMany(i => new[] { i, i + N, ((i + 1) % N) + N, i, ((i + 1) % N) + N, (i + 1) % N });
        var (_, holes) = HoleFilling.Fill(Shapes.Mesh(points, triangles), l => l.Diameter < 21, curved: false);
        Assert.Equal(0.5 * N * 100 * Math.Sin(2 * Math.PI / N), Assert.Single(holes).Area, 6);
    }

    private static Vector3D Normal(TriangleMesh mesh, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        return (b - a).Cross(c - a);
    }
}
