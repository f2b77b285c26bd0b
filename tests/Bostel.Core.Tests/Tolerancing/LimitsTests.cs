using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>How much of its tolerance a value uses.</summary>
public class LimitsTests
{
    [Theory]
    [InlineData(20.0, 19.9, 20.1, 20.0, 0.0)]
    [InlineData(20.0, 19.9, 20.1, 20.1, 1.0)]
    [InlineData(20.0, 19.9, 20.1, 19.85, 1.5)]
    [InlineData(52.0, 52.0, 52.03, 52.0, 1.0)]
    [InlineData(null, null, 0.2, 0.05, 0.25)]
    public void TheUseOfAToleranceIsNothingInItsMiddleAndOneAtALimit(
        double? nominal, double? lower, double upper, double value, double use) =>
        Assert.Equal(use, new Limits(nominal, lower, upper).Use(value)!.Value, 1e-9);

    [Theory]
    [InlineData(20.0, null, 20.1)]
    [InlineData(20.0, 19.9, null)]
    [InlineData(20.0, 20.0, 20.0)]
    [InlineData(null, null, null)]
    public void OneLimitOfADimensionSaysNothingOfIt(double? nominal, double? lower, double? upper) =>
        Assert.Null(new Limits(nominal, lower, upper).Use(20));
}
