using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>A tolerance of orientation to datums.</summary>
public abstract record OrientationPlan(int No, string Name) : GeometricalPlan(No, Name)
{
    /// <summary>Id of the toleranced feature.</summary>
    public string[] Features { get; init; } = [];

    public string[] Datums { get; init; } = [];

    /// <summary>Nesting index (mm) of the areal Gaussian filter applied before; null: none.</summary>
    public double? Filter { get; init; }

    /// <summary>An axis is the associated one, straight (ASME Y14.5), instead of the extracted median line (ISO 1101).</summary>
    public bool StraightAxis { get; init; }

    [JsonIgnore]
    public override References Refers => new(Features, Datums, []);
}

/// <summary>Parallelism of a plane or axis.</summary>
public sealed record ParallelismPlan(int No, string Name) : OrientationPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) =>
        Orientation.Parallelism(Feature(0, context), System(context), Filter, StraightAxis);
}

/// <summary>Perpendicularity of a plane or axis.</summary>
public sealed record PerpendicularityPlan(int No, string Name) : OrientationPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) =>
        Orientation.Perpendicularity(Feature(0, context), System(context), Filter, StraightAxis);
}
