using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Spatial;

/// <summary>A search that remembers must answer as one that does not, and as brute force; and the index must bear any input.</summary>
public class ClosestSearchTests
{
    [Theory]
    [InlineData(0.05)]
    [InlineData(0.6)]
    [InlineData(7)]
    public void AWalkAlongASurfaceAnswersAsEachQueryAlone(double step)
    {
        var random = new Random(11);
        var mesh = Shapes.Sphere(20, 5);
        var tree = new TriangleTree(mesh);
        var search = new ClosestSearch(tree);
        var p = new Vector3D(0, 0, 20);
        for (var k = 0; k < 4000; k++)
        {
            p += step * new Vector3D(random.NextDouble() - 0.5, random.NextDouble() - 0.5, random.NextDouble() - 0.5);
            p = (20 + (0.1 * (random.NextDouble() - 0.5))) * p.Normalized();

            // Now and then a query far from the one before, or with nothing in reach.
            var at = k % 97 == 0 ? -p : k % 61 == 0 ? 3 * p : p;
            var direction = k % 5 == 0 ? -p.Normalized() : p.Normalized();
            Assert.Equal(tree.Closest(at, 5, -1, direction, 0.5), search.Closest(at, 5, direction, 0.5));
            Assert.Equal(tree.Closest(at), search.Closest(at));
        }
    }

    [Fact]
    public void ThinTrianglesLoseNothing()
    {
        // A tessellated cylinder of radius 30: full-length triangles 0.02 mm wide, aspect 10,000, searched against the closed form of its
        // facets.
        const int Sides = 9000;
        const double Radius = 30, Length = 200;
        var mesh = Prism(Sides, Radius, Length);
        var tree = new TriangleTree(mesh);
        var search = new ClosestSearch(tree);
        for (var k = 0; k < 2000; k++)
        {
            var angle = 0.0007 * k;
            var r = Radius + (0.3 * Math.Sin(k));
            var p = new Vector3D(r * Math.Cos(angle), r * Math.Sin(angle), 100 + (90 * Math.Cos(0.1 * k)));

            // In the plane of the section: distance to the side whose sector holds the angle, sideways beyond its end where the point lies
            // outside.
            var half = Math.PI / Sides;
            var within = (angle % (2 * half)) - half;
            var expected =
                double.Hypot((r * Math.Cos(within)) - (Radius * Math.Cos(half)),
                    Math.Max(0, (r * Math.Abs(Math.Sin(within))) - (Radius * Math.Sin(half))));
            Assert.Equal(expected, Math.Sqrt(search.Closest(p).DistanceSquared), 1e-9);
        }
    }

    [Fact]
    public void CoincidentAndDegenerateTrianglesAreBorne()
    {
        // A hundred copies of one triangle, fifty points posing as triangles, fifty lines.
        double[] corners = [0, 0, 0, 10, 0, 0, 0, 10, 0, 4, 4, 4, -3, 0, 0, -6, 0, 0, -9, 0, 0];
        int[] indices =
            [.. Enumerable.Range(0, 100).SelectMany(_ => (int[])[0, 1, 2]), .. Enumerable.Range(0, 50).SelectMany(_ => (int[])[3, 3, 3]),
                .. Enumerable.Range(0, 50).SelectMany(_ => (int[])[4, 5, 6])];
        var tree = new TriangleTree(new(corners, indices));
        Assert.Equal(0, tree.Closest(new(2, 2, 1)).Triangle);
        Assert.Equal(1, tree.Closest(new(2, 2, 1)).DistanceSquared, 1e-12);
        Assert.Equal(0, tree.Closest(new(4, 4, 4)).DistanceSquared, 1e-12);
        Assert.Equal(4, tree.Closest(new(-7, 0, 2)).DistanceSquared, 1e-12);
        var hits = new List<(double Distance, int Triangle)>();
        tree.AllHits(new(2, 2, 5), new(0, 0, -1), hits);
        Assert.Equal(100, hits.Count);
    }

    /// <summary>Sizes that halve from triangle to triangle: the surface-area heuristic alone would peel them off one by one.</summary>
    [Fact]
    public void SizesOverManyOrdersDoNotOverflowTheWalk()
    {
        var corners = new List<double>();
        for (var k = 0; k < 900; k++)
        {
            var s = Math.Pow(0.93, k);
            corners.AddRange([s, 0, 0, s * 1.02, 0, 0, s, 0.01 * s, 0]);
        }

        var tree = new TriangleTree(new([.. corners], [.. Enumerable.Range(0, 2700)]));
        for (var k = 0; k < 900; k += 50)
        {
            var s = Math.Pow(0.93, k);
            Assert.Equal(0.01 * s, Math.Sqrt(tree.Closest(new(s, 0, 0.01 * s)).DistanceSquared), 1e-12);
        }
    }

    private static TriangleMesh Prism(int sides, double radius, double length)
    {
        var coordinates = new List<double>();
        var indices = new List<int>();
        for (var i = 0; i < sides; i++)
        {
            var (s, c) = Math.SinCos(2 * Math.PI * i / sides);
            coordinates.AddRange([radius * c, radius * s, 0, radius * c, radius * s, length]);
            var (a, b) = (2 * i, 2 * ((i + 1) % sides));
            indices.AddRange([a, b, b + 1, a, b + 1, a + 1]);
        }

        return new([.. coordinates], [.. indices]);
    }
}
