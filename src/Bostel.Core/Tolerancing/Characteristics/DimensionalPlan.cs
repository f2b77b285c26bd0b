using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>A dimension with limit deviations (ISO 14405): diameter, width, distance or angle.</summary>
public abstract record DimensionalPlan(int No, string Name) : CharacteristicPlan(No, Name)
{
    /// <summary>The dimension as drawn, mm or degrees; null: none.</summary>
    public double? Nominal { get; init; }

    /// <summary>Lower limit deviation from the nominal, mm or degrees; null: none.</summary>
    public double? Lower { get; init; }

    /// <summary>Upper limit deviation from the nominal, mm or degrees; null: none.</summary>
    public double? Upper { get; init; }

    [JsonIgnore]
    public override Limits Limits => new(Nominal, Nominal + Lower, Nominal + Upper);

    [JsonIgnore]
    public override bool IsLength => true;

    protected override double UsualCoverage => Coverages.OfAverages;

    internal override CharacteristicPlan Unjudged =>
        this with { Nominal = null, Lower = null, Upper = null, LeastCoverage = null, General = false };

    internal override IEnumerable<string> Faults()
    {
        if (Nominal is null || (Lower is null && Upper is null && !General) || Lower > Upper)
        {
            yield return $"a {Kind} needs a nominal and limits with the lower not above the upper.";
        }

        foreach (var fault in base.Faults())
        {
            yield return fault;
        }
    }
}

/// <summary>A dimension of one feature, or between two.</summary>
public abstract record FeatureDimensionPlan(int No, string Name) : DimensionalPlan(No, Name)
{
    /// <summary>Ids of the toleranced features: one, or two in order.</summary>
    public string[] Features { get; init; } = [];

    [JsonIgnore]
    public override References Refers => new(Features, [], []);
}

/// <summary>Which size of a round feature counts (ISO 14405-1).</summary>
[JsonConverter(typeof(JsonStringEnumConverter<SizeKind>))]
public enum SizeKind
{
    /// <summary>Of the associated feature, by its criterion: GG least squares, GX inscribed, GN circumscribed.</summary>
    [JsonStringEnumMemberName("global")]
    Global,

    /// <summary>LP: distances of opposite points; the least and the greatest have to lie within the limits.</summary>
    [JsonStringEnumMemberName("two-point")]
    TwoPoint,

    /// <summary>E: the envelope at the maximum material size, two-point sizes at the other limit (Taylor's principle).</summary>
    [JsonStringEnumMemberName("envelope")]
    Envelope,
}

/// <summary>Diameter of a round feature.</summary>
public sealed record DiameterPlan(int No, string Name) : FeatureDimensionPlan(No, Name)
{
    /// <summary>Which size counts; null: as the drawing's standard has it.</summary>
    public SizeKind? Size { get; init; }

    internal override CharacteristicPlan By(DrawingStandard standard) =>
        Size is null && standard == DrawingStandard.Asme ? this with { Size = SizeKind.Envelope } : this;

    internal override Evaluated Evaluate(EvaluationContext context) => Size switch
    {
        SizeKind.TwoPoint => LocalDiameter.TwoPoint(Feature(0, context)),
        SizeKind.Envelope => LocalDiameter.Envelope(Feature(0, context)),
        _ => Tolerancing.Size.Diameter(Feature(0, context)),
    };
}

/// <summary>Radius of a round feature, also of one that goes only part of the way round.</summary>
public sealed record RadiusPlan(int No, string Name) : FeatureDimensionPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) => Size.Radius(Feature(0, context));
}

/// <summary>Angle between opposite sides of a cone, degrees (ISO 3040).</summary>
public sealed record ConeAnglePlan(int No, string Name) : FeatureDimensionPlan(No, Name)
{
    [JsonIgnore]
    public override string Unit => "°";

    [JsonIgnore]
    public override bool IsLength => false;

    internal override Evaluated Evaluate(EvaluationContext context) => Size.ConeAngle(Feature(0, context));
}

/// <summary>Size of a slot or tab: between two opposite faces, or of a slot measured as one.</summary>
public sealed record WidthPlan(int No, string Name) : FeatureDimensionPlan(No, Name)
{
    /// <summary>
    /// Between the associated planes (global size, GG), instead of the greatest and least local ones (two-point size, LP; both ISO
    /// 14405-1).
    /// </summary>
    public bool GlobalSize { get; init; }

    /// <summary>Of a slot measured as one: its length over the round ends, instead of the width.</summary>
    public bool Overall { get; init; }

    internal override Evaluated Evaluate(EvaluationContext context) => Features.Length == 1 ? Size.Slot(Feature(0, context), Overall)
        : GlobalSize ? Size.Distance(Feature(0, context), Feature(1, context))
        : TwoPointSize.Of(Feature(0, context), Feature(1, context));
}

/// <summary>Distance between two associated features.</summary>
public sealed record DistancePlan(int No, string Name) : FeatureDimensionPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) => Size.Distance(Feature(0, context), Feature(1, context));
}

/// <summary>Angle between two associated features, degrees.</summary>
public sealed record AnglePlan(int No, string Name) : FeatureDimensionPlan(No, Name)
{
    [JsonIgnore]
    public override string Unit => "°";

    [JsonIgnore]
    public override bool IsLength => false;

    /// <summary>An angle and its supplement are told apart by what the drawing asks for.</summary>
    internal override CharacteristicPlan Unjudged => this with { Lower = null, Upper = null, LeastCoverage = null, General = false };

    internal override Evaluated Evaluate(EvaluationContext context) =>
        Size.Angle(Feature(0, context), Feature(1, context), Nominal ?? 0);
}
