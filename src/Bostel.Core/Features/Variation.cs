using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>A feature as it would be if one of its independent errors were one standard deviation large.</summary>
/// <param name="Source">Id of the measured feature whose error it is, or of what several share.</param>
/// <param name="Index">Which of its errors.</param>
/// <param name="What">Where the error comes from, for people.</param>
/// <param name="Freedom">Degrees of freedom that tell the error; null: as many as matter.</param>
public sealed record Variation(string Source, int Index, string What, Shape Shape, double? Freedom)
{
    /// <summary>What the points of a feature scatter by.</summary>
    public static string Scatter(string feature) => $"scatter of the points of {feature}";
}
