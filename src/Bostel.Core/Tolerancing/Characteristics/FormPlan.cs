using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>A tolerance of form: of one feature, to no datum.</summary>
public abstract record FormPlan(int No, string Name) : GeometricalPlan(No, Name)
{
    /// <summary>Id of the toleranced feature.</summary>
    public string[] Features { get; init; } = [];

    /// <summary>Nesting index (mm) of the areal Gaussian filter applied before; null: none.</summary>
    public double? Filter { get; init; }

    [JsonIgnore]
    public override References Refers => new(Features, [], []);
}

/// <summary>Straightness of a cylinder's axis, or of the lines of its surface (ISO 12780-1).</summary>
public sealed record StraightnessPlan(int No, string Name) : FormPlan(No, Name)
{
    /// <summary>Of the surface's lines in planes through the axis, instead of the axis.</summary>
    public bool Lines { get; init; }

    internal override Evaluated Evaluate(EvaluationContext context) => Lines
        ? Form.StraightnessOfLines(Feature(0, context), Filter)
        : Form.StraightnessOfAxis(Feature(0, context));
}

/// <summary>Roundness of the cross-sections of a cylinder, cone or sphere (ISO 12181-1).</summary>
public sealed record RoundnessPlan(int No, string Name) : FormPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) => Form.Roundness(Feature(0, context), Filter);
}

/// <summary>Flatness of a plane (ISO 12781-1).</summary>
public sealed record FlatnessPlan(int No, string Name) : FormPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) => Form.Flatness(Feature(0, context), Filter);
}

/// <summary>Cylindricity (ISO 12180-1).</summary>
public sealed record CylindricityPlan(int No, string Name) : FormPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) => Form.Cylindricity(Feature(0, context), Filter);
}
