using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Segmentation;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tolerancing;

/// <summary>What an evaluation gives before it is judged. Sigma is the standard uncertainty without the device's length error.</summary>
internal sealed record Evaluated(double Value, double Sigma, string Method, IReadOnlyList<FeatureResult> Evidence)
{
    /// <summary>How often the device's length error enters the value (a diametral zone takes it twice).</summary>
    public double DeviceFactor { get; init; } = 1;

    public string? Remark { get; init; }
    public int? Points { get; init; }
    public EvidenceView? View { get; init; }
}

/// <summary>Everything an evaluation may draw on.</summary>
public sealed record EvaluationContext(
    NominalModel Nominal, TriangleTree Tree, AlignedScan Scan, IReadOnlyDictionary<string, FeatureResult> Features,
    IReadOnlyDictionary<string, string> Failures, IReadOnlyDictionary<string, string[]> Datums, double SearchDistance)
{
    internal FeatureResult Feature(string id) => Features.TryGetValue(id, out var f)
        ? f
        : throw new BadInputException(Failures.TryGetValue(id, out var why) ? why : $"The plan has no feature '{id}'.");

    internal DatumSystem System(IReadOnlyList<string> labels) => DatumSystem.Build([.. labels.Select(l =>
        new Datum(l, [.. (Datums.TryGetValue(l, out var ids) ? ids : throw new BadInputException($"The plan has no datum {l}.")).Select(Feature)]))]);
}

/// <summary>Evaluates characteristics and judges them.</summary>
public static class Evaluation
{
    /// <summary>Evaluates one characteristic. What cannot be measured is said in the result, never thrown.</summary>
    /// <param name="lengthError">The device's stated maximum length error, mm; taken as uniformly distributed.</param>
    public static CharacteristicResult Evaluate(CharacteristicPlan plan, EvaluationContext context, DecisionRule rule, double lengthError)
    {
        var (nominal, lower, upper) = Limits(plan);
        var empty = new CharacteristicResult(plan) { Nominal = nominal, LowerLimit = lower, UpperLimit = upper };
        try
        {
            var e = Run(plan, context);
            var device = plan.Kind == "angle" ? 0 : e.DeviceFactor * lengthError / Math.Sqrt(3);
            var uncertainty = 2 * Math.Sqrt((e.Sigma * e.Sigma) + (device * device));
            var value = e.Value;
            return empty with
            {
                Measured = value,
                Deviation = value - (nominal ?? 0),
                Uncertainty = uncertainty,
                Method = e.Method,
                Remark = e.Remark,
                Beyond = Math.Max(0, Math.Max(value - (upper ?? double.PositiveInfinity), (lower ?? double.NegativeInfinity) - value)),
                Verdict = rule.Judge(value, lower, upper, uncertainty),
                Points = e.Points ?? e.Evidence.Sum(f => f.Used),
                Coverage = e.Evidence.Count == 0 ? 0 : e.Evidence.Min(f => f.Coverage),
                View = e.View ?? EvidenceViews.Of(e.Evidence, context.Tree),
            };
        }
        catch (BadInputException reason)
        {
            return empty with { Remark = reason.Message };
        }
    }

    /// <summary>The row of a characteristic that was not evaluated at all, with the reason.</summary>
    public static CharacteristicResult NotMeasured(CharacteristicPlan plan, string reason)
    {
        var (nominal, lower, upper) = Limits(plan);
        return new(plan) { Nominal = nominal, LowerLimit = lower, UpperLimit = upper, Remark = reason };
    }

    private static (double? Nominal, double? Lower, double? Upper) Limits(CharacteristicPlan plan) =>
        plan.Kind is "diameter" or "distance" or "angle"
            ? (plan.Nominal, plan.Nominal + plan.Lower, plan.Nominal + plan.Upper)
            : (null, null, plan.Tolerance);

    private static Evaluated Run(CharacteristicPlan plan, EvaluationContext context)
    {
        FeatureResult One(int i) => plan.Features.Length > i
            ? context.Feature(plan.Features[i])
            : throw new BadInputException($"Characteristic {plan.No} names {plan.Features.Length} features; {plan.Kind} needs {i + 1}.");
        return plan.Kind switch
        {
            "diameter" => Size.Diameter(One(0)),
            "distance" => Size.Distance(One(0), One(1)),
            "angle" => Size.Angle(One(0), One(1)),
            "flatness" => Form.Flatness(One(0), plan.Filter),
            "cylindricity" => Form.Cylindricity(One(0), plan.Filter),
            "parallelism" => Orientation.Parallelism(One(0), Single(plan, context), plan.Filter),
            "perpendicularity" => Orientation.Perpendicularity(One(0), Single(plan, context), plan.Filter),
            "position" => Location.Position(One(0), context.System(Needed(plan))),
            "profile-of-a-surface" => Profile.Surface(plan, context),
            _ => throw new BadInputException($"Characteristic {plan.No}: the kind '{plan.Kind}' is not known."),
        };
    }

    private static string[] Needed(CharacteristicPlan plan) =>
        plan.Datums.Length > 0 ? plan.Datums : throw new BadInputException($"Characteristic {plan.No}: {plan.Kind} needs at least one datum.");

    private static (FeatureResult Feature, string Label) Single(CharacteristicPlan plan, EvaluationContext context)
    {
        var label = Needed(plan)[0];
        return (context.Datums.TryGetValue(label, out var ids) ? context.Feature(ids[0]) : throw new BadInputException($"The plan has no datum {label}."), label);
    }
}
