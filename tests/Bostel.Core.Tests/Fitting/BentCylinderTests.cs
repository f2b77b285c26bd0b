using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Fitting;

/// <summary>Short pieces of tube: the torus is known, a cylinder along it is what a fit would find.</summary>
public class BentCylinderTests
{
    /// <summary>
    /// A sweep of ±φ about a torus: what the second-order expansion leaves out is of the order φ², and the tube's own size r/R.
    /// </summary>
    [Theory]
    [InlineData(100, 3, 0.05)]
    [InlineData(30, 2, 0.1)]
    [InlineData(20, 6, 0.1)]
    public void APieceOfATubeTellsItsTorus(double major, double minor, double sweep)
    {
        var truth = new Torus3D(new(3, -2, 5), new Vector3D(1, 2, -2).Normalized(), major, minor);
        var points = Tube(truth, sweep, first: 0.3, last: 2.2);
        var cylinder = (Cylinder3D)LeastSquares.Cylinder(points).OrThrow().Shape;
        var found = BentCylinder.Torus(points, cylinder);

        Assert.NotNull(found);
        Assert.Equal(major, found.MajorRadius, major * ((minor / major) + (sweep * sweep)));
        Assert.Equal(minor, found.MinorRadius, 0.1 * minor);
        Assert.InRange(found.Axis.LineAngleTo(truth.Axis), 0, (minor / major) + sweep);

        // As a start it leads to the torus itself.
        FitShapes.AssertSame(truth, LeastSquares.Torus(points, new() { Start = found }).OrThrow().Shape, 1e-6);
    }

    [Fact]
    public void AStraightTubeIsNoTorus()
    {
        var cylinder = new Cylinder3D(new(3, -2, 5), new Vector3D(1, 2, -2).Normalized(), 4);
        Assert.Null(BentCylinder.Torus(FitShapes.Points(cylinder, 0.3, 0, 1, 500), cylinder));
    }

    [Fact]
    public void PointsOnOneLineTellNoBend()
    {
        var cylinder = new Cylinder3D(Vector3D.Zero, Vector3D.UnitZ, 4);
        Assert.Null(BentCylinder.Torus([.. Enumerable.Range(0, 20).SelectMany(i => (double[])[4, 0, i])], cylinder));
    }

    private static double[] Tube(Torus3D torus, double sweep, double first, double last)
    {
        var x = torus.Axis.Perpendicular();
        var y = torus.Axis.Cross(x);
        return [.. from i in Enumerable.Range(0, 31)
                   from k in Enumerable.Range(0, 16)
                   let turn = sweep * ((i / 15.0) - 1)
                   let around = first + ((last - first) * k / 15)
                   let ring = (Math.Cos(turn) * x) + (Math.Sin(turn) * y)
                   let p = torus.Center + (torus.MajorRadius * ring)
                       + (torus.MinorRadius * ((Math.Cos(around) * ring) + (Math.Sin(around) * torus.Axis)))
                   from c in p.ToArray()
                   select c];
    }
}
