using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>Contributions to the uncertainty: how they combine, and what device and temperature bring.</summary>
public class BudgetTests
{
    /// <summary>
    /// The gauge block of JCGM 100:2008, H.1: u = 32 nm, 16 effective degrees of freedom, for which G.2 gives 2.17 at 95.45 %.
    /// </summary>
    [Fact]
    public void CombinesAsTheGuideDoes()
    {
        Contribution[] budget =
            [new("standard", 25, 18), new("comparison", 9.7, 25.6), new("expansion", 2.9, 50), new("difference", 16.6, 2)];
        Assert.Equal(32, Contribution.Combined(budget), 0.5);

        // Between 16 and 17 degrees of freedom: G.2 has 2.17 and 2.16.
        Assert.InRange(Contribution.Expanded(budget) / Contribution.Combined(budget), 2.16 - 0.005, 2.17 + 0.005);
        Assert.Equal(2, Contribution.Expanded([new("much known", 1)]), 1e-12);
    }

    /// <summary>400 mm, aluminium at 25 °C, shown 0.046 too long: 23·10⁻⁶ · 5 · 400 is what it has grown.</summary>
    [Fact]
    public void LengthsAreCorrectedTo20DegreesAndZonesAreNot()
    {
        var temperature = new TemperaturePlan(23, 1, 5, 0.5);
        var length = new DistancePlan(1, "length") { Nominal = 400, Lower = -0.1, Upper = 0.1 };
        var share = new DeviceShare(1, 400, 0);
        var value = new CharacteristicValue(400.046, "") { Device = share, Coverage = 1 };
        var row = Evaluation.Judge(length, value, new SimpleRule(), new(0), temperature);
        Assert.Equal(400, row.Measured!.Value, 400 * Math.Pow(23e-6 * 5, 2));
        Assert.Contains("25 to 20 °C", row.Method, StringComparison.Ordinal);

        // 23·10⁻⁶/K · 400 · 0.5 K and 10⁻⁶/K · 5 K · 400.
        Assert.Equal(2 * Math.Sqrt(Math.Pow(0.0046, 2) + Math.Pow(0.002, 2)), row.Uncertainty!.Value, 1e-9);
        var zone = new PositionPlan(1, "place") { Tolerance = 0.2 };
        var place = Evaluation.Judge(zone, value with { Value = 0.1 }, new SimpleRule(), new(0), temperature);
        Assert.Equal(0.1, place.Measured!.Value, 1e-12);
        Assert.Contains(
            place.Budget, c => c.Source.Contains("not corrected", StringComparison.Ordinal) && c.Sigma is > 0.0265 and < 0.0266);
    }

    /// <summary>E = 0.01 + 0.02 mm/m over 500 mm, twice, uniform; a probing error of 0.012 is uniform from nothing on.</summary>
    [Fact]
    public void TheDeviceBringsItsStatedErrors()
    {
        var budget = new DevicePlan(0.01, 0.02, 0.012).Contributions(new(2, 500, 1)).ToList();
        Assert.Equal(2 * 0.02 / Math.Sqrt(3), budget[0].Sigma, 1e-12);
        Assert.Equal(0.012 / Math.Sqrt(12), budget[1].Sigma, 1e-12);
    }
}
