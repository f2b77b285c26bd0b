namespace Bostel.Core.Plans;

/// <summary>The several alignments of a plan.</summary>
public static class PlanAlignments
{
    public const int MostAlignments = 12;

    /// <summary>
    /// The plan as it is under one of its alignments alone: what stands in another one stands in this one, too. Its outcomes are therefore
    /// those of a plan that never had another.
    /// </summary>
    /// <param name="name">Null: under its own.</param>
    /// <exception cref="BadInputException">The plan has no alignment of that name.</exception>
    public static InspectionPlan Under(this InspectionPlan plan, string? name) => plan with
    {
        Align = plan.AlignOf(name),
        Alignments = [],
        Compare = plan.Compare with { Alignment = null },
        Features = [.. plan.Features.Select(f => f with { Alignment = null })],
        Constructions = [.. plan.Constructions.Select(c => c with { Alignment = null })],
        Characteristics = [.. plan.Characteristics.Select(c => c with { Alignment = null })],
    };

    /// <summary>How the part is held under one of its alignments.</summary>
    /// <param name="name">Null: its own.</param>
    /// <exception cref="BadInputException">The plan has no alignment of that name.</exception>
    public static AlignPlan AlignOf(this InspectionPlan plan, string? name) => name is null
        ? plan.Align
        : plan.Alignments.FirstOrDefault(a => a.Name == name)?.Align
            ?? throw new BadInputException($"alignment: the plan has no alignment '{name}'.");

    /// <summary>The plan with another way of holding the part under one of its alignments.</summary>
    /// <param name="name">Null: its own.</param>
    /// <exception cref="BadInputException">The plan has no alignment of that name.</exception>
    public static InspectionPlan Held(this InspectionPlan plan, string? name, AlignPlan align)
    {
        _ = plan.AlignOf(name);
        return name is null
            ? plan with { Align = align }
            : plan with { Alignments = [.. plan.Alignments.Select(a => a.Name == name ? a with { Align = align } : a)] };
    }

    /// <summary>Name of the alignment in which a feature stands; null: the plan's own.</summary>
    public static string? AlignmentOf(this InspectionPlan plan, string feature) =>
        plan.Features.FirstOrDefault(f => f.Id == feature)?.Alignment ?? plan.Constructions.FirstOrDefault(c => c.Id == feature)?.Alignment;

    /// <summary>What is wrong with the alignments beside the plan's own, and with what names them.</summary>
    internal static IEnumerable<string> Faults(InspectionPlan plan, IReadOnlySet<string> datums)
    {
        if (plan.Alignments.Count > MostAlignments)
        {
            yield return $"alignments: at most {MostAlignments}.";
        }

        foreach (var named in plan.Alignments)
        {
            if (string.IsNullOrWhiteSpace(named.Name) || named.Name.Length > InspectionPlan.MostName)
            {
                yield return $"alignments: a name has 1 to {InspectionPlan.MostName} characters.";
            }

            foreach (var fault in named.Align.Faults(datums))
            {
                yield return $"alignment '{named.Name}': {fault}";
            }
        }

        var names = plan.Alignments.Select(a => a.Name).ToHashSet();
        IEnumerable<(string Who, string? Alignment)> users =
        [
            ("compare", plan.Compare.Alignment),
            .. plan.Features.Select(f => ($"feature '{f.Name}'", f.Alignment)),
            .. plan.Constructions.Select(c => ($"construction '{c.Name}'", c.Alignment)),
            .. plan.Characteristics.Select(c => ($"characteristic {c.No}", c.Alignment)),
        ];
        foreach (var (who, alignment) in users)
        {
            if (alignment is not null && !names.Contains(alignment))
            {
                yield return $"{who} stands in alignment '{alignment}', which the plan does not have.";
            }
        }

        if (plan.Characteristics.FirstOrDefault(c => c.Alignment is not null && c.Refers.Datums.Count > 0) is { } both)
        {
            yield return $"characteristic {both.No} stands in the system of its datums, not in an alignment.";
        }
    }
}
