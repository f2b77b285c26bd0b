using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>A number found in another way than the plan's.</summary>
/// <param name="What">The other way, in words.</param>
/// <param name="Row">Judged by the same limits and rule.</param>
/// <param name="Changes">Whether the verdict is another.</param>
public sealed record OtherWay(string What, CharacteristicResult Row, bool Changes);

/// <summary>
/// How firm a verdict is: the number again by the other criteria, with half and twice the edge margin, with and without the filter, with
/// the straight and the extracted axis, in the plan's other alignments. A verdict that another reasonable way would change rests on a
/// choice.
/// </summary>
public static class OtherWays
{
    /// <summary>Nesting index of the filter that is tried where the plan has none, mm (a usual one of ISO 16610-61).</summary>
    private const double UsualFilter = 2.5;

    /// <param name="no">Of the characteristic.</param>
    /// <param name="scanIn">The scan in an alignment of the plan, null being its own; gives null where that determines no pose.</param>
    /// <exception cref="BadInputException">The plan has no such characteristic, or the piece no pose in its alignment.</exception>
    public static IReadOnlyList<OtherWay> Of(
        InspectionPlan plan, int no, InspectionRunner runner, Func<string?, AlignedScan?> scanIn, CancellationToken cancel = default)
    {
        var row = plan.Characteristics.FirstOrDefault(c => c.No == no)
            ?? throw new BadInputException($"no: the plan has no characteristic {no}.");
        var scan = scanIn(row.Alignment)
            ?? throw new BadInputException($"The piece has no pose in the alignment of characteristic {no}.");
        var own = plan.Under(row.Alignment);
        var asked = own.Characteristics.First(c => c.No == no);

        // What is asked otherwise of the row itself rests on the same features.
        var context = ContextOf(own, scan, runner);
        var said = Judged(plan, asked, context);
        var ways = Rows(asked.By(plan.Standard))
            .Select(w => (w.What, Row: new Func<CharacteristicResult>(() => Judged(plan, w.Row, context)))).ToList();
        ways.InsertRange(0, Measured(own, asked, context, runner).Select(w =>
            (w.What, new Func<CharacteristicResult>(() => Judged(plan, asked, ContextOf(w.Plan, scan, runner))))));
        if (row.Refers.Datums.Count == 0)
        {
            foreach (var name in plan.Alignments.Select(a => (string?)a.Name).Prepend(null).Where(n => n != row.Alignment))
            {
                if (scanIn(name) is { } elsewhere)
                {
                    ways.Add((name is null ? "in the plan's own alignment" : $"in alignment '{name}'",
                        () => Judged(plan, asked, ContextOf(plan.Under(name), elsewhere, runner))));
                }
            }
        }

        return [.. ways.AsParallel().AsOrdered().WithCancellation(cancel).Select(w =>
        {
            var found = w.Row();
            return new OtherWay(w.What, found, found.Verdict != said.Verdict);
        })];
    }

    private static EvaluationContext ContextOf(InspectionPlan plan, AlignedScan scan, InspectionRunner runner) =>
        runner.EvaluationOf(plan, scan, runner.FeaturesOf(plan, () => scan));

    private static CharacteristicResult Judged(InspectionPlan plan, CharacteristicPlan row, EvaluationContext context) =>
        Evaluation.Judge(row, Evaluation.Measure(row.By(plan.Standard), context), plan.Decision, plan.Device, plan.Temperature);

    /// <summary>Its features and datums measured otherwise.</summary>
    private static IEnumerable<(string What, InspectionPlan Plan)> Measured(
        InspectionPlan plan, CharacteristicPlan row, EvaluationContext context, InspectionRunner runner)
    {
        var toleranced = Surfaces(plan, row.Refers.Features);
        var datums = Surfaces(plan, row.Refers.Datums.SelectMany(l => plan.Datums.First(d => d.Label == l).Features)).Except(toleranced)
            .ToList();
        foreach (var (what, features) in new[] { ("feature", toleranced), ("datum", datums) })
        {
            foreach (var criterion in features.SelectMany(f => Criteria(f, runner)).Distinct())
            {
                var changed = features.Where(f => f.Criterion != criterion && Criteria(f, runner).Contains(criterion)).ToList();
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
    private static List<FeaturePlan> Surfaces(InspectionPlan plan, IEnumerable<string> ids)
    {
        IEnumerable<string> Measured(string id) => plan.Constructions.FirstOrDefault(c => c.Id == id) is { } made
            ? made.From.SelectMany(Measured)
            : [id];
        var all = ids.SelectMany(Measured).ToHashSet();
        return [.. plan.Features.Where(f => all.Contains(f.Id) && f.EdgeOf is null && f.Region is null)];
    }

    /// <summary>The criteria that make sense of a feature.</summary>
    private static IReadOnlyList<Criterion> Criteria(FeaturePlan f, InspectionRunner runner) => runner.Nominal.Face(f.Faces[0]) switch
    {
        { Shape: Plane3D } => [Criterion.LeastSquares, Criterion.MinimumZone, Criterion.OuterTangent],
        { Shape: Cylinder3D or Sphere3D, Internal: true } => [Criterion.LeastSquares, Criterion.MinimumZone, Criterion.MaximumInscribed],
        { Shape: Cylinder3D or Sphere3D } => [Criterion.LeastSquares, Criterion.MinimumZone, Criterion.MinimumCircumscribed],
        _ => [Criterion.LeastSquares],
    };
}
