using System.Text.Json.Serialization;
using Bostel.Core.Alignment;
using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Plans;

/// <summary>
/// By an axis system: the one laid through measured features is brought onto the one laid through the same features of the nominal. Unlike
/// datums, the first axis takes its direction alone, and the origin is met whatever it costs elsewhere.
/// </summary>
public sealed record AxisSystemPlan : StartedPlan
{
    /// <summary>Id of the feature along whose direction the first axis lies: a plane's normal, or an axis.</summary>
    public string First { get; init; } = "";

    /// <summary>Id of the feature towards which the second axis points: its direction, or its place as seen from the origin.</summary>
    public string Second { get; init; } = "";

    /// <summary>Ids of one to three features on which the origin lies; what they leave open stays as fitted.</summary>
    public string[] Origin { get; init; } = [];

    [JsonIgnore]
    public override string Words => $"set by an axis system: first axis {First}, second towards {Second}, origin on "
        + string.Join(", ", Origin) + Aside;

    internal override IReadOnlyList<string> NamedFeatures => [First, Second, .. Origin];

    internal override string? HeldBy(Motion motion, AlignmentResult result) =>
        result.Uncertainty is { } u && !double.IsFinite(u.Covariance[7 * (int)motion]) ? null
        : motion >= Motion.ShiftX ? "the origin" : "the two axes";

    internal override object? RestsOn(InspectionPlan plan) => RestsOnFeatures(plan, NamedFeatures);

    internal override IEnumerable<string> Faults(IReadOnlySet<string> datums)
    {
        if (First.Length == 0 || Second.Length == 0 || Origin.Length is 0 or > 3)
        {
            yield return "first, second, origin: an axis system needs a feature for each axis and one to three for the origin.";
        }

        foreach (var fault in base.Faults(datums))
        {
            yield return fault;
        }
    }

    private protected override AlignmentResult From(AlignmentResult first, AlignmentTask task)
    {
        var features = task.FeaturesIn(first.Transform);
        var near = task.Nominal.Mesh.Bounds.Center;
        var (a, b, origin) = (features[First], features[Second], Origin.Select(id => features[id]).ToList());
        RigidTransform System(Func<FeatureResult, Shape> of) =>
            AxisSystem.Through(of(a), "z", of(b), "x", [.. origin.Select(of)], near);
        var back = System(f => f.Nominal.Shape!).Inverse();
        var pose = back.After(System(f => f.Shape));
        FeatureResult[] all = [.. new[] { a, b }.Concat(origin).Distinct()];
        var errors = all.SelectMany(f => f.Variations).DistinctBy(v => (v.Source, v.Index)).Select(v =>
            SmallMotion.Of(back.After(System(f => f.Varied(v.Source, v.Index))).After(pose.Inverse()), near));
        return task.Assess(pose.After(first.Transform)) with
        {
            Steps = [.. all.Select(f => new AlignmentStep(f.Plan.Name, 0, 0, Left(f, pose), ""))],
            Uncertainty = PoseUncertainty.Of(
                errors, near, AxisSystem.FreeShifts([.. origin.Select(f => f.Nominal.Shape!)]), all.Min(f => f.EffectivePoints)),
        };
    }

    /// <summary>How far a feature lies from its nominal place afterwards, mm.</summary>
    private static double Left(FeatureResult f, RigidTransform pose)
    {
        var place = f.Shape.Transformed(pose);
        var at = f.Nominal.Center;
        return Vector3D.Distance(ErrorColumns.On(place, at), ErrorColumns.On(f.Nominal.Shape!, at));
    }
}
