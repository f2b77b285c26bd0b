using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>The standards' words for what was done.</summary>
internal static class Words
{
    public static string Of(Criterion criterion) => criterion switch
    {
        Criterion.LeastSquares => "least-squares",
        Criterion.MinimumZone => "minimum-zone",
        Criterion.MinimumCircumscribed => "minimum-circumscribed",
        Criterion.MaximumInscribed => "maximum-inscribed",
        _ => "outer-tangent",
    };

    public static string Of(Verdict verdict) => verdict switch
    {
        Verdict.Conforming => "conforming",
        Verdict.NonConforming => "non-conforming",
        Verdict.NotProven => "not proven",
        _ => "not measured",
    };

    /// <summary>A feature with how it was associated.</summary>
    public static string Associated(FeatureResult f) => f.Construction is { } made
        ? $"{made.What} ({string.Join(", ", f.From.Select(Associated).Distinct())})"
        : f.Plan.EdgeOf is { } side
            ? $"edge of face {side}, a {f.Nominal.Kind} where its points end, freed of their spacing and of what scans lose at edges"
        : $"{Of(f.Criterion)} {f.Nominal.Kind}"
        + (f.MarginCutFrom is null ? "" : FormattableString.Invariant($" (edge margin cut to {f.EdgeMargin:0.##} mm on a narrow face)"))
        + (f.NoiseTaken == 0 ? "" : FormattableString.Invariant($" freed of {Math.Abs(f.NoiseTaken):0.0000} mm of noise"));

    /// <summary>Which of the features rest on regions of the scan and not on faces of the nominal.</summary>
    public static string Regions(IEnumerable<FeatureResult> features)
    {
        var names = features.SelectMany(Measured).Where(f => f.Plan.Region is not null).Select(f => f.Plan.Name).Distinct().ToList();
        return names.Count == 0 ? "" : $"; {string.Join(", ", names)}: grown on the scan";

        static IEnumerable<FeatureResult> Measured(FeatureResult f) => f.Construction is null ? [f] : f.From.SelectMany(Measured);
    }

    /// <summary>That noise was taken off, and how much.</summary>
    public static string Less(NoiseBias bias) =>
        bias.Bias > 0 ? FormattableString.Invariant($", less {bias.Bias:0.0000} mm that noise adds") : "";

    /// <summary>That free motions were used.</summary>
    public static string Freed(IReadOnlyList<SmallMotion> free) =>
        free.Count > 0 ? $", least over {free.Count} free motion{(free.Count == 1 ? "" : "s")}" : "";

    /// <summary>Where the middle of a zone lies that is not on the nominal.</summary>
    public static string Offset(double? zone) => zone is { } u
        ? FormattableString.Invariant($" from {Math.Abs(u):0.####} mm {(u < 0 ? "in" : "out of")} the material")
        : "";

    public static string Filter(double? nestingIndex) =>
        nestingIndex is { } n
            ? FormattableString.Invariant($", Gaussian filter {n:0.##} mm")
            : ", no filter";
}
