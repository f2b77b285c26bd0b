using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Spatial;

/// <summary>The index against brute force: 1e-9 mm, also on slivers and far from the origin.</summary>
public class ClosestPointTests
{
    [Theory]
    [InlineData(1, 0)]
    [InlineData(2, 10_000)]
    [InlineData(3, -250_000)]
    public void DistanceEqualsBruteForceOnRandomTriangles(int seed, double away)
    {
        var random = new Random(seed);
        var mesh = RandomTriangles(random, 400, away, sliver: seed == 2);
        var tree = new TriangleTree(mesh);
        for (var k = 0; k < 400; k++)
        {
            var p = Point(random, 160, away);
            var expected = Enumerable.Range(0, mesh.TriangleCount).Min(t => Independent(p, mesh.Triangle(t)));
            Assert.Equal(expected, Math.Sqrt(tree.Closest(p).DistanceSquared), 1e-9);
            Assert.Equal(
                expected, Math.Sqrt(tree.Closest(p, double.PositiveInfinity, random.Next(mesh.TriangleCount)).DistanceSquared), 1e-9);
        }
    }

    [Fact]
    public void NothingIsFoundBeyondTheLimitAndOnlyAgreeingNormalsCount()
    {
        // A plate 1 mm thick: top at z = 1 facing up, bottom at z = 0 facing down.
        var mesh = new TriangleMesh([0, 0, 1, 10, 0, 1, 0, 10, 1, 0, 0, 0, 0, 10, 0, 10, 0, 0], [0, 1, 2, 3, 4, 5]);
        var tree = new TriangleTree(mesh);
        var p = new Vector3D(2, 2, 0.3);
        Assert.Equal(1, tree.Closest(p).Triangle);
        var hit = tree.Closest(p, 5, -1, Vector3D.UnitZ, 0.5);
        Assert.Equal(0, hit.Triangle);
        Assert.Equal(0.7, Math.Sqrt(hit.DistanceSquared), 1e-12);
        Assert.False(tree.Closest(new(2, 2, 9), 3).Found);
    }

    /// <summary>Sign at faces, edges and corners of a cube, from its closed form.</summary>
    [Fact]
    public void SignIsThatOfTheSolidAlsoAtEdgesAndCorners()
    {
        var cube = Cube();
        var tree = new TriangleTree(cube);
        var random = new Random(5);
        for (var k = 0; k < 3000; k++)
        {
            // A third of the points lie exactly on the diagonals, where edges and corners are closest.
            var p = new Vector3D((3 * random.NextDouble()) - 1, (3 * random.NextDouble()) - 1, (3 * random.NextDouble()) - 1);
            p = (k % 3) switch { 0 => new(p.X, p.X, p.X), 1 => new(p.X, p.X, p.Z), _ => p };
            var q = p - new Vector3D(0.5, 0.5, 0.5);
            var (dx, dy, dz) = (Math.Abs(q.X) - 0.5, Math.Abs(q.Y) - 0.5, Math.Abs(q.Z) - 0.5);
            var outside = new Vector3D(Math.Max(dx, 0), Math.Max(dy, 0), Math.Max(dz, 0)).Length;
            var expected = outside > 0 ? outside : Math.Max(dx, Math.Max(dy, dz));
            Assert.Equal(expected, tree.SignedDistance(p, tree.Closest(p)), 1e-9);
        }
    }

    [Fact]
    public void RaysMeetTheCubeWhereTheyMust()
    {
        var tree = new TriangleTree(Cube());
        Assert.True(tree.FirstHit(new(0.3, 0.4, 5), new(0, 0, -1), 0, 100, out var distance) >= 0);
        Assert.Equal(4, distance, 1e-12);
        Assert.Equal(-1, tree.FirstHit(new(1.3, 0.4, 5), new(0, 0, -1), 0, 100, out _));
        var hits = new List<(double Distance, int Triangle)>();
        tree.AllHits(new(-2, 0.3, 0.6), Vector3D.UnitX, hits);
        Assert.Equal([2.0, 3.0], hits.Select(h => Math.Round(h.Distance, 12)));
    }

    [Fact]
    public void PointTreeEqualsBruteForce()
    {
        var random = new Random(9);
        var points = Enumerable.Range(0, 3000).Select(_ => 10 * random.NextDouble()).ToArray();
        var tree = new PointTree(points);
        var found = new List<int>();
        for (var k = 0; k < 200; k++)
        {
            var c = new Vector3D(10 * random.NextDouble(), 10 * random.NextDouble(), 10 * random.NextDouble());
            var distances = Enumerable.Range(0, 1000)
                .Select(i => (Vector3D.At(points, i) - c).Length).ToArray();
            tree.Within(c, 1.5, found);
            Assert.Equal(Enumerable.Range(0, 1000).Where(i => distances[i] <= 1.5), found.Order());
            Assert.Equal(Array.IndexOf(distances, distances.Min()), tree.Nearest(c));
        }
    }

    /// <summary>Points on a coarse lattice, many of them in one place: order, ties, the limit and too few points.</summary>
    [Theory]
    [InlineData(1, 1, double.PositiveInfinity)]
    [InlineData(7, 400, 2.5)]
    [InlineData(60, 400, double.PositiveInfinity)]
    [InlineData(60, 40, double.PositiveInfinity)]
    public void TheNearestFewEqualBruteForce(int k, int count, double limit)
    {
        var random = new Random(k + count);
        var points = Enumerable.Range(0, 3 * count).Select(_ => (double)random.Next(8)).ToArray();
        var tree = new PointTree(points);
        var (found, squares) = (new int[k], new double[k]);
        for (var round = 0; round < 100; round++)
        {
            var c = new Vector3D(random.Next(-2, 10), random.Next(-2, 10), 0.5 * random.Next(20));
            var expected = Enumerable.Range(0, count).Select(i => (Square: (Vector3D.At(points, i) - c).LengthSquared, i))
                .Where(p => p.Square <= limit * limit).Order().Take(k).ToArray();
            var n = tree.Nearest(c, found, squares, limit);
            Assert.Equal(expected, Enumerable.Range(0, n).Select(i => (squares[i], found[i])));
        }
    }

    /// <summary>Another way to the same distance: inside test by barycentric coordinates, else the nearest of the three segments.</summary>
    internal static double Independent(Vector3D p, (Vector3D A, Vector3D B, Vector3D C) t)
    {
        var n = (t.B - t.A).Cross(t.C - t.A);
        if (n.LengthSquared > 0)
        {
            var u = n.Normalized();
            var q = p - ((p - t.A).Dot(u) * u);
            bool Left(Vector3D a, Vector3D b) => (b - a).Cross(q - a).Dot(n) >= 0;
            if (Left(t.A, t.B) && Left(t.B, t.C) && Left(t.C, t.A))
            {
                return Math.Abs((p - t.A).Dot(u));
            }
        }

        static double Segment(Vector3D p, Vector3D a, Vector3D b)
        {
            var d = b - a;
            var f = d.LengthSquared == 0 ? 0 : Math.Clamp((p - a).Dot(d) / d.LengthSquared, 0, 1);
            return (p - a - (f * d)).Length;
        }

        return Math.Min(Segment(p, t.A, t.B), Math.Min(Segment(p, t.B, t.C), Segment(p, t.C, t.A)));
    }

    private static Vector3D Point(Random random, double size, double away) =>
        new(away + (size * (random.NextDouble() - 0.3)), away + (size * (random.NextDouble() - 0.3)), size * (random.NextDouble() - 0.3));

    private static TriangleMesh RandomTriangles(Random random, int count, double away, bool sliver)
    {
        var coordinates = new List<double>();
        for (var t = 0; t < count; t++)
        {
            var a = Point(random, 100, away);
            var b = a + Point(random, sliver ? 80 : 15, 0);
            var c = sliver ? a + (0.6 * (b - a)) + Point(random, 0.01, 0) : a + Point(random, 15, 0);
            coordinates.AddRange([.. a.ToArray(), .. b.ToArray(), .. c.ToArray()]);
        }

        return new([.. coordinates], [.. Enumerable.Range(0, 3 * count)]);
    }

    internal static TriangleMesh Cube() => new(
        [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0, 0, 1, 1, 0, 1, 1, 1, 1, 0, 1, 1],
        [0, 2, 1, 0, 3, 2, 4, 5, 6, 4, 6, 7, 0, 1, 5, 0, 5, 4, 1, 2, 6, 1, 6, 5, 2, 3, 7, 2, 7, 6, 3, 0, 4, 3, 4, 7]);
}
