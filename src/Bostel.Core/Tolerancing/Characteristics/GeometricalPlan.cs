using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>A geometrical tolerance (ISO 1101): the width or diameter of a zone, mm.</summary>
public abstract record GeometricalPlan(int No, string Name) : CharacteristicPlan(No, Name)
{
    /// <summary>Width or diameter of the zone, mm; null: none.</summary>
    public double? Tolerance { get; init; }

    [JsonIgnore]
    public override Limits Limits => new(null, null, Tolerance);

    protected override double UsualCoverage => Coverages.OfExtremes;

    internal override CharacteristicPlan Unjudged => this with { Tolerance = null, LeastCoverage = null, General = false };

    internal override IEnumerable<string> Faults()
    {
        if (!(Tolerance > 0) && !(General && Tolerance is null))
        {
            yield return $"{Kind} needs a tolerance above 0.";
        }

        foreach (var fault in base.Faults())
        {
            yield return fault;
        }
    }
}
