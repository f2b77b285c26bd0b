using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Features;

public class FilterAndCorrelationTests
{
    /// <summary>
    /// ISO 16610: a wave of the nesting index passes to one half, a much longer one nearly whole, a much shorter one hardly.
    /// </summary>
    [Theory]
    [InlineData(8, 0.5, 0.02)]
    [InlineData(80, 1.0, 0.02)]
    [InlineData(2, 0.0, 0.02)]
    public void TheGaussianFilterPassesWavesAsTheStandardSays(double wavelength, double share, double allowed)
    {
        const int Side = 81;
        var points = new double[3 * Side * Side];
        var wave = new double[Side * Side];
        for (var i = 0; i < wave.Length; i++)
        {
            (points[3 * i], points[(3 * i) + 1]) = (0.5 * (i % Side), 0.5 * (i / Side));
            wave[i] = Math.Cos(2 * Math.PI * (points[3 * i] - 20) / wavelength);
        }

        var (filtered, support) = GaussianFilter.Apply(points, [.. wave.Select(_ => 1.0)], wave, 8);
        Assert.Equal(share, filtered[(Side * (Side / 2)) + (Side / 2)], allowed);
        Assert.True(support > 50);
    }

    /// <summary>
    /// Where points lie densely they are taken cube by cube, on a leaning plane and round a bore, with scattered points of unequal areas.
    /// What the expansion leaves out is of the third order: with cubes of side 1, weights of σ = 1.5 (third derivative 1.4/σ³ at most)
    /// and a mean |δ|³ of 0.06, 1.4/σ³ · 0.06/6 = 0.004 a cube; the 28 cubes a value rests on err both ways, so 0.004/√28 in the
    /// mean. Noise does not go on through a cube as a wave does: the second order of it is left out, ½ w″ (δ² − its mean) in each
    /// direction, 0.03 in all.
    /// </summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void CubesOfPointsFilterAsThePointsDo(bool round)
    {
        const double NestingIndex = 8, Radius = 20;
        const int Count = 40_000;
        var random = new Random(17);
        var (points, areas, wave, noise) = (new double[3 * Count], new double[Count], new double[Count], new double[Count]);
        var turn = RigidTransform.FromAxisAngle(new Vector3D(1, 2, 3).Normalized(), 0.7);
        for (var i = 0; i < Count; i++)
        {
            var (u, v) = (2 * Math.PI * Radius * random.NextDouble(), 40 * random.NextDouble());
            var place = turn.Apply(round ? new(Radius * Math.Cos(u / Radius), Radius * Math.Sin(u / Radius), v) : new(u, v, 0));
            (points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]) = place;
            areas[i] = 2 * Math.PI * Radius * 40 / Count * (0.5 + random.NextDouble());
            wave[i] = Math.Cos(2 * Math.PI * v / NestingIndex);
            noise[i] = random.NextDouble() - 0.5;
        }

        var (fast, support) = GaussianFilter.Apply(points, areas, wave, NestingIndex);
        var (exact, exactSupport) = GaussianFilter.Exactly(points, areas, wave, NestingIndex);
        Assert.NotEqual(exact[0], fast[0]);
        var errors = fast.Zip(exact, (a, b) => a - b).ToList();
        Assert.True(errors.Max(Math.Abs) < 4e-3, $"{errors.Max(Math.Abs)}");
        Assert.True(Rms(errors) < 1e-3, $"{Rms(errors)}");
        Assert.Equal(exactSupport, support, 0.005 * exactSupport);

        var filtered = GaussianFilter.Exactly(points, areas, noise, NestingIndex).Filtered;
        var difference = GaussianFilter.Apply(points, areas, noise, NestingIndex).Filtered.Zip(filtered, (a, b) => a - b);
        Assert.True(Rms(difference) < 0.03 * Rms(filtered), $"{Rms(difference)} of {Rms(filtered)}");
        static double Rms(IEnumerable<double> values) => Math.Sqrt(values.Average(v => v * v));
    }

    /// <summary>Independent residuals count fully; residuals equal over blocks of 5 × 5 points count like the blocks.</summary>
    [Fact]
    public void CorrelatedResidualsCountForFewer()
    {
        const int Side = 100;
        var random = new Random(3);
        var points = new double[3 * Side * Side];
        var independent = new double[Side * Side];
        var blocks = new double[Side * Side];
        var level = Enumerable.Range(0, 400).Select(_ => random.NextDouble() - 0.5).ToArray();
        for (var i = 0; i < independent.Length; i++)
        {
            var (x, y) = (i % Side, i / Side);
            (points[3 * i], points[(3 * i) + 1]) = (x, y);
            independent[i] = random.NextDouble() - 0.5;
            blocks[i] = level[(y / 5 * 20) + (x / 5)];
        }

        var tree = new PointTree(points);
        Assert.InRange(SpatialCorrelation.EffectiveCount(points, independent, tree, 0), 7000, 10_000);
        Assert.InRange(SpatialCorrelation.EffectiveCount(points, blocks, tree, 0), 250, 700);
    }
}
