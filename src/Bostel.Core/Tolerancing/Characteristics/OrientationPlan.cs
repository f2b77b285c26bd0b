namespace Bostel.Core.Tolerancing;

/// <summary>A tolerance of orientation to datums.</summary>
public abstract record OrientationPlan(int No, string Name) : AxisPlan(No, Name)
{
    /// <summary>Nesting index (mm) of the areal Gaussian filter applied before; null: none.</summary>
    public double? Filter { get; init; }
}

/// <summary>Parallelism of a plane or axis.</summary>
public sealed record ParallelismPlan(int No, string Name) : OrientationPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) =>
        WithMaterial(Orientation.Parallelism(Feature(0, context), System(context), Filter, StraightAxis), context);
}

/// <summary>Perpendicularity of a plane or axis.</summary>
public sealed record PerpendicularityPlan(int No, string Name) : OrientationPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) =>
        WithMaterial(Orientation.Perpendicularity(Feature(0, context), System(context), Filter, StraightAxis), context);
}

/// <summary>Angularity of a plane or axis, at the nominal's angle.</summary>
public sealed record AngularityPlan(int No, string Name) : OrientationPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) =>
        WithMaterial(Orientation.Angularity(Feature(0, context), System(context), Filter, StraightAxis), context);
}
