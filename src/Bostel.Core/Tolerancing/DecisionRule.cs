using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>What can be said of a characteristic.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<Verdict>))]
public enum Verdict
{
    [JsonStringEnumMemberName("conforming")]
    Conforming,

    [JsonStringEnumMemberName("non-conforming")]
    NonConforming,

    [JsonStringEnumMemberName("not-proven")]
    NotProven,

    [JsonStringEnumMemberName("not-measured")]
    NotMeasured,
}

/// <summary>
/// How a measured value is judged against its limits. "guard-band": conformity and non-conformity must be proven with the expanded
/// uncertainty (ISO 14253-1); between them the answer is not proven. "simple": the value alone decides.
/// </summary>
public sealed record DecisionRule(string Rule = "guard-band", double GuardFactor = 1)
{
    /// <summary>
    /// Verdict for a value. A missing limit does not bind. Limits count as written: numbers are compared as decimals of 12 digits.
    /// </summary>
    /// <param name="value">Measured value.</param>
    /// <param name="lower">Lower limit or null.</param>
    /// <param name="upper">Upper limit or null.</param>
    /// <param name="uncertainty">Expanded uncertainty U (k = 2).</param>
    public Verdict Judge(double value, double? lower, double? upper, double uncertainty)
    {
        var y = Exact(value);
        var guard = Rule == "simple" ? 0 : Exact(GuardFactor) * Exact(uncertainty);
        var (low, high) = (lower is { } l ? Exact(l) : (decimal?)null, upper is { } u ? Exact(u) : (decimal?)null);
        if ((low is null || y >= low + guard) && (high is null || y <= high - guard))
        {
            return Verdict.Conforming;
        }

        return (high is not null && y > high + guard) || (low is not null && y < low - guard) ? Verdict.NonConforming : Verdict.NotProven;
    }

    private static decimal Exact(double value) => Math.Round((decimal)Math.Clamp(value, -1e12, 1e12), 12);
}
