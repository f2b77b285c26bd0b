using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Alignment;

/// <summary>What motions a body keeps, and which directions a surface faces: from closed forms.</summary>
public class FreeMotionsTests
{
    private static readonly Vector3D _center = new(10, -5, 3);

    /// <summary>
    /// A plane takes two turns and a shift; a plane and a line across it in it one turn and one shift more; a point the rest (ISO 5459,
    /// 4.2).
    /// </summary>
    [Fact]
    public void PlaneLineAndPointTakeThreeTwoAndOne()
    {
        var free = new FreeMotions(_center, 20);
        Assert.Equal(6, free.Count);
        Assert.Equal(3, free.Fix(Rows(free, [(0, 0, 0), (30, 0, 0), (0, 20, 0)], Vector3D.UnitZ)));
        Assert.Equal(3, free.Count);
        Assert.Contains("turn about z", free.Describe());
        Assert.Contains("shift along", free.Describe());
        Assert.Equal(2, free.Fix(Rows(free, [(0, 0, 0), (30, 0, 0)], Vector3D.UnitY)));
        Assert.Equal("shift along x", free.Describe());
        Assert.Equal(1, free.Fix(Rows(free, [(0, 0, 0)], Vector3D.UnitX)));
        Assert.Equal("nothing", free.Describe());
        Assert.Equal(0, free.Fix(Rows(free, [(1, 2, 3)], Vector3D.UnitX)));
    }

    /// <summary>
    /// An axis leaves the turn about itself and the shift along it; the turn is one about that axis, wherever the first centre was.
    /// </summary>
    [Fact]
    public void AnAxisLeavesTheTurnAboutItself()
    {
        var free = new FreeMotions(_center, 20);
        Assert.Equal(
            4, free.Fix([.. Rows(free, [(7, 8, 0), (7, 8, 25)], Vector3D.UnitX), .. Rows(free, [(7, 8, 0), (7, 8, 25)], Vector3D.UnitY)]));
        Assert.Equal((7, 8), (Math.Round(free.Center.X, 9), Math.Round(free.Center.Y, 9)));
        Assert.Contains("turn about z through (7, 8,", free.Describe());
        Assert.Contains("shift along z", free.Describe());
    }

    /// <summary>A ball leaves three turns, all about its middle.</summary>
    [Fact]
    public void APointHeldInThreeDirectionsLeavesTheTurnsAboutIt()
    {
        var free = new FreeMotions(_center, 20);
        Vector3D[] axes = [Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ];
        Assert.Equal(3, free.Fix([.. axes.SelectMany(a => Rows(free, [(40, 1, -2)], a))]));
        Assert.InRange(Vector3D.Distance(free.Center, new(40, 1, -2)), 0, 1e-9);
        Assert.Equal(3, free.Describe().Split("turn about").Length - 1);
    }

    /// <summary>Six rows that fix everything: the step brings the points to their planes, to second order of the motion.</summary>
    [Fact]
    public void AStepUndoesASmallMotion()
    {
        var free = new FreeMotions(_center, 20);
        var moved = RigidTransform.FromTwist(new(1e-5, -2e-5, 1.5e-5), new(2e-4, 3e-4, -1e-4), _center);
        (Vector3D Point, Vector3D Along)[] supports =
        [
            (new(0, 0, 0), Vector3D.UnitZ), (new(30, 0, 0), Vector3D.UnitZ), (new(0, 20, 0), Vector3D.UnitZ),
            (new(0, 0, 5), Vector3D.UnitY), (new(30, 0, 5), Vector3D.UnitY), (new(0, 10, 5), Vector3D.UnitX),
        ];
        var (motion, _, rank) = free.Step(
            [.. supports.Select(s => (free.Shift(moved.Apply(s.Point), s.Along), (moved.Apply(s.Point) - s.Point).Dot(s.Along)))]);
        Assert.Equal(6, rank);
        foreach (var (point, _) in supports)
        {
            Assert.InRange(Vector3D.Distance(motion.Apply(moved.Apply(point)), point), 0, 1e-7);
        }
    }

    /// <summary>A box of 30 × 20 × 10 faces six ways, with 6, 3 and 2 parts of its area of 22 each way twice over.</summary>
    [Fact]
    public void ABoxFacesSixWaysByItsAreas()
    {
        var pose = RigidTransform.FromAxisAngle(new(1, 4, -2), 0.7);
        var cube = Shapes.Cube(1, 6);
        var box = cube.WithCoordinates([.. cube.Coordinates.Select((c, i) => c * ((double[])[30, 20, 10])[i % 3])]).Transformed(pose);
        var peaks = DirectionPeaks.Find(SurfaceSamples.Even(box, 8000), 8);
        Assert.Equal(6, peaks.Count);
        (Vector3D Axis, double Share)[] expected = [(Vector3D.UnitZ, 6.0 / 22), (Vector3D.UnitY, 3.0 / 22), (Vector3D.UnitX, 2.0 / 22)];
        for (var k = 0; k < 6; k++)
        {
            var (axis, share) = expected[k / 2];
            Assert.Equal(1, Math.Abs(peaks[k].Direction.Dot(pose.Rotate(axis))), 1e-9);
            Assert.Equal(share, peaks[k].Share, 0.002);
            Assert.Equal(-1, peaks[k].Direction.Dot(peaks[k ^ 1].Direction), 1e-9);
        }
    }

    private static List<(double[] Row, double Residual)> Rows(FreeMotions free, (double X, double Y, double Z)[] points, Vector3D along) =>
        [.. points.Select(p => (free.Shift(new(p.X, p.Y, p.Z), along), 0.0))];
}
