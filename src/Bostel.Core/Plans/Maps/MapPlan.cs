using System.Text.Json.Serialization;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Plans;

/// <summary>
/// A map beside that of the deviation, made of every piece in the alignment of the plan's comparison. The kinds are a closed set; those
/// that tell one sort of thing share a file beside this one. Lengths in mm, nominal coordinates.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(FromNominalMap), "from-nominal")]
[JsonDerivedType(typeof(AlongDirectionMap), "along-direction")]
[JsonDerivedType(typeof(RadialMap), "radial")]
[JsonDerivedType(typeof(OtherPieceMap), "other-piece")]
[JsonDerivedType(typeof(ThicknessMap), "thickness")]
[JsonDerivedType(typeof(DraftMap), "draft")]
[JsonDerivedType(typeof(CurvatureMap), "curvature")]
[JsonDerivedType(typeof(SpacingMap), "spacing")]
[JsonDerivedType(typeof(MovedMap), "moved")]
[JsonDerivedType(typeof(FeatureResidualsMap), "residuals")]
[JsonDerivedType(typeof(RemainingMap), "remaining")]
public abstract record MapPlan
{
    /// <summary>Of one plan.</summary>
    public const int Most = 20;

    private const double MostRadius = 1000;

    /// <summary>One of its own among the maps of the plan.</summary>
    public string Name { get; init; } = "";

    /// <summary>Values below it are beyond; null: none is.</summary>
    public double? Lower { get; init; }

    /// <summary>Values above it are beyond; null: none is.</summary>
    public double? Upper { get; init; }

    /// <summary>Faces of the nominal that it is made on; none: the whole part.</summary>
    public int[] Faces { get; init; } = [];

    [JsonIgnore]
    public string Kind => Kinds.NameOf(this);

    [JsonIgnore]
    public virtual string Unit => "mm";

    /// <summary>What it shows, in words, for screen, report and plan.</summary>
    public abstract string Words(InspectionPlan plan);

    /// <summary>Whether it lies on the nominal, and not on the scan.</summary>
    [JsonIgnore]
    public virtual bool OnNominal => false;

    /// <summary>Features of the plan that it names.</summary>
    internal virtual IReadOnlyList<string> NamedFeatures => [];

    /// <summary>One value a vertex of what it lies on, NaN where there is none.</summary>
    /// <exception cref="BadInputException">The scan does not have what the map needs.</exception>
    internal abstract double[] Values(MapTask task);

    /// <summary>What a reader must know of the values; null: nothing.</summary>
    internal virtual string? Remark(double noData) => null;

    /// <summary>What is wrong with its own fields, each as "field: sentence".</summary>
    private protected virtual IEnumerable<string> Faults() => [];

    /// <exception cref="BadInputException">Something of it is missing or impossible.</exception>
    internal void Check(string name)
    {
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > InspectionPlan.MostName)
        {
            throw new BadInputException($"{name}: a map has a name of at most {InspectionPlan.MostName} characters.");
        }

        if (Lower is { } l && Upper is { } u && !(l < u))
        {
            throw new BadInputException($"{name}: map '{Name}': lower must lie below upper.");
        }

        if (Faults().FirstOrDefault() is { } fault)
        {
            throw new BadInputException($"{name}: map '{Name}': {fault}");
        }
    }

    private protected static IEnumerable<string> DirectionFaults(string field, double[]? v)
    {
        if (v is not { Length: 3 } || !v.All(double.IsFinite) || !(Vector3D.FromArray(v).LengthSquared > 0))
        {
            yield return $"{field}: is three numbers, not all 0.";
        }
    }

    private protected static IEnumerable<string> LengthFaults(string field, double? mm)
    {
        if (mm is { } v && !(v is > 0 and <= MostRadius))
        {
            yield return $"{field}: must be above 0 and at most {MostRadius:0} mm.";
        }
    }

    private protected static string Numbers(double[] v) => FormattableString.Invariant($"({v[0]:0.####}, {v[1]:0.####}, {v[2]:0.####})");
}

/// <summary>What a map may rest on beside the scan itself.</summary>
/// <param name="Received">Gives the scan before preparing.</param>
/// <param name="Other">
/// Gives another piece of the part by its serial number, in the alignment of the plan's comparison; throws <see cref="BadInputException"/>
/// where there is none.
/// </param>
public sealed record BesideScan(Func<TriangleMesh> Received, Func<string, AlignedScan> Other)
{
    /// <summary>For a scan that comes alone.</summary>
    public static BesideScan Alone(TriangleMesh received) => new(
        () => received,
        serial => throw new BadInputException($"It is held against piece {serial}, which is not at hand: only the server keeps pieces."));
}

/// <summary>What a map is made from.</summary>
/// <param name="Scan">In the alignment of the plan's comparison.</param>
/// <param name="Beside">What else a map may rest on.</param>
internal sealed record MapTask(
    InspectionRunner Runner, InspectionPlan Plan, AlignedScan Scan, BesideScan Beside, IProgress<double>? Progress,
    CancellationToken Cancel)
{
    /// <summary>A usual radius to look at a surface with: three spacings level the noise of single triangles.</summary>
    public double UsualRadius => 3 * Scan.Beside.Spacing;
}
