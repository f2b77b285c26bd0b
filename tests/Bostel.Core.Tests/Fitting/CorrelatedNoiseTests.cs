using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Fitting;

/// <summary>Neighbouring points of a scan err alike. The stated intervals must cover the truth all the same.</summary>
public class CorrelatedNoiseTests
{
    private const double Radius = 15;

    /// <summary>
    /// Cylinders of 40 × 24 points with errors smoothed over the given number of neighbours, around the given share of the circle.
    /// </summary>
    [Theory]
    [InlineData(1.0, 1)]
    [InlineData(1.0, 2)]
    [InlineData(0.3, 0)]
    [InlineData(0.3, 2)]
    public void TheStatedIntervalCoversTheTruth(double share, int reach)
    {
        var covered = 0;
        var placed = 0;
        Parallel.For(0, 1000, seed =>
        {
            var points = Scan(share, reach, seed);
            var fit = LeastSquares.Cylinder(points, new() { Start = new Cylinder3D(new(0, 0, 10), Vector3D.UnitZ, Radius) }).OrThrow();
            var sure = FitUncertainty.Of(fit, points)!;
            var cylinder = (Cylinder3D)fit.Shape;
            if (Math.Abs(2 * (cylinder.Radius - Radius)) <= sure.Diameter)
            {
                Interlocked.Increment(ref covered);
            }

            // The worst direction of the position is stated: along any fixed one the interval covers at least as often.
            var x = cylinder.AxisLine.Meet(new(fit.Reference, Vector3D.UnitZ))!.Value.X;
            if (Math.Abs(x) <= sure.CoverageFactor * sure.Position)
            {
                Interlocked.Increment(ref placed);
            }
        });
        Assert.InRange(covered, 930, 970);
        Assert.InRange(placed, 930, 1000);
    }

    /// <summary>
    /// A deviation of form as long as the feature leaves hardly an independent point: the interval is a number, and far wider than for
    /// noise.
    /// </summary>
    [Fact]
    public void FormAsLongAsTheFeatureGivesAWideInterval()
    {
        double[] Wave(double amplitude, Func<int, int, double> form) =>
            [.. Enumerable.Range(0, 900).SelectMany(i => new[] { i % 30, i / 30, amplitude * form(i % 30, i / 30) })];
        var random = new Random(4);
        var bowed = Wave(0.02, (x, y) => Math.Cos(x / 5.0));
        var noisy = Wave(0.02, (x, y) => (2 * random.NextDouble()) - 1);
        double Stated(double[] points) => FitUncertainty.Of(LeastSquares.Plane(points).OrThrow(), points) is { } u
            ? u.CoverageFactor * u.Position
            : 0;
        Assert.True(double.IsFinite(Stated(bowed)));
        Assert.True(Stated(bowed) > 5 * Stated(noisy), $"{Stated(bowed)} and {Stated(noisy)}");
    }

    private static double[] Scan(double share, int reach, int seed)
    {
        const int Around = 40, Along = 24;
        var random = new Random(seed);
        var (wide, high) = (Around + (2 * reach), Along + (2 * reach));
        var raw = new double[wide, high];
        for (var i = 0; i < wide; i++)
        {
            for (var j = 0; j < high; j++)
            {
                raw[i, j] = Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
            }
        }

        var points = new double[3 * Around * Along];
        for (var i = 0; i < Around; i++)
        {
            for (var j = 0; j < Along; j++)
            {
                double sum = 0;
                for (var di = 0; di <= 2 * reach; di++)
                {
                    for (var dj = 0; dj <= 2 * reach; dj++)
                    {
                        sum += raw[i + di, j + dj];
                    }
                }

                var r = Radius + (0.02 * sum / ((2 * reach) + 1));
                var (s, c) = Math.SinCos(2 * Math.PI * share * i / Around);
                var at = 3 * ((i * Along) + j);
                (points[at], points[at + 1], points[at + 2]) = (r * c, r * s, j * 2 * Math.PI * Radius * share / Around);
            }
        }

        return points;
    }
}
