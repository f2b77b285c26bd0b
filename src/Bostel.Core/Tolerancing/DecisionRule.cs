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
/// How a measured value is judged against its limits: with guard bands of a multiple of the expanded uncertainty U. The rules are a closed
/// set.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "rule")]
[JsonDerivedType(typeof(StandardRule), "iso-14253-1")]
[JsonDerivedType(typeof(GuardBandRule), "guard-band")]
[JsonDerivedType(typeof(SimpleRule), "simple")]
public abstract record DecisionRule
{
    /// <summary>Width of the guard bands over U.</summary>
    [JsonIgnore]
    public abstract double Factor { get; }

    /// <summary>The rule for screen and report.</summary>
    [JsonIgnore]
    public abstract string Words { get; }

    /// <summary>What is wrong with it; null when nothing.</summary>
    internal virtual string? Fault => null;

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

/// <summary>
/// Conformity and non-conformity must be proven with a probability of at least 95 %, one-sided (ISO 14253-1:2017, JCGM 106:2012, 8.3.3);
/// between them the answer is not proven.
/// </summary>
public sealed record StandardRule : DecisionRule
{
    /// <summary>The normal quantile of 95 % over that of U's 95.45 %, two-sided.</summary>
    [JsonIgnore]
    public override double Factor => 1.6448536 / 2;

    [JsonIgnore]
    public override string Words => Invariant($"ISO 14253-1:2017, guard bands of {Factor:0.00} U for a conformance probability of 95 %");
}

/// <summary>Guard bands of a chosen multiple of U; 1 is the rule of ISO 14253-1:1998 and proves 97.7 %.</summary>
public sealed record GuardBandRule : DecisionRule
{
    public double GuardFactor { get; init; } = 1;

    [JsonIgnore]
    public override double Factor => GuardFactor;

    [JsonIgnore]
    public override string Words => Invariant($"guard bands of {Factor:0.##} U");

    internal override string? Fault =>
        GuardFactor >= 0 && double.IsFinite(GuardFactor) ? null : "guardFactor: must be 0 or more.";
}

/// <summary>The value alone decides.</summary>
public sealed record SimpleRule : DecisionRule
{
    [JsonIgnore]
    public override double Factor => 0;

    [JsonIgnore]
    public override string Words => "simple acceptance, the uncertainty does not enter";
}
