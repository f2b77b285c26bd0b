using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>The unit in which a plan's lengths are shown and written; everything is stored and computed in mm.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ShownUnit>))]
public enum ShownUnit
{
    [JsonStringEnumMemberName("mm")]
    Millimetre,

    [JsonStringEnumMemberName("inch")]
    Inch,
}

public static class ShownUnits
{
    /// <summary>Millimetres in one; an inch is 25.4 mm exactly (ISO 31-1).</summary>
    public static double Millimetres(this ShownUnit unit) => unit == ShownUnit.Inch ? 25.4 : 1;

    /// <summary>As it stands behind a number.</summary>
    public static string Sign(this ShownUnit unit) => unit == ShownUnit.Inch ? "in" : "mm";

    /// <summary>Decimals that tell as much in this unit as a number of them does in mm.</summary>
    public static int Decimals(this ShownUnit unit, int ofMillimetres) => ofMillimetres + (unit == ShownUnit.Inch ? 1 : 0);
}
