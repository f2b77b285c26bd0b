using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>Requirements as drawings write them, and the classes of ISO 286 against values of its tables.</summary>
public class DrawingTextTests
{
    /// <summary>ISO 286-2:2010: limit deviations that its tables list, µm.</summary>
    [Theory]
    [InlineData(52, "H7", 0, 30)]
    [InlineData(8, "H7", 0, 15)]
    [InlineData(3, "H7", 0, 10)]
    [InlineData(500, "H11", 0, 400)]
    [InlineData(25, "g6", -20, -7)]
    [InlineData(50, "f7", -50, -25)]
    [InlineData(40, "e8", -89, -50)]
    [InlineData(120, "d9", -207, -120)]
    [InlineData(45, "c11", -290, -130)]
    [InlineData(30, "h9", -52, 0)]
    [InlineData(20, "js6", -6.5, 6.5)]
    [InlineData(25, "k6", 2, 15)]
    [InlineData(100, "m6", 13, 35)]
    [InlineData(60, "n6", 20, 39)]
    [InlineData(60, "p6", 32, 51)]
    [InlineData(70, "r6", 43, 62)]
    [InlineData(25, "s6", 35, 48)]
    [InlineData(90, "u6", 124, 146)]
    [InlineData(40, "K7", -18, 7)]
    [InlineData(40, "K8", -27, 12)]
    [InlineData(280, "M6", -41, -9)]
    [InlineData(25, "M7", -21, 0)]
    [InlineData(25, "N7", -28, -7)]
    [InlineData(25, "N9", -52, 0)]
    [InlineData(60, "P7", -51, -21)]
    [InlineData(60, "P9", -106, -32)]
    [InlineData(2, "P7", -16, -6)]
    [InlineData(50, "F8", 25, 64)]
    [InlineData(50, "G7", 9, 34)]
    [InlineData(35, "S7", -59, -34)]
    public void ClassesAreThoseOfTheStandard(double nominal, string name, double lower, double upper)
    {
        var limits = ToleranceClass.Limits(nominal, name)!.Value;
        Assert.Equal(lower / 1000, limits.Lower, 1e-9);
        Assert.Equal(upper / 1000, limits.Upper, 1e-9);
    }

    [Theory]
    [InlineData(501, "H7")]
    [InlineData(0, "H7")]
    [InlineData(50, "H19")]
    [InlineData(50, "Q7")]
    [InlineData(50, "H")]
    [InlineData(50, "K11")]
    public void WhatIsNoClassIsNone(double nominal, string name) => Assert.Null(ToleranceClass.Limits(nominal, name));

    [Theory]
    [InlineData("52 H7", 52.0, 0.0, 0.03)]
    [InlineData("⌀52H7", 52.0, 0.0, 0.03)]
    [InlineData("12 ±0.1", 12.0, -0.1, 0.1)]
    [InlineData("12 mm ± 0,1", 12.0, -0.1, 0.1)]
    [InlineData("ø8 +0.015/0", 8.0, 0.0, 0.015)]
    [InlineData("9 +0.2/−0.1", 9.0, -0.1, 0.2)]
    [InlineData("9 -0.1 +0.2", 9.0, -0.1, 0.2)]
    [InlineData("R4 ±0.2", 4.0, -0.2, 0.2)]
    [InlineData("30° ±0.5°", 30.0, -0.5, 0.5)]
    [InlineData("±0.1", null, -0.1, 0.1)]
    [InlineData("+0.046/0", null, 0.0, 0.046)]
    [InlineData("85", 85.0, null, null)]
    public void DimensionsAreRead(string text, double? nominal, double? lower, double? upper)
    {
        var said = DrawingText.Dimension(text);
        Assert.Equal((nominal, lower, upper), (said.Nominal, said.Lower, said.Upper));
    }

    [Theory]
    [InlineData("0.05", 0.05, false, null, "")]
    [InlineData("⌀0.2 M|A|B M|C", 0.2, true, MaterialLimit.Maximum, "1A 2B+ 3C")]
    [InlineData("Ø 0,2 (M) | A | B(M) | C", 0.2, true, MaterialLimit.Maximum, "1A 2B+ 3C")]
    [InlineData("⌀0.1Ⓛ|A-B", 0.1, true, MaterialLimit.Least, "1A-B")]
    [InlineData("0.08|BM", 0.08, false, null, "1B+")]
    public void TolerancesAreRead(string text, double value, bool diametral, MaterialLimit? material, string datums)
    {
        var said = DrawingText.Tolerance(text);
        Assert.Equal((value, diametral, material), (said.Tolerance!.Value, said.Diametral, said.Material));
        Assert.Equal(datums, string.Join(' ', said.Datums.Select(d => $"{d.Position}{d.Label}{(d.Material is null ? "" : "+")}")));
    }

    [Theory]
    [InlineData("")]
    [InlineData("A|B")]
    [InlineData("0|A")]
    [InlineData("0.1|a")]
    [InlineData("0.1||B")]
    [InlineData("0.1 X|A")]
    public void AToleranceWithAnErrorInItIsRefused(string text) =>
        Assert.Throws<BadInputException>(() => DrawingText.Tolerance(text));

    [Theory]
    [InlineData("")]
    [InlineData("52 Q7")]
    [InlineData("52 +0.1")]
    [InlineData("wide")]
    [InlineData("12 ±0")]
    [InlineData("12 0/0")]
    public void ADimensionWithAnErrorInItIsRefused(string text) =>
        Assert.Throws<BadInputException>(() => DrawingText.Dimension(text));
}
