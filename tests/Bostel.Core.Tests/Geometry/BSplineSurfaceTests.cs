using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Geometry;

/// <summary>Exact freeform surfaces: points, derivatives and feet against closed forms.</summary>
public class BSplineSurfaceTests
{
    /// <summary>A quarter of a cylinder of radius 5 and height 8, exact as a rational quadratic arc.</summary>
    private static BSplineSurface Quarter()
    {
        var w = Math.Sqrt(0.5);
        return new(2, 1, [0, 0, 0, 1, 1, 1], [0, 0, 8, 8],
            [5, 0, 0, 1, 5, 0, 8, 1, 5, 5, 0, w, 5, 5, 8, w, 0, 5, 0, 1, 0, 5, 8, 1]);
    }

    [Fact]
    public void ARationalArcIsACircle()
    {
        var surface = Quarter();
        for (var i = 0; i <= 20; i++)
        {
            var p = surface.At(i / 20.0, 3);
            Assert.Equal(5, new Vector3D(p.Point.X, p.Point.Y, 0).Length, 1e-12);
            Assert.Equal(3, p.Point.Z, 1e-12);
            Assert.Equal(0, p.Normal.Z, 1e-12);
            Assert.Equal(0, new Vector3D(p.Point.X, p.Point.Y, 0).Cross(p.Normal).Length, 1e-11);
        }
    }

    /// <summary>
    /// Uneven knots, a double one among them, in both directions; derivatives by central differences, whose error is h² and ε/h.
    /// </summary>
    [Fact]
    public void DerivativesAreThoseOfThePoints()
    {
        var random = new Random(5);
        double[] knotsU = [0, 0, 0, 0, 0.3, 0.7, 0.7, 1, 1, 1, 1], knotsV = [-1, -1, -1, 0.2, 0.5, 2, 2, 2];
        var surface = new BSplineSurface(3, 2, knotsU, knotsV, [.. Enumerable.Range(0, 7 * 5).SelectMany(i => (double[])[
            (i / 5) + random.NextDouble(), (i % 5) + random.NextDouble(), random.NextDouble(), 0.5 + random.NextDouble()])]);
        const double H = 1e-5;
        for (var trial = 0; trial < 40; trial++)
        {
            var (u, v) = (0.02 + (0.96 * random.NextDouble()), -0.98 + (2.96 * random.NextDouble()));
            var at = surface.At(u, v);
            var (uPlus, uMinus, vPlus, vMinus) = (surface.At(u + H, v), surface.At(u - H, v), surface.At(u, v + H), surface.At(u, v - H));
            Close(at.Du, (uPlus.Point - uMinus.Point) / (2 * H));
            Close(at.Dv, (vPlus.Point - vMinus.Point) / (2 * H));
            Close(at.Duu, (uPlus.Du - uMinus.Du) / (2 * H));
            Close(at.Duv, (vPlus.Du - vMinus.Du) / (2 * H));
            Close(at.Dvv, (vPlus.Dv - vMinus.Dv) / (2 * H));
        }

        static void Close(Vector3D a, Vector3D b) => Assert.Equal(0, Vector3D.Distance(a, b), 1e-5 * Math.Max(1, a.Length));
    }

    [Theory]
    [InlineData(-0.3)]
    [InlineData(0)]
    [InlineData(0.4)]
    public void AFootIsWhereThePointWasRaisedFrom(double height)
    {
        var surface = Quarter();
        var random = new Random(2);
        for (var trial = 0; trial < 50; trial++)
        {
            var (u, v) = (random.NextDouble(), 8 * random.NextDouble());
            var raised = surface.At(u, v);
            var foot = surface.Foot(raised.Point + (height * raised.Normal), u + 0.05 - (0.1 * random.NextDouble()), v + 0.1)!.Value;
            Assert.Equal(0, Vector3D.Distance(foot.Point, raised.Point), 1e-8);
        }
    }

    [Fact]
    public void BeyondTheBorderThereIsNoFoot()
    {
        Assert.Null(Quarter().Foot(new(5.1, -2, 4), 0.1, 4));
        Assert.Throws<BadInputException>(() => new BSplineSurface(2, 1, [0, 0, 1, 1], [0, 0, 1, 1], new double[16]));
    }
}
