using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Geometry;

public class RoundNumberTests
{
    [Theory]
    [InlineData(1, 1)]
    [InlineData(1.99, 1)]
    [InlineData(2, 2)]
    [InlineData(49, 20)]
    [InlineData(50, 50)]
    [InlineData(999, 500)]
    [InlineData(0.034, 0.02)]
    public void IsTheLargestNoMoreThanTheNumber(double number, double round) =>
        Assert.Equal(round, RoundNumber.AtMost(number), 1e-12 * round);
}
