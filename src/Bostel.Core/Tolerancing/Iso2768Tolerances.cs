using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>Classes of ISO 2768-1 for linear and angular dimensions.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<LinearClass>))]
public enum LinearClass
{
    [JsonStringEnumMemberName("f")]
    Fine,

    [JsonStringEnumMemberName("m")]
    Medium,

    [JsonStringEnumMemberName("c")]
    Coarse,

    [JsonStringEnumMemberName("v")]
    VeryCoarse,
}

/// <summary>Classes of ISO 2768-2 for form, orientation, symmetry and run-out.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<GeometricalClass>))]
public enum GeometricalClass
{
    [JsonStringEnumMemberName("H")]
    H,

    [JsonStringEnumMemberName("K")]
    K,

    [JsonStringEnumMemberName("L")]
    L,
}

/// <summary>ISO 2768-1:1989 and, where a class of it is named, ISO 2768-2:1989.</summary>
/// <param name="Geometry">Null: sizes and angles alone.</param>
public sealed record Iso2768Tolerances(LinearClass Sizes = LinearClass.Medium, GeometricalClass? Geometry = null)
    : GeneralTolerances
{
    /// <summary>Limit deviations up to a length, by class from f to v; mm (ISO 2768-1, table 1).</summary>
    private static readonly (double UpTo, double?[] Values)[] Linear =
    [
        (3, [0.05, 0.1, 0.2, null]), (6, [0.05, 0.1, 0.3, 0.5]), (30, [0.1, 0.2, 0.5, 1]), (120, [0.15, 0.3, 0.8, 1.5]),
        (400, [0.2, 0.5, 1.2, 2.5]), (1000, [0.3, 0.8, 2, 4]), (2000, [0.5, 1.2, 3, 6]), (4000, [null, 2, 4, 8]),
    ];

    /// <summary>Of broken edges: external radii (ISO 2768-1, table 2).</summary>
    private static readonly (double UpTo, double?[] Values)[] Broken =
        [(3, [0.2, 0.2, 0.4, 0.4]), (6, [0.5, 0.5, 1, 1]), (double.PositiveInfinity, [1, 1, 2, 2])];

    /// <summary>Degrees, by the length of the shorter side (ISO 2768-1, table 3).</summary>
    private static readonly (double UpTo, double?[] Values)[] Angular =
    [
        (10, [1, 1, 1.5, 3]), (50, [0.5, 0.5, 1, 2]), (120, [1 / 3.0, 1 / 3.0, 0.5, 1]), (400, [1 / 6.0, 1 / 6.0, 0.25, 0.5]),
        (double.PositiveInfinity, [1 / 12.0, 1 / 12.0, 1 / 6.0, 1 / 3.0]),
    ];

    /// <summary>Straightness and flatness, by class from H to L (ISO 2768-2, table 1).</summary>
    private static readonly (double UpTo, double?[] Values)[] Flat =
    [
        (10, [0.02, 0.05, 0.1]), (30, [0.05, 0.1, 0.2]), (100, [0.1, 0.2, 0.4]), (300, [0.2, 0.4, 0.8]), (1000, [0.3, 0.6, 1.2]),
        (3000, [0.4, 0.8, 1.6]),
    ];

    /// <summary>ISO 2768-2, table 2.</summary>
    private static readonly (double UpTo, double?[] Values)[] Square =
        [(100, [0.2, 0.4, 0.6]), (300, [0.3, 0.6, 1]), (1000, [0.4, 0.8, 1.5]), (3000, [0.5, 1, 2])];

    /// <summary>ISO 2768-2, table 3.</summary>
    private static readonly (double UpTo, double?[] Values)[] Symmetric =
        [(100, [0.5, 0.6, 0.6]), (300, [0.5, 0.6, 1]), (1000, [0.5, 0.8, 1.5]), (3000, [0.5, 1, 2])];

    /// <summary>ISO 2768-2, table 4.</summary>
    private static readonly double[] RunOut = [0.1, 0.2, 0.5];

    [JsonIgnore]
    public override string Words => $"ISO 2768-{"fmcv"[(int)Sizes]}{Geometry}";

    internal override double? OfLength(double nominal) => Of(Linear, Math.Abs(nominal), (int)Sizes);

    internal override double? OfExternalRadius(double nominal) => Of(Broken, Math.Abs(nominal), (int)Sizes);

    /// <inheritdoc/>
    /// <remarks>To four decimals.</remarks>
    internal override double? OfAngle(double? side) =>
        side is { } length && Of(Angular, length, (int)Sizes) is { } degrees ? Math.Round(degrees, 4) : null;

    internal override double? OfForm(double length) => Of(Flat, length);

    /// <inheritdoc/>
    /// <remarks>The tolerance of the diameter, and no more than that of run-out (ISO 2768-2, 5.1.2).</remarks>
    internal override double? OfRoundness(double diameter) =>
        OfRunOut is { } most && OfLength(diameter) is { } deviation ? Math.Min(most, 2 * deviation) : null;

    internal override double? OfPerpendicularity(double side) => Of(Square, side);

    internal override double? OfSymmetry(double length) => Of(Symmetric, length);

    [JsonIgnore]
    internal override double? OfRunOut => Geometry is { } g ? RunOut[(int)g] : null;

    private double? Of((double UpTo, double?[] Values)[] table, double length) =>
        Geometry is { } g ? Of(table, length, (int)g) : null;

    /// <summary>A length beyond the table has none.</summary>
    private static double? Of((double UpTo, double?[] Values)[] table, double length, int column) =>
        table.FirstOrDefault(row => length <= row.UpTo).Values?[column];
}

/// <summary>
/// Where an editor begins when the drawing states no general tolerances: ISO 2768-mK, and its last row for what is longer.
/// </summary>
internal static class UsualTolerances
{
    private static readonly Iso2768Tolerances Rule = new(LinearClass.Medium, GeometricalClass.K);

    /// <summary>Limit deviation of a length, mm.</summary>
    public static double OfLength(double nominal) => Rule.OfLength(Math.Min(Math.Abs(nominal), 4000))!.Value;

    /// <summary>Limit deviation of an angle, degrees.</summary>
    /// <param name="side">Length of the shorter side, mm.</param>
    public static double OfAngle(double side) => Rule.OfAngle(side)!.Value;

    /// <summary>Zone of flatness for the longer side of a face, mm; the same for other forms.</summary>
    public static double OfForm(double length) => Rule.OfForm(Math.Min(length, 3000))!.Value;

    /// <summary>Zone of perpendicularity for the shorter side, mm; the same for other orientations.</summary>
    public static double OfOrientation(double length) => Rule.OfPerpendicularity(Math.Min(length, 3000))!.Value;

    /// <summary>Zone of circular run-out, mm; the same where all of a surface is looked at.</summary>
    public static double OfRunOut => Rule.OfRunOut!.Value;
}
