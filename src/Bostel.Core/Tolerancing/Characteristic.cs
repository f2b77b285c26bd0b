using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// One row of the drawing. Dimensional kinds (diameter, width, distance, angle) have a nominal and limit deviations; geometrical kinds
/// (flatness, cylindricity, parallelism, perpendicularity, position, profile-of-a-surface) have a tolerance. Angles in degrees, lengths in
/// mm.
/// </summary>
public sealed record CharacteristicPlan(int No, string Name, string Kind)
{
    public static readonly IReadOnlyList<string> Kinds =
        ["diameter", "width", "distance", "angle", "flatness", "cylindricity", "parallelism", "perpendicularity", "position",
            "profile-of-a-surface"];

    /// <summary>Ids of the toleranced features: one, or two for width, distance and angle.</summary>
    public string[] Features { get; init; } = [];

    /// <summary>Faces under a profile tolerance.</summary>
    public int[] Faces { get; init; } = [];

    public double? Nominal { get; init; }
    public double? Lower { get; init; }
    public double? Upper { get; init; }
    public double? Tolerance { get; init; }
    public string[] Datums { get; init; } = [];

    /// <summary>Nesting index (mm) of the areal Gaussian filter applied before form and orientation are evaluated; null: none.</summary>
    public double? Filter { get; init; }

    /// <summary>
    /// Motions that the datums leave free stay as the alignment has them, instead of being used to make the value of a profile or position
    /// least.
    /// </summary>
    public bool AsAligned { get; init; }

    /// <summary>
    /// A width is that between the associated planes (global size, GG), instead of the greatest and least local ones (two-point size, LP;
    /// both ISO 14405-1).
    /// </summary>
    public bool GlobalSize { get; init; }

    /// <summary>
    /// An axis is the associated one, straight (ASME Y14.5), instead of the extracted median line (ISO 1101).
    /// </summary>
    public bool StraightAxis { get; init; }

    /// <summary>
    /// Least share of the toleranced faces that must be measured before conformity counts as proven; null: usual for the kind.
    /// </summary>
    public double? LeastCoverage { get; init; }

    /// <summary>
    /// Form, orientation and profile are decided by the worst place, which may be where nothing was measured; size and place are averages.
    /// </summary>
    [JsonIgnore]
    public double RequiredCoverage => LeastCoverage ?? (IsDimensional || Kind is "position" ? 0.5 : 0.8);

    [JsonIgnore]
    public bool IsDimensional => Kind is "diameter" or "width" or "distance" or "angle";

    /// <summary>A datum is an average of its feature.</summary>
    [JsonIgnore]
    public double RequiredDatumCoverage => Math.Min(RequiredCoverage, 0.5);
}

/// <summary>
/// Where to look from to see a characteristic's evidence: a point, the direction from it to the eye, the width of what matters.
/// </summary>
public sealed record EvidenceView(double[] Target, double[] Direction, double Size);

/// <summary>A judged characteristic with how its number was obtained.</summary>
public sealed record CharacteristicResult(CharacteristicPlan Plan)
{
    public double? Nominal { get; init; }
    public double? LowerLimit { get; init; }
    public double? UpperLimit { get; init; }
    public double? Measured { get; init; }

    /// <summary>Measured minus nominal; for geometrical kinds the measured value itself.</summary>
    public double? Deviation { get; init; }

    /// <summary>By how much the value lies beyond the nearer limit; 0 inside.</summary>
    public double Beyond { get; init; }

    /// <summary>Expanded uncertainty for 95.45 %; null where it cannot be told.</summary>
    public double? Uncertainty { get; init; }

    /// <summary>What the uncertainty is made of.</summary>
    public IReadOnlyList<Contribution> Budget { get; init; } = [];

    public Verdict Verdict { get; init; } = Verdict.NotMeasured;

    /// <summary>Criterion, datums, filter in words.</summary>
    public string Method { get; init; } = "";

    /// <summary>What limits the number, or why there is none.</summary>
    public string? Remark { get; init; }

    public int Points { get; init; }
    public double Coverage { get; init; }
    public EvidenceView? View { get; init; }

    /// <summary>Unit of the numbers: "mm" or "°".</summary>
    public string Unit => Plan.Kind == "angle" ? "°" : "mm";
}
