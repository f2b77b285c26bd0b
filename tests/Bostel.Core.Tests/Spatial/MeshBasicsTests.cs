using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Tests.Spatial;

/// <summary>What everything else rests on: keeping, moving, normals, adjacency, the coarse level.</summary>
public class MeshBasicsTests
{
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public void KeptTrianglesKeepTheirCornersAndOrder(int seed)
    {
        var sphere = Shapes.Sphere(10, 3);
        var random = new Random(seed);
        var keep = Enumerable.Range(0, sphere.TriangleCount).Select(_ => random.Next(3) == 0).ToArray();
        var kept = sphere.KeepTriangles(t => keep[t]);
        var expected = Enumerable.Range(0, sphere.TriangleCount).Where(t => keep[t]).Select(sphere.Triangle).ToList();
        Assert.Equal(expected, Enumerable.Range(0, kept.TriangleCount).Select(kept.Triangle));
        Assert.Equal(kept.VertexCount, kept.Indices.Distinct().Count());
    }

    [Fact]
    public void ReorderingPutsMeasuredFirstAndChangesNoTriangle()
    {
        var cube = Shapes.Cube(3, 2);
        var mixed = cube.Reordered(t => t % 3 != 0, v => v % 2 == 0);
        Assert.Equal((cube.TriangleCount - 16, (cube.VertexCount + 1) / 2), (mixed.MeasuredTriangleCount, mixed.MeasuredVertexCount));
        Assert.Equal(cube.Triangle(1), mixed.Triangle(0));
        Assert.Equal(cube.Triangle(0), mixed.Triangle(mixed.MeasuredTriangleCount));
        Assert.Equal(cube.Area(), mixed.Area(), 12);
        Assert.Equal(Shapes.Volume(cube), Shapes.Volume(mixed), 12);
    }

    [Fact]
    public void NormalsOfACubeAreThoseOfItsFacesAndCornersPointOutward()
    {
        var cube = Shapes.Cube(10, 4);
        for (var v = 0; v < cube.VertexCount; v++)
        {
            var p = cube.Vertex(v) - new Vector3D(5, 5, 5);
            // Weighted by angle, a corner's normal is the diagonal, however its faces are cut into triangles.
            var expected = new Vector3D(Sign(p.X), Sign(p.Y), Sign(p.Z)).Normalized();
            Assert.InRange(Vector3D.Distance(expected, cube.Normal(v)), 0, 1e-6);
        }

        static double Sign(double c) => Math.Abs(c) > 4.99 ? Math.Sign(c) : 0;
    }

    [Fact]
    public void AreasOfVerticesSumToTheSurface()
    {
        var bumpy = Shapes.Noisy(Shapes.Sphere(10, 4), 0.1, 3);
        Assert.Equal(bumpy.Area(), bumpy.VertexAreas.Sum(), 1e-9);
    }

    [Theory]
    [InlineData(4)]
    [InlineData(5)]
    public void AdjacencyAgreesWithComparingAllTriangles(int divisions)
    {
        var mesh = Shapes.Sphere(1, divisions - 2).KeepTriangles(t => t % 7 != 0);
        var edges = new Dictionary<(int, int), List<int>>();
        for (var h = 0; h < mesh.Indices.Length; h++)
        {
            var (a, b) = (mesh.Indices[h], mesh.Indices[MeshTopology.Next(h)]);
            var key = (Math.Min(a, b), Math.Max(a, b));
            if (!edges.TryGetValue(key, out var list))
            {
                edges[key] = list = [];
            }

            list.Add(h / 3);
        }

        for (var h = 0; h < mesh.Indices.Length; h++)
        {
            var (a, b) = (mesh.Indices[h], mesh.Indices[MeshTopology.Next(h)]);
            var others = edges[(Math.Min(a, b), Math.Max(a, b))].Where(t => t != h / 3).ToList();
            Assert.Equal(others.Count == 0 ? -1 : others[0], mesh.Topology.Neighbours[h]);
        }

        Assert.Equal(edges.Values.Count(e => e.Count == 1), mesh.Topology.BoundaryEdges);
    }

    [Fact]
    public void RingsListEveryCornerOnce()
    {
        var mesh = Shapes.Cube(2, 3);
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            Assert.Equal(Enumerable.Range(0, mesh.Indices.Length).Where(h => mesh.Indices[h] == v), mesh.Rings.Of(v).ToArray());
        }
    }
}
