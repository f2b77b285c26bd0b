using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>Position of an axis, centre or plane to datums (ISO 5458).</summary>
public sealed record PositionPlan(int No, string Name) : GeometricalPlan(No, Name)
{
    /// <summary>Id of the toleranced feature.</summary>
    public string[] Features { get; init; } = [];

    public string[] Datums { get; init; } = [];

    /// <summary>An axis is the associated one, straight (ASME Y14.5), instead of the extracted median line (ISO 1101).</summary>
    public bool StraightAxis { get; init; }

    /// <summary>
    /// Motions that the datums leave free stay as the alignment has them, instead of being used to make the value least.
    /// </summary>
    public bool AsAligned { get; init; }

    [JsonIgnore]
    public override References Refers => new(Features, Datums, []);

    protected override double UsualCoverage => Coverages.OfAverages;

    internal override Evaluated Evaluate(EvaluationContext context) =>
        Location.Position(Feature(0, context), System(context), StraightAxis, AsAligned);
}
