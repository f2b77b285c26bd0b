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

    internal override object? RestsOn(InspectionPlan plan)
    {
        var features = plan.Features.ToDictionary(f => f.Id);
        var datums = plan.Datums.ToDictionary(d => d.Label);
        return Datums.Select(l =>
            new
            {
                label = l,
                features = datums[l].Features.Select(f => features[f]),
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
        var features = task.Plan.Features.ToDictionary(f => f.Id);
        var datums = task.Plan.Datums.ToDictionary(d => d.Label);
        var found = DatumAlignment.Solve(
            [.. Datums.Select(label =>
                DatumSystem.AlignmentDatumOf(new(label,
                    [.. datums[label].Features.Select(f => FeatureExtraction.Measure(features[f], aligned, task.Nominal))])))],
            RigidTransform.Identity);
        return task.Stepped(found with { Transform = found.Transform.After(first.Transform) });
    }
}
