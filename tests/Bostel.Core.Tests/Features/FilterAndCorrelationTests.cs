using Bostel.Core.Features;
using Bostel.Core.Fitting;
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

        var (filtered, support) = GaussianFilter.Apply(points, [.. wave.Select(_ => 1.0)], wave, 8, new PointTree(points));
        Assert.Equal(share, filtered[(Side * (Side / 2)) + (Side / 2)], allowed);
        Assert.True(support > 50);
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
