using System.Collections.Concurrent;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>A number found in another way than the plan's.</summary>
/// <param name="What">The other way, in words.</param>
/// <param name="Row">Judged by the same limits and rule.</param>
/// <param name="Changes">Whether the verdict is another; one that cannot be measured changes none.</param>
public sealed record OtherWay(string What, CharacteristicResult Row, bool Changes);

/// <summary>The same before it is judged: a change of limits only judges again.</summary>
public sealed record OtherValue(string What, CharacteristicValue Value);

/// <summary>All that was found of one characteristic in other ways.</summary>
public sealed record OtherValues(IReadOnlyList<OtherValue> Ways);

/// <summary>
/// How firm a verdict is: the number again by the other criteria, with half and twice the edge margin, with and without the filter, with
/// the straight and the extracted axis, in the plan's other alignments. A verdict that another reasonable way would change rests on a
/// choice. Rows share what they measure otherwise, as they share datums. Safe for concurrent use.
/// </summary>
/// <param name="scanIn">The scan in an alignment of the plan, null being its own; gives null where that determines no pose.</param>
public sealed class OtherWays(InspectionPlan plan, InspectionRunner runner, Func<string?, MeasuredScan?> scanIn)
{
    /// <summary>Nesting index of the filter that is tried where the plan has none, mm (a usual one of ISO 16610-61).</summary>
    private const double UsualFilter = 2.5;

    private readonly ConcurrentDictionary<string, Lazy<Held?>> _held = new();

    /// <summary>The plan under one of its alignments, with what it measures there.</summary>
    private sealed record Held(InspectionPlan Plan, MeasuredScan Scan, EvaluationContext Context);

    /// <summary>What other ways make of a verdict.</summary>
    public static Firmness FirmnessOf(CharacteristicResult said, OtherValues found, InspectionPlan plan) => new(
        found.Ways.Count,
        [
            .. Judged(said, found, plan).Where(w => w.Changes)
                .Select(w => new OtherVerdict(w.What, w.Row.Measured, w.Row.Uncertainty, w.Row.Verdict)),
        ]);

    /// <summary>Judges what was found in other ways by a row's own limits.</summary>
    public static IReadOnlyList<OtherWay> Judged(CharacteristicResult said, OtherValues found, InspectionPlan plan) =>
    [
        .. found.Ways.Select(w =>
        {
            var row = Evaluation.Judge(said.Plan, w.Value, plan.Decision, plan.Device, plan.Temperature);
            return new OtherWay(w.What, row, row.Measured is not null && row.Verdict != said.Verdict);
        }),
    ];

    /// <summary>One characteristic in every other way, judged.</summary>
    /// <param name="no">Of the characteristic.</param>
    /// <exception cref="BadInputException">The plan has no such characteristic, or the piece no pose in its alignment.</exception>
    public IReadOnlyList<OtherWay> Of(int no, CancellationToken cancel = default)
    {
        var (row, held) = Asked(no);
        var said = Evaluation.Judge(
            row, Evaluation.Measure(row.By(plan.Standard), held.Context), plan.Decision, plan.Device, plan.Temperature);
        return Judged(said, ValuesOf(no, cancel), plan);
    }

    /// <summary>The same before it is judged.</summary>
    /// <exception cref="BadInputException">As there.</exception>
    public OtherValues ValuesOf(int no, CancellationToken cancel = default)
    {
        var (row, held) = Asked(no);
        var asked = held.Plan.Characteristics.First(c => c.No == no);

        // What is asked otherwise of the row itself rests on the same features.
        (string What, CharacteristicPlan Row, EvaluationContext Context)[] ways =
        [
            .. Measured(held, asked).Select(w => (w.What, asked, Measuring(w.Plan, held))),
            .. Rows(asked.By(plan.Standard)).Select(w => (w.What, w.Row, held.Context)),
            .. row.Refers.Datums.Count > 0
                ? []
                : plan.Alignments.Select(a => (string?)a.Name).Prepend(null).Where(name => name != row.Alignment)
                    .Select(name => (Name: name, Held: In(name))).Where(other => other.Held is not null)
                    .Select(other => (other.Name is null ? "in the plan's own alignment" : $"in alignment '{other.Name}'", asked,
                        other.Held!.Context)),
        ];
        return new([
            .. ways.AsParallel().AsOrdered().WithCancellation(cancel)
                .Select(w => new OtherValue(w.What, Evaluation.Measure(w.Row.By(plan.Standard), w.Context))),
        ]);
    }

    private (CharacteristicPlan Row, Held Held) Asked(int no)
    {
        var row = plan.Characteristics.FirstOrDefault(c => c.No == no)
            ?? throw new BadInputException($"no: the plan has no characteristic {no}.");
        return (row, In(row.Alignment) ?? throw new BadInputException($"The piece has no pose in the alignment of characteristic {no}."));
    }

    private Held? In(string? alignment) => _held.GetOrAdd(alignment ?? "", _ => new(() =>
    {
        var under = plan.Under(alignment);
        return scanIn(alignment) is { } scan ? new(under, scan, runner.EvaluationOf(under, scan)) : null;
    })).Value;

    private static EvaluationContext Measuring(InspectionPlan changed, Held held)
    {
        var (features, whole) = (new PlanFeatures(changed, held.Scan), new PlanFeatures(changed, held.Scan, leaveOut: false));
        return held.Context.Measuring(id => features[id], id => whole[id]);
    }

    /// <summary>Its features and datums measured otherwise.</summary>
    private IEnumerable<(string What, InspectionPlan Plan)> Measured(Held held, CharacteristicPlan row)
    {
        var (plan, context) = (held.Plan, held.Context);
        var toleranced = Surfaces(plan, row.Refers.Features);
        var datums = Surfaces(plan, row.Refers.Datums.SelectMany(l => plan.Datums.First(d => d.Label == l).Features)).Except(toleranced)
            .ToList();
        foreach (var (what, features) in new[] { ("feature", toleranced), ("datum", datums) })
        {
            foreach (var criterion in features.SelectMany(Criteria).Distinct())
            {
                var changed = features.Where(f => f.Criterion != criterion && Criteria(f).Contains(criterion)).ToList();
                if (changed.Count > 0)
                {
                    yield return ($"{what}s by {Words.Of(criterion)}", With(plan, changed, f => f with { Criterion = criterion }));
                }
            }
        }

        if (toleranced.Count > 0)
        {
            double Margin(FeaturePlan f)
            {
                try
                {
                    return context.Feature(f.Id).EdgeMargin;
                }
                catch (BadInputException)
                {
                    return 0;
                }
            }

            foreach (var (what, times) in new[] { ("half", 0.5), ("twice", 2.0) })
            {
                var changed = toleranced.Where(f => Margin(f) > 0).ToList();
                if (changed.Count > 0)
                {
                    yield return (Invariant($"{what} the edge margin ({times * Margin(changed[0]):0.##} mm)"),
                        With(plan, changed, f => f with { EdgeMargin = times * Margin(f) }));
                }
            }
        }
    }

    /// <summary>What may be asked otherwise of the row itself.</summary>
    private static IEnumerable<(string What, CharacteristicPlan Row)> Rows(CharacteristicPlan row)
    {
        switch (row)
        {
            case FormPlan { Filter: null } f:
                yield return (Invariant($"with a Gaussian filter of {UsualFilter} mm"), f with { Filter = UsualFilter });
                break;
            case FormPlan f:
                yield return ("without the filter", f with { Filter = null });
                break;
            case OrientationPlan { Filter: { } } o:
                yield return ("without the filter", o with { Filter = null });
                break;
        }

        switch (row)
        {
            case AxisPlan { ProjectedBy: null } axis:
                yield return (axis.StraightAxis == true ? "extracted median line (ISO 1101)" : "straight axis (ASME Y14.5)",
                    axis with { StraightAxis = axis.StraightAxis != true });
                break;
            case DiameterPlan d:
                foreach (var size in Enum.GetValues<SizeKind>().Where(s => s != (d.Size ?? SizeKind.Global)))
                {
                    yield return (size switch
                    {
                        SizeKind.TwoPoint => "two-point sizes (LP)",
                        SizeKind.Envelope => "envelope requirement (E)",
                        _ => "global size",
                    }, d with { Size = size });
                }

                break;
            case WidthPlan { Features.Length: 2 } w:
                yield return (w.GlobalSize ? "two-point sizes (LP)" : "global size (GG)", w with { GlobalSize = !w.GlobalSize });
                break;
        }
    }

    private static InspectionPlan With(InspectionPlan plan, IReadOnlyList<FeaturePlan> changed, Func<FeaturePlan, FeaturePlan> to) =>
        plan with { Features = [.. plan.Features.Select(f => changed.Any(c => c.Id == f.Id) ? to(f) : f)] };

    /// <summary>Features measured on faces, those that constructions rest on too.</summary>
    private static List<FeaturePlan> Surfaces(InspectionPlan plan, IEnumerable<string> ids) =>
        [.. plan.MeasuredFor(ids).Where(f => f.EdgeOf is null && f.Region is null)];

    /// <summary>The criteria that make sense of a feature.</summary>
    private IReadOnlyList<Criterion> Criteria(FeaturePlan f) => runner.Nominal.Face(f.Faces[0]) switch
    {
        { Shape: Plane3D } => [Criterion.LeastSquares, Criterion.MinimumZone, Criterion.OuterTangent],
        { Shape: Cylinder3D or Sphere3D, Internal: true } => [Criterion.LeastSquares, Criterion.MinimumZone, Criterion.MaximumInscribed],
        { Shape: Cylinder3D or Sphere3D } => [Criterion.LeastSquares, Criterion.MinimumZone, Criterion.MinimumCircumscribed],
        _ => [Criterion.LeastSquares],
    };
}
