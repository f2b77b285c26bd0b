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
