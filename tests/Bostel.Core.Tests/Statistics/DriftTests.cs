using Bostel.Core.Statistics;

namespace Bostel.Core.Tests.Statistics;

/// <summary>The line through values in their order, against sums worked by hand and against chance.</summary>
public class DriftTests
{
    /// <summary>
    /// 1, 3, 2, 5, 4 at 0 … 4: Sxx = 10, Sxy = 8, the residuals' squares 3.6 with 3 degrees of freedom. Of Student's distribution with 3
    /// degrees of freedom 0.9973 lie within 9.219 (GUM, table G.2: 9.22).
    /// </summary>
    [Fact]
    public void SlopeAndIntervalAreThoseOfTheTextbook()
    {
        var drift = Drift.Of([1, 3, 2, 5, 4])!;
        Assert.Equal(0.8, drift.Slope, 1e-12);
        Assert.Equal(9.22 * Math.Sqrt(3.6 / 3 / 10), drift.Interval, 0.005);
        Assert.False(drift.StandsOut);
    }

    [Fact]
    public void APieceWithoutAValueKeepsItsPlace()
    {
        var drift = Drift.Of([10, 10.5, double.NaN, 11.5, 12, 12.5])!;
        Assert.Equal(0.5, drift.Slope, 1e-12);
        Assert.True(drift.StandsOut);
        Assert.Null(Drift.Of([1, 2, double.NaN, 4, 5]));
    }

    /// <summary>Of 2000 numbers that stay where they are 0.27 % are told to move, 5.4 ± 3 · 2.3.</summary>
    [Fact]
    public void WhatOnlyScattersIsSeldomToldToMove()
    {
        var random = new Random(1);
        double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        var told = Enumerable.Range(0, 2000).Count(_ => Drift.Of([.. Enumerable.Range(0, 8).Select(_ => Normal())])!.StandsOut);
        Assert.InRange(told, 0, 12);
    }
}
