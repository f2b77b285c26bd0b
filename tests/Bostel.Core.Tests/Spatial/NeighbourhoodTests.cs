using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Spatial;

/// <summary>What finds neighbours, against looking at all.</summary>
public class NeighbourhoodTests
{
    /// <summary>
    /// A flood with nothing in its way takes the whole piece; one that may not leave a band takes what a walk over all edges reaches; the
    /// seed comes first.
    /// </summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    public void AFloodReachesWhatIsConnected(int seed)
    {
        var random = new Random(seed);
        var mesh = Shapes.Cube(10, 8).KeepTriangles(_ => random.Next(5) > 0);
        var allowed = Enumerable.Range(0, mesh.TriangleCount).Select(_ => random.Next(4) > 0).ToArray();
        var flood = new MeshFlood(mesh);
        var pieces = mesh.Topology.Pieces().Labels;
        for (var start = 0; start < mesh.TriangleCount; start += 3)
        {
            var all = flood.Spread(start, int.MaxValue, (_, _) => true).ToArray();
            Assert.Equal(start, all[0]);
            Assert.Equal(Enumerable.Range(0, pieces.Length).Where(t => pieces[t] == pieces[start]), all.Order());

            var reached = new HashSet<int> { start };
            for (var before = 0; before != reached.Count;)
            {
                before = reached.Count;
                reached.UnionWith(
                    reached.SelectMany(t => mesh.Topology.Neighbours[(3 * t)..((3 * t) + 3)]).Where(n => n >= 0 && allowed[n]).ToList());
            }

            Assert.Equal(reached.Order(), flood.Spread(start, int.MaxValue, (_, to) => allowed[to]).ToArray().Order());
        }
    }

    /// <summary>
    /// Breadth first: a flood that is cut short holds the nearest, by steps from triangle to triangle, and at most two more than asked for.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(40)]
    [InlineData(300)]
    public void AFloodCutShortHoldsTheNearest(int most)
    {
        var mesh = Shapes.Sphere(5, 3);
        var some = new MeshFlood(mesh).Spread(17, most, (_, _) => true).ToArray();
        Assert.InRange(some.Length, most, most + 2);
        var steps = Steps(mesh, 17);
        Assert.True(some.Max(t => steps[t]) <= Enumerable.Range(0, steps.Length).Except(some).Min(t => steps[t]) + 1);
        Assert.Equal(some.Select(t => steps[t]).Order(), some.Select(t => steps[t]));
    }

    [Theory]
    [InlineData(0.01, 1)]
    [InlineData(0.3, 2)]
    [InlineData(1e-6, 3)]
    public void PointsJoinTheFirstWithinTheTolerance(double tolerance, int seed)
    {
        // Clusters about as wide as the tolerance, also across the borders of any grid and on both sides of zero.
        var random = new Random(seed);
        double Near(double width) => width * ((2 * random.NextDouble()) - 1);
        var points = Enumerable.Range(0, 120).Select(_ => new Vector3D(Near(1), Near(1), Near(1)))
            .SelectMany(c => Enumerable.Range(0, 5).Select(_ => c + new Vector3D(Near(tolerance), Near(tolerance), Near(tolerance))))
            .ToArray();
        random.Shuffle(points);
        var welder = new ToleranceWelder(tolerance);
        var kept = new List<Vector3D>();
        foreach (var p in points)
        {
            var number = welder.Add(p);
            var near = Enumerable.Range(0, kept.Count).Where(k => Vector3D.Distance(kept[k], p) <= tolerance).ToList();
            if (near.Count == 0)
            {
                Assert.Equal(kept.Count, number);
                kept.Add(p);
                continue;
            }

            Assert.Contains(number, near);
        }

        Assert.Equal(kept.SelectMany(p => p.ToArray()), welder.Coordinates());
        Assert.InRange(kept.Count, 120, 599);
    }

    /// <summary>The Morton order is an order of all points, in which one follows the next far nearer than by chance.</summary>
    [Fact]
    public void NeighboursFollowEachOtherInSpatialOrder()
    {
        var random = new Random(4);
        var points = Enumerable.Range(0, 4096)
            .Select(_ => new Vector3D(random.NextDouble(), random.NextDouble(), 100 + random.NextDouble())).ToArray();
        var order = SpatialOrder.Of([.. points.SelectMany(p => p.ToArray())]);
        Assert.Equal(Enumerable.Range(0, points.Length), order.Order());
        double Walk(IReadOnlyList<int> by) => by.Zip(by.Skip(1), (a, b) => Vector3D.Distance(points[a], points[b])).Average();

        // Two random points of a unit cube lie 0.66 apart in the mean (Robbins); a cell of one of 16³ points is 1/16 wide.
        Assert.InRange(Walk([.. Enumerable.Range(0, points.Length)]), 0.6, 0.72);
        Assert.InRange(Walk(order), 0.02, 0.15);

        // Octants follow each other whole, z the slowest.
        var octants = order.Select(i => (points[i].X >= 0.5 ? 1 : 0) + (points[i].Y >= 0.5 ? 2 : 0) + (points[i].Z >= 100.5 ? 4 : 0))
            .ToList();
        Assert.InRange(octants.Zip(octants.Skip(1), (a, b) => a == b ? 0 : 1).Sum(), 7, 40);
        Assert.Equal([2, 0, 1], SpatialOrder.Of([1, 1, 0, 1, 1, 1, 0, 0, 0]));
        Assert.Equal([0, 1], SpatialOrder.Of([3, 3, 3, 3, 3, 3]));
    }

    /// <summary>
    /// A cell knows the distance of its middle: half a cell's diagonal is the most by which it may be wrong elsewhere in it.
    /// </summary>
    [Fact]
    public void TheDistanceGridIsRightToHalfACell()
    {
        var sphere = Shapes.Sphere(10, 4);
        var tree = new TriangleTree(sphere);
        var grid = new DistanceGrid(tree, 48);

        // The box of 20 mm has a margin of a tenth of its diagonal on all sides.
        var margin = 0.1 * sphere.Bounds.Diagonal;
        var half = 0.5 * Math.Sqrt(3) * (20 + (2 * margin)) / 48;
        var random = new Random(6);
        var far = 0;
        for (var k = 0; k < 5000; k++)
        {
            var p = new Vector3D((30 * random.NextDouble()) - 15, (30 * random.NextDouble()) - 15, (30 * random.NextDouble()) - 15);
            var truth = Math.Sqrt(tree.Closest(p).DistanceSquared);
            var near = grid.NearestAt(p);
            Assert.InRange(grid.At(p), Math.Min(margin, truth) - half - 1e-6, Math.Min(margin, truth) + half + 1e-6);
            far += near < 0 ? 1 : 0;
            if (near >= 0)
            {
                Assert.InRange(Math.Sqrt(tree.OnTriangle(near, p).DistanceSquared), truth - 1e-9, truth + (2 * half));
            }
        }

        Assert.InRange(far, 500, 4500);
    }

    private static int[] Steps(TriangleMesh mesh, int seed)
    {
        var steps = new int[mesh.TriangleCount];
        Array.Fill(steps, -1);
        steps[seed] = 0;
        for (var step = 0; steps.Contains(step); step++)
        {
            for (var t = 0; t < steps.Length; t++)
            {
                foreach (var n in steps[t] == step ? mesh.Topology.Neighbours[(3 * t)..((3 * t) + 3)] : [])
                {
                    steps[n] = steps[n] < 0 ? step + 1 : steps[n];
                }
            }
        }

        return steps;
    }
}
