using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Spatial;

/// <summary>Rays through the index against every triangle tried in turn, by another way of cutting one.</summary>
public class RayWalkTests
{
    [Theory]
    [InlineData(1, 1.0)]
    [InlineData(2, 1e-3)]
    [InlineData(3, 1e5)]
    public void RaysMeetWhatTryingAllTrianglesMeets(int seed, double scale)
    {
        var random = new Random(seed);
        Vector3D Anywhere(double within) => new(
            within * (random.NextDouble() - 0.5), within * (random.NextDouble() - 0.5), within * (random.NextDouble() - 0.5));
        var points = new List<double>();
        for (var k = 0; k < 400; k++)
        {
            var at = Anywhere(2);
            for (var corner = 0; corner < 3; corner++)
            {
                points.AddRange((scale * (at + Anywhere(0.5))).ToArray());
            }
        }

        var mesh = new TriangleMesh([.. points], [.. Enumerable.Range(0, 1200)]);
        var tree = new TriangleTree(mesh);
        var hits = new List<(double Distance, int Triangle)>();
        var met = 0;
        for (var k = 0; k < 500; k++)
        {
            // Every tenth ray runs along an axis, where two slabs of a box are never crossed; others begin far away.
            var direction = k % 10 == 0
                ? (k % 20 == 0 ? Vector3D.UnitX : -Vector3D.UnitZ)
                : Anywhere(1).Normalized();
            var start = scale * Anywhere(k % 3 == 0 ? 40 : 2);
            start = k % 3 == 0 ? start - (start.Dot(direction) * direction) + (scale * Anywhere(1)) : start;
            var expected = Enumerable.Range(0, mesh.TriangleCount).Select(i => (Distance: Cut(mesh, i, start, direction), Triangle: i))
                .Where(h => h.Distance is not null).Select(h => (Distance: h.Distance!.Value, h.Triangle)).OrderBy(h => h.Distance)
                .ToList();
            tree.AllHits(start, direction, hits);
            Assert.Equal(expected.Select(h => h.Triangle), hits.Select(h => h.Triangle));
            Assert.All(expected.Zip(hits), h => Assert.InRange(Math.Abs(h.First.Distance - h.Second.Distance), 0, 1e-9 * scale * 40));
            var ahead = expected.Where(h => h.Distance > 0).ToList();
            Assert.Equal(ahead.Count > 0 ? ahead[0].Triangle : -1, tree.FirstHit(start, direction, 0, 1e9 * scale, out _));
            Assert.Equal(ahead.Count > 0, tree.Blocks(start, direction, 0, 1e9 * scale));

            // Between two distances, one crossing apart.
            if (ahead.Count > 1)
            {
                var between = (ahead[0].Distance + ahead[1].Distance) / 2;
                Assert.Equal(ahead[1].Triangle, tree.FirstHit(start, direction, between, 1e9 * scale, out _));
                Assert.False(tree.Blocks(start, direction, ahead[0].Distance * (1 + 1e-9), ahead[1].Distance * (1 - 1e-9)));
            }

            met += expected.Count;
        }

        Assert.True(met > 500);
    }

    /// <summary>Of the two triangles at a shared edge the lower one, whichever the walk sees first.</summary>
    [Fact]
    public void OnASharedEdgeTheLowerTriangleIsMet()
    {
        double[] corners = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0];
        foreach (var triangles in (int[][])[[0, 1, 2, 0, 2, 3], [0, 2, 3, 0, 1, 2]])
        {
            Assert.Equal(0, new TriangleTree(new(corners, triangles)).FirstHit(new(0.5, 0.5, 3), -Vector3D.UnitZ, 0, 9, out var distance));
            Assert.Equal(3, distance, 15);
        }
    }

    /// <summary>
    /// Where a line cuts a triangle: the signs of the volumes of the three tetrahedra of the line with its edges agree (Plücker), the
    /// distance is that to the plane.
    /// </summary>
    private static double? Cut(TriangleMesh mesh, int triangle, Vector3D start, Vector3D direction)
    {
        var (a, b, c) = mesh.Triangle(triangle);
        double Side(Vector3D p, Vector3D q) => direction.Dot((p - start).Cross(q - start));
        var (ab, bc, ca) = (Side(a, b), Side(b, c), Side(c, a));
        if (!((ab >= 0 && bc >= 0 && ca >= 0) || (ab <= 0 && bc <= 0 && ca <= 0)))
        {
            return null;
        }

        var normal = (b - a).Cross(c - a);
        return (a - start).Dot(normal) / direction.Dot(normal);
    }
}
