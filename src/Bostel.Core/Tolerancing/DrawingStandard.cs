using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>The standards a drawing is read by. They answer what a row leaves open; what a row says itself holds.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<DrawingStandard>))]
public enum DrawingStandard
{
    /// <summary>Axes are extracted median lines (ISO 1101:2017, 6); sizes are those of the associated feature (GG, ISO 14405-1).</summary>
    [JsonStringEnumMemberName("iso")]
    Iso,

    /// <summary>
    /// Axes are those of the associated feature (ASME Y14.5-2018, 10.3.1); diameters hold their envelope (5.8.1, Rule #1).
    /// </summary>
    [JsonStringEnumMemberName("asme")]
    Asme,
}

public static class DrawingStandardWords
{
    /// <summary>Which holds, and what it answers, as the report prints it.</summary>
    public static string InWords(this DrawingStandard standard) => standard switch
    {
        DrawingStandard.Asme => "ASME Y14.5-2018: where a row does not say, axes are straight and diameters hold their envelope (Rule #1)",
        _ => "ISO GPS (ISO 8015): where a row does not say, axes are extracted median lines and sizes those of the fitted feature (GG)",
    };
}
