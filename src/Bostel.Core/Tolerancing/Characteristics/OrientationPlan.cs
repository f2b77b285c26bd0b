using System.Text.Json.Serialization;
using Bostel.Core.Features;

namespace Bostel.Core.Tolerancing;

/// <summary>A tolerance of orientation to datums.</summary>
public abstract record OrientationPlan(int No, string Name) : AxisPlan(No, Name)
{
    /// <summary>Nesting index (mm) of the areal Gaussian filter applied before; null: none.</summary>
    public double? Filter { get; init; }

    /// <summary>Of a plane: the tangent plane outside the material is judged, not the surface itself (T; ISO 25378, ASME Y14.5).</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool TangentPlane { get; init; }

    internal override IEnumerable<string> Faults()
    {
        if (TangentPlane && Filter is not null)
        {
            yield return "tangentPlane: a tangent plane has no filter.";
        }

        foreach (var fault in base.Faults())
        {
            yield return fault;
        }
    }

    private protected Evaluated Judged(Judging of, EvaluationContext context) => TangentPlane
        ? Orientation.OfTangentPlane(context.Tangent(Feature(0, context)), System(context))
        : WithMaterial(of(Feature(0, context), System(context), Filter, Straight, ProjectedBy), context);

    private protected delegate Evaluated Judging(
        FeatureResult feature, DatumSystem system, double? filter, bool straight, double? projectedBy);
}

/// <summary>Parallelism of a plane or axis.</summary>
public sealed record ParallelismPlan(int No, string Name) : OrientationPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) =>
        Judged(Orientation.Parallelism, context);
}

/// <summary>Perpendicularity of a plane or axis.</summary>
public sealed record PerpendicularityPlan(int No, string Name) : OrientationPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) =>
        Judged(Orientation.Perpendicularity, context);
}

/// <summary>Angularity of a plane or axis, at the nominal's angle.</summary>
public sealed record AngularityPlan(int No, string Name) : OrientationPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) =>
        Judged(Orientation.Angularity, context);
}
