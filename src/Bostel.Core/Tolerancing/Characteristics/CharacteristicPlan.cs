using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// One row of the drawing: what it refers to, its limits, how it is evaluated. Lengths in mm, angles in degrees. The kinds are a closed
/// set; each is a file of its own beside this one.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(DiameterPlan), "diameter")]
[JsonDerivedType(typeof(WidthPlan), "width")]
[JsonDerivedType(typeof(DistancePlan), "distance")]
[JsonDerivedType(typeof(AnglePlan), "angle")]
[JsonDerivedType(typeof(RadiusPlan), "radius")]
[JsonDerivedType(typeof(ConeAnglePlan), "cone-angle")]
[JsonDerivedType(typeof(StraightnessPlan), "straightness")]
[JsonDerivedType(typeof(FlatnessPlan), "flatness")]
[JsonDerivedType(typeof(RoundnessPlan), "roundness")]
[JsonDerivedType(typeof(CylindricityPlan), "cylindricity")]
[JsonDerivedType(typeof(ParallelismPlan), "parallelism")]
[JsonDerivedType(typeof(PerpendicularityPlan), "perpendicularity")]
[JsonDerivedType(typeof(AngularityPlan), "angularity")]
[JsonDerivedType(typeof(PositionPlan), "position")]
[JsonDerivedType(typeof(CoaxialityPlan), "coaxiality")]
[JsonDerivedType(typeof(SymmetryPlan), "symmetry")]
[JsonDerivedType(typeof(CircularRunOutPlan), "circular-run-out")]
[JsonDerivedType(typeof(TotalRunOutPlan), "total-run-out")]
[JsonDerivedType(typeof(LineProfilePlan), "profile-of-a-line")]
[JsonDerivedType(typeof(SurfaceProfilePlan), "profile-of-a-surface")]
[JsonDerivedType(typeof(SectionRadiusPlan), "radius-in-a-section")]
[JsonDerivedType(typeof(SectionDiameterPlan), "diameter-in-a-section")]
[JsonDerivedType(typeof(SectionDistancePlan), "distance-in-a-section")]
[JsonDerivedType(typeof(SectionGreatestPlan), "greatest-distance-in-a-section")]
[JsonDerivedType(typeof(SectionLeastPlan), "least-distance-in-a-section")]
[JsonDerivedType(typeof(SectionAnglePlan), "angle-in-a-section")]
public abstract record CharacteristicPlan(int No, string Name)
{
    /// <summary>Name of the alignment in which it is evaluated where it has no datums; null: the plan's own.</summary>
    public string? Alignment { get; init; }

    /// <summary>
    /// Least share of the toleranced faces that must be measured before conformity counts as proven; null: usual for the kind.
    /// </summary>
    public double? LeastCoverage { get; init; }

    /// <summary>It has no limits of its own: they are those of the plan's general tolerances.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool General { get; init; }

    /// <summary>The kind as plans and reports write it.</summary>
    [JsonIgnore]
    public string Kind => Kinds.NameOf(this);

    /// <summary>What of the plan and of the nominal it refers to.</summary>
    [JsonIgnore]
    public abstract References Refers { get; }

    /// <summary>Nominal value and limits; a limit that is null does not bind.</summary>
    [JsonIgnore]
    public abstract Limits Limits { get; }

    /// <summary>Unit of its numbers: "mm" or "°".</summary>
    [JsonIgnore]
    public virtual string Unit => "mm";

    /// <summary>Whether its value is a length that grows with the part's temperature.</summary>
    [JsonIgnore]
    public virtual bool IsLength => false;

    [JsonIgnore]
    public double RequiredCoverage => LeastCoverage ?? UsualCoverage;

    /// <summary>A datum is an average of its feature.</summary>
    [JsonIgnore]
    public double RequiredDatumCoverage => Math.Min(RequiredCoverage, Coverages.OfAverages);

    /// <summary>The share that must be measured where the plan does not say.</summary>
    protected abstract double UsualCoverage { get; }

    /// <summary>The same without anything that only judges the value: what its number rests on.</summary>
    internal abstract CharacteristicPlan Unjudged { get; }

    /// <summary>With what it leaves to the drawing's standard filled in.</summary>
    internal virtual CharacteristicPlan By(DrawingStandard standard) => this;

    /// <summary>What is missing or wrong, one sentence each, without regard to the rest of the plan.</summary>
    internal virtual IEnumerable<string> Faults()
    {
        if (LeastCoverage is { } least && !(least is >= 0 and <= 1))
        {
            yield return "leastCoverage is a share from 0 to 1.";
        }
    }

    /// <exception cref="BadInputException">It cannot be measured, and why.</exception>
    internal abstract Evaluated Evaluate(EvaluationContext context);

    /// <exception cref="BadInputException">The plan names too few.</exception>
    internal Features.FeatureResult Feature(int index, EvaluationContext context) => Refers.Features.Count > index
        ? context.Feature(Refers.Features[index])
        : throw new BadInputException($"Characteristic {No} names {Refers.Features.Count} features; {Kind} needs {index + 1}.");

    /// <exception cref="BadInputException">No datum is named.</exception>
    internal DatumSystem System(EvaluationContext context) => Refers.Datums.Count > 0
        ? context.System(Refers.Datums)
        : throw new BadInputException($"Characteristic {No}: {Kind} needs at least one datum.");
}

/// <summary>What a characteristic refers to: features and datums of the plan, faces of the nominal.</summary>
public sealed record References(IReadOnlyList<string> Features, IReadOnlyList<string> Datums, IReadOnlyList<int> Faces)
{
    /// <summary>Name of a section of the plan; null: it lies in none.</summary>
    public string? Section { get; init; }

    /// <summary>The letters of all datums, those of common ones each.</summary>
    public IEnumerable<string> Letters => Datums.SelectMany(DatumLetters.Of);
}

/// <summary>A common datum is written with a hyphen between its letters, as A-B (ISO 5459, 6.2.2).</summary>
public static class DatumLetters
{
    public static string[] Of(string datum) => datum.Split('-');

    public static string Common(IEnumerable<string> letters) => string.Join('-', letters);
}

/// <summary>Nominal value and limits, not deviations; mm or degrees.</summary>
public sealed record Limits(double? Nominal, double? Lower, double? Upper)
{
    /// <summary>
    /// How much of its tolerance a value uses: 0 in the middle between two limits, or where a geometrical deviation is nothing; 1 at a
    /// limit. Null where a dimension has one limit alone, or none.
    /// </summary>
    public double? Use(double value) => (Nominal, Lower, Upper) switch
    {
        (_, { } lower, { } upper) when upper > lower => Math.Abs(value - ((lower + upper) / 2)) / ((upper - lower) / 2),
        (null, null, > 0 and var upper) => value / upper,
        _ => null,
    };

    /// <summary>Decimals the tolerance calls for: one more than its leading digit, between 3 and 5.</summary>
    [JsonIgnore]
    public int Decimals
    {
        get
        {
            var width = Nominal is null ? Upper : Upper - Lower;
            return width is > 0 ? Math.Clamp((int)Math.Ceiling(-Math.Log10(width.Value)) + 1, 3, 5) : 3;
        }
    }
}

/// <summary>Shares of a surface that must be measured before conformity counts as proven.</summary>
internal static class Coverages
{
    /// <summary>Size and place are averages.</summary>
    public const double OfAverages = 0.5;

    /// <summary>Form, orientation and profile are decided by the worst place, which may be where nothing was measured.</summary>
    public const double OfExtremes = 0.8;
}
