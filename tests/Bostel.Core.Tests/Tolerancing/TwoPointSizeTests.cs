using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>Widths of slots and tabs are their local sizes, the least and the greatest (ISO 14405-1).</summary>
public class TwoPointSizeTests
{
    private const double Wide = 12, Long = 40, High = 20;

    /// <summary>
    /// Sides that open by 0.002 over the length: local sizes go from 12 to 12 + 0.002·40 (along the mean normal, 0.001 askew to either
    /// side: second order). Between the middles lies the mean.
    /// </summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void AWedgeHasALeastAndAGreatestSize(bool slot)
    {
        var (left, right) = Sides(slot, 0.002, 0, 1);
        var row = TwoPointSize.Of(left, right);
        Assert.Equal(Wide + (0.002 * Long), row.Raw!.Value, 1e-3);
        Assert.Equal(Wide, row.Least!.Value, 1e-3);
        Assert.Equal(row.Value, TwoPointSize.Of(right, left).Value, 1e-3);
        Assert.Equal(Wide + (0.001 * Long), Size.Distance(left, right).Value, 1e-3);
    }

    /// <summary>The extreme that is farther out is judged: the greatest by the upper limit, the least by the lower one.</summary>
    [Theory]
    [InlineData(11.9, 12.04, 12.08, Verdict.NonConforming)]
    [InlineData(12.03, 12.2, 12.0, Verdict.NonConforming)]
    [InlineData(11.9, 12.2, 12.0, Verdict.Conforming)]
    public void BothSizesHaveToLieWithin(double lower, double upper, double judged, Verdict expected)
    {
        var (left, right) = Sides(true, 0.002, 0, 1);
        var row = TwoPointSize.Of(left, right);
        var plan = new WidthPlan(1, "slot") { Nominal = Wide, Lower = lower - Wide, Upper = upper - Wide };
        var value = new CharacteristicValue(row.Value, row.Method) { Budget = row.Budget, Least = row.Least, Coverage = 1 };
        var result = Evaluation.Judge(plan, value, new SimpleRule(), new(0), new());
        Assert.Equal(judged, result.Measured!.Value, 1e-3);
        Assert.Equal(expected, result.Verdict);
    }

    /// <summary>
    /// Noise widens the greatest and narrows the least: both are freed of it, and U holds the true 12 in 95.45 % less three standard errors
    /// of 50 draws.
    /// </summary>
    [Fact]
    public void NoiseIsTakenOff()
    {
        var held = 0;
        for (var seed = 1; seed <= 50; seed++)
        {
            var (left, right) = Sides(false, 0, 0.01, seed);
            var row = TwoPointSize.Of(left, right);
            var u = Contribution.Expanded(row.Budget!);
            held += Math.Abs(row.Value - Wide) <= u && Math.Abs(row.Least!.Value - Wide) <= u ? 1 : 0;
        }

        Assert.InRange(held, 43, 50);
    }

    [Fact]
    public void AStepIsNoWidth()
    {
        var (left, _) = Sides(false, 0, 0, 1);
        var (_, other) = Sides(true, 0, 0, 1);
        Assert.Contains("no slot or tab",
            Assert.Throws<BadInputException>(() => TwoPointSize.Of(left, other)).Message, StringComparison.Ordinal);
    }

    /// <param name="slot">The normals point to each other.</param>
    /// <param name="opening">Of both sides together, rad.</param>
    private static (FeatureResult Left, FeatureResult Right) Sides(bool slot, double opening, double noise, int seed)
    {
        var draws = new SeededNoise(seed);
        double[] Points(double at, double slope, int stream)
        {
            var points = new List<double>();
            for (var i = 0; i < 60; i++)
            {
                for (var j = 0; j < 30; j++)
                {
                    var along = Long * i / 59.0;
                    points.AddRange(
                        [at + (slope * along) + (noise * draws.Normal((stream * 10_000L) + (30 * i) + j)), along, High * j / 29.0]);
                }
            }

            return [.. points];
        }

        var way = slot ? 1 : -1;
        return (
            MadeFeature.Fitted("left", new Plane3D(Vector3D.Zero, way * Vector3D.UnitX), Points(0, -opening / 2, 1)),
            MadeFeature.Fitted("right", new Plane3D(new(Wide, 0, 0), -way * Vector3D.UnitX), Points(Wide, opening / 2, 2)));
    }
}
