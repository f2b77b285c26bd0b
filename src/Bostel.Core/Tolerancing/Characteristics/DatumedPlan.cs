using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>A geometrical tolerance of features to datums.</summary>
public abstract record DatumedPlan(int No, string Name) : GeometricalPlan(No, Name)
{
    /// <summary>Ids of the toleranced features.</summary>
    public string[] Features { get; init; } = [];

    public string[] Datums { get; init; } = [];

    [JsonIgnore]
    public override References Refers => new(Features, Datums, []);
}

/// <summary>One whose axis may be the associated one, and whose tolerance may grow with the size of its feature.</summary>
public abstract record AxisPlan(int No, string Name) : DatumedPlan(No, Name)
{
    /// <summary>
    /// An axis is the associated one, straight, instead of the extracted median line; null: as the drawing's standard has it.
    /// </summary>
    public bool? StraightAxis { get; init; }

    /// <summary>
    /// The zone is projected (ISO 10578): it goes so far, mm, out of the end of the axis that lies at the first datum's plane, and the
    /// axis drawn out straight is judged there; null: over the feature itself.
    /// </summary>
    public double? ProjectedBy { get; init; }

    /// <summary>Maximum or least material requirement; null: regardless of the size.</summary>
    public MaterialRequirement? Material { get; init; }

    internal override IEnumerable<string> Faults()
    {
        if (Material is { IsPossible: false })
        {
            yield return "material: the size of the limit must be above 0 mm.";
        }

        if (ProjectedBy is { } length && !(length > 0 && double.IsFinite(length)))
        {
            yield return "projectedBy: the length of the zone must be above 0 mm.";
        }

        foreach (var fault in base.Faults())
        {
            yield return fault;
        }
    }

    internal override CharacteristicPlan By(DrawingStandard standard) =>
        StraightAxis is null && standard == DrawingStandard.Asme ? this with { StraightAxis = true } : this;

    private protected bool Straight => StraightAxis == true;

    /// <summary>The value with what the feature's size adds to the tolerance.</summary>
    private protected Evaluated WithMaterial(Evaluated value, EvaluationContext context) =>
        Material is { } material ? material.Applied(value, Feature(0, context)) : value;
}
