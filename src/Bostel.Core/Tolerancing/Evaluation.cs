using System.Collections.Concurrent;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// What an evaluation gives before it is judged. The budget is that of the points; null where the uncertainty cannot be told.
/// </summary>
internal sealed record Evaluated(double Value, IReadOnlyList<Contribution>? Budget, string Method, IReadOnlyList<FeatureResult> Evidence)
{
    public DeviceShare Device { get; init; } = DeviceShare.None;

    /// <summary>Of local sizes the least; the value is then the greatest.</summary>
    public double? Least { get; init; }

    /// <summary>By which a material requirement lets the tolerance grow, mm.</summary>
    public double Bonus { get; init; }

    /// <summary>The value of the points as they are, before what noise adds to it is taken off.</summary>
    public double? Raw { get; init; }

    /// <summary>Datum features that the value refers to.</summary>
    public IReadOnlyList<FeatureResult> Datums { get; init; } = [];

    /// <summary>Faces of the nominal that it rests on beside those of its features.</summary>
    public IReadOnlyList<int> Faces { get; init; } = [];

    public string? Remark { get; init; }
    public int? Points { get; init; }
    public double? Coverage { get; init; }
    public EvidenceView? View { get; init; }
}

/// <summary>
/// A characteristic's number before it is judged, with how it was obtained: independent of its limits, the decision rule and the device, so
/// that a change of those only judges again. <see cref="Failure"/> says why there is no number.
/// </summary>
public sealed record CharacteristicValue(double Value, string Method)
{
    /// <summary>What the points bring to the uncertainty; null when that cannot be told: without it there is no verdict.</summary>
    public IReadOnlyList<Contribution>? Budget { get; init; } = [];

    /// <summary>Of local sizes the least, which has to lie within the limits too; the value is then the greatest.</summary>
    public double? Least { get; init; }

    /// <summary>By which a material requirement lets the tolerance grow, mm.</summary>
    public double Bonus { get; init; }

    /// <summary>What the device brings.</summary>
    public DeviceShare Device { get; init; } = DeviceShare.None;

    public string? Remark { get; init; }
    public int Points { get; init; }
    public double Coverage { get; init; }

    /// <summary>Least share that was measured of a datum feature.</summary>
    public double DatumCoverage { get; init; } = 1;

    /// <summary>Isolated points that the value leaves out, and what it would be with them.</summary>
    public LeftOut LeftOut { get; init; } = LeftOut.Nothing;
    public double? WithAll { get; init; }
    public double? LeastWithAll { get; init; }

    /// <summary>What the scan shows that the value does not hold: with any of it, conformity is not proven.</summary>
    public string[] Doubts { get; init; } = [];
    public EvidenceView? View { get; init; }
    public string? Failure { get; init; }

    public static CharacteristicValue Failed(string reason) => new(0, "") { Failure = reason };
}

/// <summary>Everything an evaluation may draw on. Features are measured when they are first asked for.</summary>
/// <param name="Feature">A feature by its id.</param>
/// <param name="WholeFeature">The same with nothing left out.</param>
public sealed record EvaluationContext(
    NominalModel Nominal, TriangleTree Tree, AlignedScan Scan, string AlignedBy, Func<string, FeatureResult> Feature,
    Func<string, FeatureResult> WholeFeature, IReadOnlyDictionary<string, string[]> Datums, DeviationOptions Deviation)
{
    private readonly ConcurrentDictionary<string, Lazy<DatumSystem>> _systems = new();
    private Lazy<IReadOnlyList<UnmatchedArea>> _unmatched = new(() => UnmatchedArea.Find(Scan, Nominal, Tree));
    private EvaluationContext? _nothingLeftOut;

    /// <summary>The same with features that leave nothing out, for values that are only compared.</summary>
    internal EvaluationContext NothingLeftOut => LazyInitializer.EnsureInitialized(ref _nothingLeftOut, () =>
    {
        // Most features leave nothing out and need no second measurement.
        var whole = new ConcurrentDictionary<string, Lazy<FeatureResult>>();
        FeatureResult Whole(string id) => whole.GetOrAdd(
            id, name => new(() => Feature(name) is { LeftOut.Count: 0 } same ? same : WholeFeature(name))).Value;
        return new(Nominal, Tree, Scan, AlignedBy, Whole, Whole, Datums, Deviation)
        {
            RawOnly = true,
            Cut = Cut,
        };
    });

    /// <summary>The same scan with features that are measured otherwise.</summary>
    internal EvaluationContext Measuring(Func<string, FeatureResult> feature, Func<string, FeatureResult> wholeFeature) =>
        new(Nominal, Tree, Scan, AlignedBy, feature, wholeFeature, Datums, Deviation) { Cut = Cut, _unmatched = _unmatched };

    /// <summary>What noise adds to a large surface need not be told.</summary>
    internal bool RawOnly { get; init; }

    /// <summary>Cuts a section of the plan, by its name, on this scan with a motion after its alignment.</summary>
    public Func<string, RigidTransform, SectionSheet> Cut { get; init; } =
        (name, _) => throw new BadInputException($"The plan has no section '{name}'.");

    /// <summary>A section of the plan, cut on this scan.</summary>
    internal SectionSheet Section(string name) => Cut(name, RigidTransform.Identity);

    /// <summary>What of the scan has no counterpart on the nominal.</summary>
    public IReadOnlyList<UnmatchedArea> Unmatched => _unmatched.Value;

    /// <summary>The features of a datum, of a common one those of all its letters together.</summary>
    /// <exception cref="BadInputException">The plan has no such datum.</exception>
    internal Datum Datum(string label) => new(label, [
        .. DatumLetters.Of(label).SelectMany(letter =>
            Datums.TryGetValue(letter, out var ids) ? ids : throw new BadInputException($"The plan has no datum {letter}."))
            .Select(Feature)]);

    /// <summary>A face associated from outside the material, whatever its plan says.</summary>
    internal FeatureResult Tangent(FeatureResult face) => face.IsSurface && face.Criterion != Criterion.OuterTangent
        ? FeatureExtraction.Measure(face.Plan with { Criterion = Criterion.OuterTangent }, Scan, Nominal)
        : face;

    /// <summary>The system of the datums, built when it is first asked for: many characteristics share one.</summary>
    internal DatumSystem System(IReadOnlyList<string> labels) => _systems
        .GetOrAdd(string.Join('|', labels), _ => new(() => DatumSystem.Build([.. labels.Select(Datum)]))).Value;
}

/// <summary>Evaluates characteristics and judges them.</summary>
public static class Evaluation
{
    /// <summary>Evaluates one characteristic. What cannot be measured is said in the result, never thrown.</summary>
    public static CharacteristicValue Measure(CharacteristicPlan plan, EvaluationContext context)
    {
        try
        {
            var e = plan.Evaluate(context);
            FeatureResult[] all = [.. e.Evidence, .. e.Datums];
            var left = LeftOut.Of(all.Select(f => f.LeftOut));
            var whole = left.Count == 0 ? null : WithAll(plan, e, context);
            return new(e.Value, e.Method + Words.Regions(all))
            {
                Budget = e.Budget,
                Device = e.Device,
                Least = e.Least,
                Bonus = e.Bonus,
                Remark = e.Remark,
                Points = e.Points ?? e.Evidence.Sum(f => f.Used),
                Coverage = e.Coverage ?? e.Evidence.Select(f => f.Coverage).DefaultIfEmpty(0).Min(),
                DatumCoverage = e.Datums.Select(f => f.Coverage).DefaultIfEmpty(1).Min(),
                LeftOut = left,
                WithAll = whole?.Value,
                LeastWithAll = whole?.Least,
                Doubts = [.. Doubts.Of([.. plan.Refers.Faces, .. e.Faces], all, left, context)],
                View = e.View ?? EvidenceViews.Of(e.Evidence, context.Tree),
            };
        }
        catch (BadInputException reason)
        {
            return CharacteristicValue.Failed(reason.Message);
        }
    }

    /// <summary>The value with nothing left out; null when the stray points keep the features from being fitted at all.</summary>
    private static Evaluated? WithAll(CharacteristicPlan plan, Evaluated e, EvaluationContext context)
    {
        try
        {
            var all = plan.Evaluate(context.NothingLeftOut);
            return all.Budget is null && e.Raw is { } raw && all.Raw is { } other ? all with { Value = e.Value + other - raw } : all;
        }
        catch (BadInputException)
        {
            return null;
        }
    }

    /// <summary>Judges a value by the plan's limits.</summary>
    public static CharacteristicResult Judge(
        CharacteristicPlan plan, CharacteristicValue value, DecisionRule rule, DevicePlan device, TemperaturePlan temperature)
    {
        var (nominal, lower, upper) = plan.Limits;
        upper += value.Bonus;
        var row = new CharacteristicResult(plan) { Nominal = nominal, LowerLimit = lower, UpperLimit = upper };
        if (value.Failure is { } reason)
        {
            return row with { Remark = reason };
        }

        if (lower is null && upper is null)
        {
            return row with { Remark = "its limits are those of the general tolerances, which were not looked up for it" };
        }

        // A length is known at 20 °C (ISO 1); zones refer to the nominal, whose growth stays in their uncertainty.
        var length = plan.IsLength;
        double At20(double v) => length ? temperature.At20(v) : v;
        var measured = Worse(At20(value.Value), At20(value.Least ?? value.Value), lower, upper);
        var budget = Contribution.Of(
            [.. value.Budget ?? [], .. device.Contributions(value.Device), .. temperature.Contributions(value.Device, corrected: length)]);
        var uncertainty = Contribution.Expanded(budget);
        var verdict = rule.Judge(measured, lower, upper, uncertainty);
        string[] doubts = [.. value.Doubts, .. Shortfalls(plan, value)];
        var withAll = value.WithAll is { } all ? Worse(At20(all), At20(value.LeastWithAll ?? all), lower, upper) : (double?)null;
        var leftOut = LeftOutSaid(value.LeftOut, verdict, withAll, v => rule.Judge(v, lower, upper, uncertainty));
        var said = new[] { leftOut, value.Remark }.OfType<string>().Concat(doubts).ToList();
        return row with
        {
            Measured = measured,
            Deviation = measured - (nominal ?? 0),
            Uncertainty = value.Budget is null ? null : uncertainty,
            Budget = value.Budget is null ? [] : budget,
            Method = value.Method + (length ? temperature.Corrected : ""),
            Remark = said.Count > 0 ? string.Join("; ", said) : null,
            Beyond = Math.Max(
                0, Math.Max(measured - (upper ?? double.PositiveInfinity), (lower ?? double.NegativeInfinity) - measured)),
            Verdict = value.Budget is null || (verdict == Verdict.Conforming && doubts.Length > 0) ? Verdict.NotProven : verdict,
            Points = value.Points,
            Coverage = value.Coverage,
            View = value.View,
        };
    }

    /// <summary>Both local sizes have to lie within: judged is the one nearer to its limit, or farther beyond it.</summary>
    private static double Worse(double greatest, double least, double? lower, double? upper) =>
        (lower - least ?? double.NegativeInfinity) > (greatest - upper ?? double.NegativeInfinity) ? least : greatest;

    /// <summary>What was left out, and what the verdict would be with it when that is another.</summary>
    private static string? LeftOutSaid(LeftOut left, Verdict verdict, double? withAll, Func<double, Verdict> judge)
    {
        if (left.Count == 0)
        {
            return null;
        }

        var points = left.Count == 1 ? "1 isolated point" : $"{left.Count} isolated points";
        var what = Invariant($"{points} left out, {left.Area:0.##} mm², up to {left.Extreme:+0.###;-0.###} mm off");
        return withAll is { } all && judge(all) != verdict
            ? what + Invariant($"; with all it would be {all:0.000}, {Words.Of(judge(all))}")
            : what;
    }

    /// <summary>What was not measured of what conformity must rest on.</summary>
    private static IEnumerable<string> Shortfalls(CharacteristicPlan plan, CharacteristicValue value)
    {
        if (value.Coverage < plan.RequiredCoverage)
        {
            yield return Invariant($"{100 * value.Coverage:0} % of it was measured, {100 * plan.RequiredCoverage:0} % are required");
        }

        if (value.DatumCoverage < plan.RequiredDatumCoverage)
        {
            yield return Invariant(
                $"{100 * value.DatumCoverage:0} % of a datum was measured, {100 * plan.RequiredDatumCoverage:0} % are required");
        }

        if (value.Budget is null)
        {
            yield return "its points lie too far apart to tell noise from form: no uncertainty, no verdict";
        }
    }
}
