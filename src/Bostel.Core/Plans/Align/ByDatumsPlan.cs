using System.Text.Json.Serialization;
using Bostel.Core.Alignment;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>By datums of the plan, in order (ISO 5459).</summary>
public sealed record ByDatumsPlan : StartedPlan
{
    public string[] Datums { get; init; } = [];

    [JsonIgnore]
    public override string Words => $"set from datums {string.Join(" | ", Datums)}" + Aside;

    internal override string? HeldBy(Motion motion, AlignmentResult result) =>
        result.Steps.FirstOrDefault(s => s.Takes.Contains(motion)) is { } step ? $"datum {step.Name}" : null;

    internal override object? RestsOn(InspectionPlan plan)
    {
        var datums = plan.Datums.ToDictionary(d => d.Label);
        return Datums.Select(l => new { label = l, of = RestsOnFeatures(plan, datums[l].Features) });
    }

    internal override IEnumerable<string> Faults(IReadOnlySet<string> datums)
    {
        if (Datums.Length == 0)
        {
            yield return "datums: at least one datum is needed.";
        }

        if (Datums.FirstOrDefault(d => !datums.Contains(d)) is { } missing)
        {
            yield return $"datums: '{missing}' is not a datum of the plan.";
        }

        foreach (var fault in base.Faults(datums))
        {
            yield return fault;
        }
    }

    /// <summary>The datum features are measured in the pose found first, by the criteria the plan gives them.</summary>
    private protected override AlignmentResult From(AlignmentResult first, AlignmentTask task)
    {
        var features = task.FeaturesIn(first.Transform);
        var datums = task.Plan.Datums.ToDictionary(d => d.Label);
        var system = DatumSystem.Build(
            [.. Datums.Select(label => new Datum(label, [.. datums[label].Features.Select(f => features[f])]))]);
        var free = Enum.GetValues<Motion>().Except(system.Pose.Steps.SelectMany(s => s.Takes));
        return task.Stepped(system.Pose with { Transform = system.Transform.After(first.Transform) }) with
        {
            Uncertainty = PoseUncertainty.Of(system.Errors.Select(e => e.Motion), task.Nominal.Mesh.Bounds.Center, free,
                system.Features.Min(f => f.EffectivePoints)),
        };
    }
}
