using System.Text.Json.Serialization;
using static System.FormattableString;

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
/// How a measured value is judged against its limits. "iso-14253-1": conformity and non-conformity must be proven with a probability of at
/// least 95 %, one-sided (ISO 14253-1:2017, JCGM 106:2012, 8.3.3); between them the answer is not proven. "guard-band": the same with guard
/// bands of a chosen multiple of the expanded uncertainty; 1 is the rule of ISO 14253-1:1998 and proves 97.7 %. "simple": the value alone
/// decides.
/// </summary>
public sealed record DecisionRule(string Rule = DecisionRule.Standard, double GuardFactor = 1)
{
    public const string Standard = "iso-14253-1";

    public static readonly IReadOnlyList<string> Rules = [Standard, "guard-band", "simple"];

    /// <summary>
    /// Width of the guard bands over U. That of the standard: the normal quantile of 95 % over that of U's 95.45 %, two-sided.
    /// </summary>
    [JsonIgnore]
    public double Factor => Rule switch { "simple" => 0, Standard => 1.6448536 / 2, _ => GuardFactor };

    /// <summary>The rule for screen and report.</summary>
    [JsonIgnore]
    public string Words => Rule switch
    {
        "simple" => "simple acceptance, the uncertainty does not enter",
        Standard => Invariant($"ISO 14253-1:2017, guard bands of {Factor:0.00} U for a conformance probability of 95 %"),
        _ => Invariant($"guard bands of {Factor:0.##} U"),
    };

    /// <summary>
    /// Verdict for a value. A missing limit does not bind. Limits count as written: numbers are compared as decimals of 12 digits.
    /// </summary>
    /// <param name="value">Measured value.</param>
    /// <param name="lower">Lower limit or null.</param>
    /// <param name="upper">Upper limit or null.</param>
    /// <param name="uncertainty">Expanded uncertainty U for 95.45 %, two-sided.</param>
    public Verdict Judge(double value, double? lower, double? upper, double uncertainty)
    {
        var y = Exact(value);
        var guard = Exact(Factor) * Exact(uncertainty);
        var (low, high) = (lower is { } l ? Exact(l) : (decimal?)null, upper is { } u ? Exact(u) : (decimal?)null);
        if ((low is null || y >= low + guard) && (high is null || y <= high - guard))
        {
            return Verdict.Conforming;
        }

        return (high is not null && y > high + guard) || (low is not null && y < low - guard) ? Verdict.NonConforming : Verdict.NotProven;
    }

    private static decimal Exact(double value) => Math.Round((decimal)Math.Clamp(value, -1e12, 1e12), 12);
}
