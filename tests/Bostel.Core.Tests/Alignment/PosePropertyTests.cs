using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Alignment;

/// <summary>Poses and their uncertainty, by closed forms and by what must hold wherever a scan lies.</summary>
public class PosePropertyTests
{
    private static readonly RigidTransform Moved =
        RigidTransform.FromAxisAngle(new(0.3, 1, -0.4), 0.9) with { Translation = new(70, -20, 35) };

    /// <summary>A shift moves all points alike; a turn moves each by its distance from the axis.</summary>
    [Fact]
    public void TheSigmaOfAPointIsThatOfTheShiftAndOfTheTurnTimesItsArm()
    {
        var center = new Vector3D(10, 20, 30);
        var shift = new double[36];
        shift[7 * 5] = 0.01 * 0.01;
        Assert.Equal(0.01, new PoseUncertainty(shift, center, 100).SigmaAt(new(5, 6, 7)), 1e-12);

        var turn = new double[36];
        turn[7 * 2] = 1e-4 * 1e-4;
        var about = new PoseUncertainty(turn, center, 100);
        Assert.Equal(0, about.SigmaAt(center), 1e-15);
        Assert.Equal(0, about.SigmaAt(center + new Vector3D(0, 0, 50)), 1e-15);
        Assert.Equal(1e-4 * 50, about.SigmaAt(center + new Vector3D(30, 40, -7)), 1e-12);

        // A turn about z that goes with a shift along −y by its arm leaves the point at x = 50 where it is.
        var coupled = new double[36];
        (coupled[14], coupled[28], coupled[16], coupled[26]) = (1e-8, 1e-8 * 2500, -1e-8 * 50, -1e-8 * 50);
        Assert.Equal(0, new PoseUncertainty(coupled, center, 100).SigmaAt(center + new Vector3D(50, 0, 0)), 1e-9);
        shift[0] = double.PositiveInfinity;
        Assert.Equal(double.PositiveInfinity, new PoseUncertainty(shift, center, 6).SigmaAt(center));
    }

    /// <summary>
    /// White noise σ on n points of a surface: the variance of a shift is σ²/Σ cos² of the normals with it, the closed form of the
    /// normal equations. A cube has a third of its area in each direction.
    /// </summary>
    [Fact]
    public void TheUncertaintyOfAShiftIsTheClosedForm()
    {
        const double Sigma = 0.02;
        var cube = Shapes.Cube(20, 24);
        var target = new AlignmentTarget(new TriangleTree(Shapes.Cube(20, 1)));
        var (stated, expected) = (0.0, 0.0);
        const int Runs = 8;
        for (var seed = 0; seed < Runs; seed++)
        {
            var result = SurfaceAlignment.RefineFrom(Shapes.Noisy(cube, Sigma, seed), target, RigidTransform.Identity);
            stated += Math.Sqrt(result.Uncertainty!.Covariance[7 * 3]) / Runs;
            expected += Sigma / Math.Sqrt(result.PointsUsed / 3.0) / Runs;
        }

        // Tukey weights leave 95 % of the points' worth; points on edges count for both sides.
        Assert.InRange(stated, 0.85 * expected, 1.3 * expected);
    }

    /// <summary>
    /// A plate resists neither a shift along itself nor a turn about its normal: that is said, not numbered. With those locked the rest has
    /// a number.
    /// </summary>
    [Fact]
    public void AMotionThatNothingResistsIsInfinite()
    {
        var target = new AlignmentTarget(new TriangleTree(Shapes.Field(60, 1, (_, _) => 0)));
        var scan = Shapes.Noisy(Shapes.Field(20, 20, (_, _) => 0), 0.02, 3).Transformed(RigidTransform.FromTranslation(new(20, 20, 0)));
        var loose = SurfaceAlignment.RefineFrom(scan, target, RigidTransform.Identity);
        Assert.True(double.IsInfinity(loose.Uncertainty!.SigmaAt(new(30, 30, 0))));
        var locked = new AlignmentScope { Locked = [Motion.ShiftX, Motion.ShiftY, Motion.TurnZ] };
        var held = SurfaceAlignment.RefineFrom(scan, target, RigidTransform.Identity, locked);
        Assert.Equal(0, held.Uncertainty!.Covariance[7 * 3]);

        // At the middle of 441 points: σ/√441, by Tukey weights a little more.
        Assert.InRange(held.Uncertainty.SigmaAt(new(30, 30, 0)), 0.8 * 0.02 / 21, 1.3 * 0.02 / 21);
    }

    /// <summary>A scan that lies elsewhere gets the pose that takes it from there; its figures stay.</summary>
    [Fact]
    public void ThePoseFollowsTheScan()
    {
        var target = new AlignmentTarget(new TriangleTree(Block(1)));
        var scan = Shapes.Noisy(Block(12), 0.02, 4);
        var here = SurfaceAlignment.FitToAllSurfaces(scan, target, cancel: TestContext.Current.CancellationToken);
        var there = SurfaceAlignment.FitToAllSurfaces(scan.Transformed(Moved), target, cancel: TestContext.Current.CancellationToken);

        // A block looks the same after half turns: any of them is right.
        var back = there.Transform.After(Moved);
        Assert.Equal(here.Rms, there.Rms, 1e-5);
        var corners = new[] { new Vector3D(0, 0, 0), new(30, 0, 0), new(0, 18, 0), new(0, 0, 10) };
        Vector3D[] ways = [new(1, 1, 1), new(1, -1, -1), new(-1, 1, -1), new(-1, -1, 1)];
        var middle = new Vector3D(15, 9, 5);
        Assert.Contains(ways, way => corners.All(c =>
        {
            var d = here.Transform.Apply(c) - middle;
            return Vector3D.Distance(back.Apply(c), middle + new Vector3D(way.X * d.X, way.Y * d.Y, way.Z * d.Z)) < 0.02;
        }));
    }

    /// <summary>Even samples share out by area, on every face to about one over the root of their number, and lie on the surface.</summary>
    [Fact]
    public void EvenSamplesAreEven()
    {
        const int Count = 6000;
        var block = Block(3);
        var samples = SurfaceSamples.Even(block, Count);
        Assert.Equal(block.Area(), samples.Areas.Sum(), 1e-9 * block.Area());
        foreach (var (normal, area) in ((Vector3D, double)[])[(Vector3D.UnitX, 180), (-Vector3D.UnitX, 180), (Vector3D.UnitY, 300),
            (-Vector3D.UnitY, 300), (Vector3D.UnitZ, 540), (-Vector3D.UnitZ, 540)])
        {
            var share = Enumerable.Range(0, Count).Count(i => samples.Normals[i].Dot(normal) > 0.99) / (double)Count;
            Assert.Equal(area / 2040, share, 2.0 / Count * block.TriangleCount / 6);
        }

        var tree = new TriangleTree(block);
        Assert.All(samples.Points, p => Assert.True(tree.Closest(p).DistanceSquared < 1e-20));
    }

    /// <summary>A block of 30 × 18 × 10.</summary>
    private static TriangleMesh Block(int cells)
    {
        var cube = Shapes.Cube(1, cells);
        return cube.WithCoordinates([.. cube.Coordinates.Select((c, i) => c * (i % 3 == 0 ? 30 : i % 3 == 1 ? 18 : 10))]);
    }
}
