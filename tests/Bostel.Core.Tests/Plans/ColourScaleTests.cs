using Bostel.Core.Plans;

namespace Bostel.Core.Tests.Plans;

/// <summary>The colours of maps, as the design names them.</summary>
public class ColourScaleTests
{
    [Theory]
    [InlineData(-0.2, 0x0B, 0x4F, 0x6C)]
    [InlineData(-0.1, 0x5F, 0xA3, 0xB8)]
    [InlineData(0, 0xF4, 0xEE, 0xDD)]
    [InlineData(0.2, 0xD9, 0x8E, 0x4A)]
    [InlineData(0.4, 0x8F, 0x2D, 0x14)]
    [InlineData(9, 0x8F, 0x2D, 0x14)]
    public void EachSideOfZeroGoesToItsOwnLimit(double value, double r, double g, double b) =>
        Assert.Equal((r, g, b), new ColourScale(-0.2, 0.4, new()).Color(value));

    /// <summary>Where 0 is beyond, as of a wall of 2 to 4 mm, the middle is half way.</summary>
    [Fact]
    public void WhereZeroIsBeyondTheMiddleIsHalfWay()
    {
        var wall = new ColourScale(2, 4, new(RampKind.Grey));
        Assert.Equal((0x94, 0x98, 0x9C), wall.Color(3));
        Assert.Equal((-1, 0, 1), (wall.Beyond(1.9), wall.Beyond(3), wall.Beyond(4.1)));
        Assert.Equal((0, 0), ((wall with { LowerBinds = false }).Beyond(1), (wall with { UpperBinds = false }).Beyond(9)));
    }

    [Theory]
    [InlineData(RampKind.BlueRust)]
    [InlineData(RampKind.GreenPlum)]
    [InlineData(RampKind.Grey)]
    public void InStepsThereAreAsManyColoursOnEitherSide(RampKind kind)
    {
        var stepped = new ColourScale(-1, 1, new(kind, 4));
        var colours = Enumerable.Range(0, 400).Select(i => stepped.Color(-0.9975 + (i / 200.0))).ToList();
        Assert.Equal(8, colours.Distinct().Count());
        Assert.Equal(4, colours.Take(200).Distinct().Count());
    }
}
