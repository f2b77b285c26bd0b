using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>What noise adds to an extreme value, against what is known of the range of normal numbers.</summary>
public class NoiseBiasTests
{
    /// <summary>
    /// Mean and standard deviation of the range of n normal numbers: the constants d2 and d3 of control charts (ASTM E2587, table 6), and
    /// for 1000 numbers 6.483 and 0.497 (Tippett, Biometrika 17, 1925). Over 60 trials the mean is known to d3/√60, the standard
    /// deviation to d3/√120; three of each are allowed.
    /// </summary>
    [Theory]
    [InlineData(5, 2.326, 0.864)]
    [InlineData(25, 3.931, 0.708)]
    [InlineData(1000, 6.483, 0.497)]
    public void AFlatSurfaceReadsTheRangeOfItsNoise(int n, double d2, double d3)
    {
        var (bias, scatter) = NoiseBias.Simulated([new double[n]], 0.01, n, Extreme.Width);
        Assert.Equal(0.01 * d2, bias, 3 * 0.01 * d3 / Math.Sqrt(60));
        Assert.Equal(0.01 * d3, scatter, 3 * 0.01 * d3 / Math.Sqrt(2 * 60));
    }

    /// <summary>Where one point stands out by far more than the noise it alone decides, and noise adds nothing in the mean.</summary>
    [Fact]
    public void OfASinglePeakOnlyTheOtherEndIsBiased()
    {
        var peak = new double[2000];
        peak[7] = 1;
        var (bias, scatter) = NoiseBias.Simulated([peak], 0.01, peak.Length, (_, high) => high);
        Assert.Equal(0, bias, 3 * 0.01 / Math.Sqrt(60));
        Assert.Equal(0.01, scatter, 3 * 0.01 / Math.Sqrt(2 * 60));
    }

    /// <summary>Known between what a form shows and what a flat surface would, the middle is taken and both ends lie within U.</summary>
    [Fact]
    public void WhereEdgesAreRoundedTheBiasLiesBetweenFormAndFlat()
    {
        var step = Enumerable.Range(0, 1000).Select(i => i < 3 ? 0.2 : 0).ToArray();
        var (least, _) = NoiseBias.Simulated([step], 0.01, step.Length, Extreme.Width);
        var (flat, _) = NoiseBias.Simulated([new double[1000]], 0.01, step.Length, Extreme.Width);
        var bias = NoiseBias.Of(step, new(0.01, step.Length, 20, Rounded: true), Extreme.Width);
        Assert.True(least < flat);
        Assert.Equal((least + flat) / 2, bias.Bias, 1e-12);
        Assert.InRange((flat - least) / 2, 0, 2 * bias.Sigma);
    }

    /// <summary>
    /// Perfect planes with noise read 6 to 8 standard deviations; less the bias, U holds the truth, which is 0. Of 60 trials that hold with
    /// 95 % fewer than 52 come in one of 200 runs.
    /// </summary>
    [Theory]
    [InlineData(15)]
    [InlineData(60)]
    public void APerfectPlaneReadsNothingBeyondItsUncertainty(int side)
    {
        var held = 0;
        for (var trial = 0; trial < 60; trial++)
        {
            var draws = new SeededNoise(1000 + trial);
            var points = new double[3 * side * side];
            var heights = new double[side * side];
            for (var i = 0; i < heights.Length; i++)
            {
                heights[i] = 0.01 * draws.Normal(i);
                (points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]) = (0.5 * (i % side), 0.5 * (i / side), heights[i]);
            }

            var noise = SurfaceNoise.Of(points, [.. heights.Select(_ => 0.25)], heights, new(points))!;
            // A median of n has 0.37 of the information of all (Huber 1981, 1.2), and neighbouring rests share half of theirs: four times
            // that.
            Assert.Equal(0.01, noise.Noise.Sigma, 0.01 * 4 / Math.Sqrt(2 * 0.37 * 0.5 * heights.Length));
            var bias = NoiseBias.Of(noise.Form, noise.Noise, Extreme.Width);
            held += ExtremalFit.MinimumZonePlane(points).Form - bias.Bias <= 2 * bias.Sigma ? 1 : 0;
        }

        Assert.InRange(held, 52, 60);
    }
}
