using System.Text.Json.Serialization;

namespace Bostel.Core.Nominals;

/// <summary>What a drawing tolerates or dimensions (ISO 1101, ISO 14405): the closed set that nominals and tables speak of.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<DrawingKind>))]
public enum DrawingKind
{
    [JsonStringEnumMemberName("other")]
    Other,
    [JsonStringEnumMemberName("diameter")]
    Diameter,
    [JsonStringEnumMemberName("radius")]
    Radius,
    [JsonStringEnumMemberName("distance")]
    Distance,
    [JsonStringEnumMemberName("angle")]
    Angle,
    [JsonStringEnumMemberName("straightness")]
    Straightness,
    [JsonStringEnumMemberName("flatness")]
    Flatness,
    [JsonStringEnumMemberName("roundness")]
    Roundness,
    [JsonStringEnumMemberName("cylindricity")]
    Cylindricity,
    [JsonStringEnumMemberName("parallelism")]
    Parallelism,
    [JsonStringEnumMemberName("perpendicularity")]
    Perpendicularity,
    [JsonStringEnumMemberName("angularity")]
    Angularity,
    [JsonStringEnumMemberName("position")]
    Position,
    [JsonStringEnumMemberName("coaxiality")]
    Coaxiality,
    [JsonStringEnumMemberName("concentricity")]
    Concentricity,
    [JsonStringEnumMemberName("symmetry")]
    Symmetry,
    [JsonStringEnumMemberName("circularRunOut")]
    CircularRunOut,
    [JsonStringEnumMemberName("totalRunOut")]
    TotalRunOut,
    [JsonStringEnumMemberName("profileOfLine")]
    ProfileOfLine,
    [JsonStringEnumMemberName("profileOfSurface")]
    ProfileOfSurface,
}

public static class DrawingKindWords
{
    /// <summary>As names and messages say it.</summary>
    public static string InWords(this DrawingKind kind) => kind switch
    {
        DrawingKind.CircularRunOut => "run-out",
        DrawingKind.TotalRunOut => "total run-out",
        DrawingKind.ProfileOfLine => "profile of a line",
        DrawingKind.ProfileOfSurface => "profile",
        _ => kind.ToString().ToLowerInvariant(),
    };
}

/// <summary>Which limit of size a tolerance refers to (ISO 2692; ASME Y14.5, 3.3).</summary>
[JsonConverter(typeof(JsonStringEnumConverter<MaterialLimit>))]
public enum MaterialLimit
{
    /// <summary>Ⓜ: of most material, the smallest hole or the largest shaft.</summary>
    [JsonStringEnumMemberName("maximum")]
    Maximum,

    /// <summary>Ⓛ: of least material, the largest hole or the smallest shaft.</summary>
    [JsonStringEnumMemberName("least")]
    Least,
}

/// <summary>A datum and the faces that make it.</summary>
/// <param name="Target">Whether these are targets, and not a whole feature.</param>
public sealed record InformationDatum(string Label, int[] Faces, bool Target);

/// <summary>A datum as a tolerance names it.</summary>
/// <param name="Position">Its place in the system, from 1; those of one place are common.</param>
public sealed record DatumReference(string Label, MaterialLimit? Material, int Position);

/// <summary>A dimension of some faces, or between some and others.</summary>
/// <param name="Value">Nominal, mm or degrees.</param>
/// <param name="Upper">Upper deviation; null with the lower one: none is given.</param>
/// <param name="Fit">Tolerance class of ISO 286 where that is given instead, as "H7".</param>
public sealed record InformationDimension(
    DrawingKind Kind, double Value, double? Upper, double? Lower, string? Fit, int[] Faces, int[] Others);

/// <summary>A geometrical tolerance.</summary>
/// <param name="Value">Width or diameter of the zone, mm.</param>
/// <param name="Modifiers">What it says beyond this record, in words.</param>
public sealed record InformationTolerance(
    DrawingKind Kind, double Value, bool Diametral, MaterialLimit? Material, string[] Modifiers, DatumReference[] Datums, int[] Faces);

/// <summary>Product information of a nominal (ISO 10303-242): what its drawing would say of its faces.</summary>
public sealed record ProductInformation(
    IReadOnlyList<InformationDatum> Datums, IReadOnlyList<InformationDimension> Dimensions,
    IReadOnlyList<InformationTolerance> Tolerances)
{
    public static readonly ProductInformation None = new([], [], []);

    [JsonIgnore]
    public bool IsEmpty => Datums.Count + Dimensions.Count + Tolerances.Count == 0;
}
