using System.Text.Json.Serialization;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// The part's temperature when it was measured (ISO 1, ISO/TR 16015). Sizes and distances are corrected to 20 °C.
/// </summary>
/// <param name="Expansion">Coefficient of linear expansion, 10⁻⁶/K; 0: temperature is not looked at.</param>
/// <param name="ExpansionUncertainty">Its standard uncertainty, 10⁻⁶/K.</param>
/// <param name="Deviation">From 20 °C, K.</param>
/// <param name="Uncertainty">Standard uncertainty of that, K.</param>
public sealed record TemperaturePlan(
    double Expansion = 0, double ExpansionUncertainty = 0, double Deviation = 0, double Uncertainty = 0)
{
    private const double Millionth = 1e-6;

    /// <summary>A length that was measured at the deviating temperature.</summary>
    public double At20(double length) => length / (1 + (Expansion * Millionth * Deviation));

    /// <summary>For screen and report.</summary>
    [JsonIgnore]
    public string Words => Expansion > 0
        ? Invariant($"measured at {20 + Deviation:0.##} °C ± {Uncertainty:0.##} K, ")
            + Invariant($"expansion {Expansion:0.##} ± {ExpansionUncertainty:0.##}·10⁻⁶/K")
        : "temperature is not looked at";

    /// <summary>That a length was corrected.</summary>
    internal string Corrected => Expansion > 0 && Deviation != 0 ? Invariant($", corrected from {20 + Deviation:0.##} to 20 °C") : "";

    /// <param name="corrected">Whether the value is one for 20 °C; else the growth itself is an error of up to so much.</param>
    public IEnumerable<Contribution> Contributions(DeviceShare share, bool corrected)
    {
        var grown = share.Lengths * share.Span * Millionth;
        return
        [
            new("temperature", grown * Expansion * Uncertainty),
            new("coefficient of expansion", grown * ExpansionUncertainty * Math.Abs(Deviation)),
            new("growth by temperature, not corrected", corrected ? 0 : grown * Expansion * Math.Abs(Deviation) / Math.Sqrt(3)),
        ];
    }

    internal bool IsPossible => Expansion >= 0 && ExpansionUncertainty >= 0 && Uncertainty >= 0 && Math.Abs(Deviation) < 1000;
}
