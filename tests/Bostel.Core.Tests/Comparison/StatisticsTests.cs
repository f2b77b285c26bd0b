using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;

namespace Bostel.Core.Tests.Comparison;

public class StatisticsTests
{
    [Fact]
    public void DeviationsAreWeighedByArea()
    {
        var s = DeviationStatistics.Of([-0.1, 0, 0.2, double.NaN], [1, 2, 1, 4], -0.1, 0.1);
        Assert.Equal(3, s.Count);
        Assert.Equal(0.5, s.NoData, 12);
        Assert.Equal((-0.1, 0.2), (s.Min, s.Max));
        Assert.Equal(0.025, s.Mean, 12);
        Assert.Equal(Math.Sqrt((0.01 + 0.04) / 4), s.Rms, 12);
        Assert.Equal(0.75, s.WithinTolerance, 12);
        Assert.Equal(0.1 / 3, s.PlainMean, 12);
        Assert.Equal(0, s.Percentiles["50"]);
    }

    /// <summary>
    /// A fit cylinder scanned 0.03 mm too large and 20 m away: every deviation is 0.03, in closed form, though the nominal is a coarse
    /// mesh.
    /// </summary>
    [Fact]
    public void DeviationIsTakenToTheExactSurfaceAndLosesNothingFarAway()
    {
        var nominal = DemoParts.Model("RC-077");
        var bore = nominal.Faces.First(f => f.Shape is Cylinder3D { Radius: > 3.99 and < 4.01 });
        var cylinder = (Cylinder3D)bore.Shape!;
        var u = cylinder.Axis.Perpendicular();
        var points = Enumerable.Range(0, 400).SelectMany(i =>
        {
            var around = RigidTransform.FromAxisAngle(cylinder.Axis, 0.37 * i).Rotate(u);
            var h = bore.Start + ((0.2 + (0.6 * (i % 20) / 20)) * (bore.End - bore.Start));
            return (cylinder.Point + (h * cylinder.Axis) + (4.03 * around)).ToArray();
        }).ToArray();
        var away = RigidTransform.FromAxisAngle(new(1, 2, 3), 1) with { Translation = new(20_000, -15_000, 3000) };
        var scan = new TriangleMesh(points, []).Transformed(away);
        var map = Deviation.Compute(scan, away.Inverse(), nominal, DemoParts.Tree("RC-077"), new(1));
        Assert.All(map.Values, d => Assert.Equal(-0.03, d, 1e-8));
    }

    [Fact]
    public void WhatIsTooFarAwayIsNoData()
    {
        var nominal = DemoParts.Model("RC-077");
        var map = Deviation.Compute(
            new TriangleMesh([35, 16, -3, 35, 16, -0.5], []), RigidTransform.Identity, nominal, DemoParts.Tree("RC-077"), new(1));
        Assert.True(double.IsNaN(map.Values[0]));
        Assert.Equal(0.5, map.Values[1], 9);
    }

    [Fact]
    public void ThePartIsThePieceOfTheNominalsSizeNotTheLargest()
    {
        var cube = Spatial.ClosestPointTests.Cube();
        var table = cube.Scaled(3);
        var both = new TriangleMesh(
            [.. cube.Coordinates, .. table.Coordinates.Select(c => c + 50)], [.. cube.Indices, .. table.Indices.Select(i => i + 8)]);
        var (kept, record) = LoosePieces.DropAllButPart(both, nominalArea: 6.2);
        Assert.Equal(6, kept.Area(), 12);
        Assert.Equal((24, 12, 2, 1), (record.TrianglesBefore, record.TrianglesAfter, record.PiecesFound, record.PiecesDropped));
        Assert.Equal(54, LoosePieces.DropAllButPart(both, nominalArea: null).Mesh.Area(), 10);
        Assert.Throws<BadInputException>(() => LoosePieces.DropBelow(both, 13));
    }

    [Fact]
    public void PiecesHangTogetherThroughEdgesAndOpenBordersAreCounted()
    {
        var cube = Spatial.ClosestPointTests.Cube();
        var open = cube.KeepTriangles(t => t > 1);
        Assert.Equal((0, 0), (MeshTopology.Build(cube).BoundaryEdges, MeshTopology.Build(cube).NonManifoldEdges));
        Assert.Equal(4, MeshTopology.Build(open).BoundaryEdges);
        Assert.Equal(1, MeshTopology.Build(open).Pieces().Count);
        var fin = new TriangleMesh([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 1], [0, 1, 2, 1, 0, 3, 0, 1, 4]);
        Assert.Equal(1, MeshTopology.Build(fin).NonManifoldEdges);
    }
}
