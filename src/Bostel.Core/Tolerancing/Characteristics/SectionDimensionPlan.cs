using System.Text.Json.Serialization;
using Bostel.Core.Comparison;

namespace Bostel.Core.Tolerancing;

/// <summary>A dimension in a section of the plan: of one of its lines and arcs, or between two.</summary>
public abstract record SectionDimensionPlan(int No, string Name) : DimensionalPlan(No, Name)
{
    /// <summary>Name of the section.</summary>
    public string Section { get; init; } = "";

    /// <summary>Places on the nominal where its parts are: three coordinates of one, six of two in order.</summary>
    public double[] Parts { get; init; } = [];

    [JsonIgnore]
    public IReadOnlyList<double[]> Places => [.. Parts.Chunk(3)];

    [JsonIgnore]
    public override References Refers => new([], [], []) { Section = Section };

    [JsonIgnore]
    public abstract SectionMeasure Measure { get; }

    internal override IEnumerable<string> Faults()
    {
        var many = Measure is SectionMeasure.Radius or SectionMeasure.Diameter ? 1 : 2;
        if (Parts.Length != 3 * many || !Parts.All(double.IsFinite))
        {
            yield return $"{Kind} names {(many == 1 ? "one place" : "two places")} of three coordinates each as parts.";
        }

        foreach (var fault in base.Faults())
        {
            yield return fault;
        }
    }

    internal override Evaluated Evaluate(EvaluationContext context) => SectionSize.Of(this, context);
}

/// <summary>Radius of an arc of a section.</summary>
public sealed record SectionRadiusPlan(int No, string Name) : SectionDimensionPlan(No, Name)
{
    [JsonIgnore]
    public override SectionMeasure Measure => SectionMeasure.Radius;
}

/// <summary>Diameter of an arc of a section.</summary>
public sealed record SectionDiameterPlan(int No, string Name) : SectionDimensionPlan(No, Name)
{
    [JsonIgnore]
    public override SectionMeasure Measure => SectionMeasure.Diameter;
}

/// <summary>Distance in a section: of parallel lines (gap, step, thickness), of centres of arcs, or of one from the other.</summary>
public sealed record SectionDistancePlan(int No, string Name) : SectionDimensionPlan(No, Name)
{
    [JsonIgnore]
    public override SectionMeasure Measure => SectionMeasure.Distance;
}

/// <summary>From a line of a section to the far side of an arc, or over two arcs.</summary>
public sealed record SectionGreatestPlan(int No, string Name) : SectionDimensionPlan(No, Name)
{
    [JsonIgnore]
    public override SectionMeasure Measure => SectionMeasure.Greatest;
}

/// <summary>From a line of a section to the near side of an arc, or between two arcs.</summary>
public sealed record SectionLeastPlan(int No, string Name) : SectionDimensionPlan(No, Name)
{
    [JsonIgnore]
    public override SectionMeasure Measure => SectionMeasure.Least;
}

/// <summary>Angle between two lines of a section, degrees.</summary>
public sealed record SectionAnglePlan(int No, string Name) : SectionDimensionPlan(No, Name)
{
    [JsonIgnore]
    public override string Unit => "°";

    [JsonIgnore]
    public override bool IsLength => false;

    [JsonIgnore]
    public override SectionMeasure Measure => SectionMeasure.Angle;

    /// <summary>An angle and its supplement are told apart by what the drawing asks for.</summary>
    internal override CharacteristicPlan Unjudged => this with { Lower = null, Upper = null, LeastCoverage = null, General = false };
}
