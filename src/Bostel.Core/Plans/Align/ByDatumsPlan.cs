using System.Text.Json.Serialization;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
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
        var features = plan.Features.ToDictionary(f => f.Id);
        var constructions = plan.Constructions.ToDictionary(c => c.Id);
        var datums = plan.Datums.ToDictionary(d => d.Label);
        IEnumerable<ConstructionPlan> Made(string id) => constructions.TryGetValue(id, out var c) ? c.From.SelectMany(Made).Append(c) : [];
        IEnumerable<FeaturePlan> Measured(string id) =>
            constructions.TryGetValue(id, out var c) ? c.From.SelectMany(Measured) : [features[id]];
        return Datums.Select(l =>
            new
            {
                label = l,
                features = datums[l].Features.SelectMany(Measured),
                constructions = datums[l].Features.SelectMany(Made).ToArray() is { Length: > 0 } made ? made : null,
                plan.Compare.MaxDistance,
                plan.Compare.MaxAngleDegrees,
            });
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
        var map = Deviation.Compute(task.Scan, first.Transform, task.Nominal, task.Target.Tree, task.Options, null, task.Cancel);
        var aligned = new AlignedScan(task.Scan, first.Transform, map);
        var features = new PlanFeatures(task.Plan, task.Nominal, () => aligned);
        var datums = task.Plan.Datums.ToDictionary(d => d.Label);
        var found = DatumAlignment.Solve(
            [.. Datums.Select(label =>
                DatumSystem.AlignmentDatumOf(new(label,
                    [.. datums[label].Features.Select(f => features[f])])))],
            RigidTransform.Identity);
        return task.Stepped(found with { Transform = found.Transform.After(first.Transform) });
    }
}
