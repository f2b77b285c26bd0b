using System.Text.Json.Serialization;

namespace Bostel.Core.Fitting;

/// <summary>How an iterative fit ended.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<FitEnding>))]
public enum FitEnding
{
    /// <summary>The next step would be shorter than rounding, or the solution is in closed form.</summary>
    [JsonStringEnumMemberName("converged")]
    Converged,

    /// <summary>No step makes the sum of squares less, though steps are still longer than rounding: as good as arithmetic allows.</summary>
    [JsonStringEnumMemberName("stalled")]
    Stalled,

    /// <summary>The most steps that are taken were not enough.</summary>
    [JsonStringEnumMemberName("step-limit")]
    StepLimit,

    /// <summary>The points leave at least one parameter of the shape free.</summary>
    [JsonStringEnumMemberName("undetermined")]
    Undetermined,

    /// <summary>Given up: what is left to gain cannot bring it within the distance that would be of use.</summary>
    [JsonStringEnumMemberName("of-no-use")]
    OfNoUse,
}

/// <summary>
/// A fit, or in one sentence why the points do not determine the feature: that is a common answer where kinds, starts and subsets of points
/// are tried, so it is a result and not an exception.
/// </summary>
public readonly record struct FitAttempt
{
    private FitAttempt(FitResult? fit, string? why) => (Fit, Why) = (fit, why);

    /// <summary>The fit; null when there is none.</summary>
    public FitResult? Fit { get; }

    /// <summary>Why there is none.</summary>
    public string? Why { get; }

    public static FitAttempt Failed(string why) => new(null, why);

    public static implicit operator FitAttempt(FitResult fit) => new(fit, null);

    /// <exception cref="UndeterminedException">There is no fit.</exception>
    public FitResult OrThrow() => Fit ?? throw new UndeterminedException(Why!);
}
