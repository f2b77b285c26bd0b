using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Spatial;

public class PointCellsTests
{
    /// <summary>Against all points: each stands in one cube, and around a place none nearer than a side is missing.</summary>
    [Fact]
    public void NoNeighbourIsMissing()
    {
        const double Side = 0.7;
        var random = new Random(5);
        double[] points = [.. Enumerable.Range(0, 3 * 2000).Select(_ => 6 * (random.NextDouble() - 0.5))];
        var cells = new PointCells(points, Side);
        Assert.Equal(Enumerable.Range(0, 2000), Enumerable.Range(0, cells.Count).SelectMany(c => cells.In(c).ToArray()).Order());

        var found = new List<int>();
        foreach (var i in Enumerable.Range(0, 2000).Where(i => i % 20 == 0))
        {
            var place = Vector3D.At(points, i);
            cells.Around(place, found);
            Assert.Equal(found.Count, found.Distinct().Count());
            var near = Enumerable.Range(0, 2000).Where(j => Vector3D.Distance(place, Vector3D.At(points, j)) <= Side);
            Assert.Empty(near.Except(found));
        }
    }
}
