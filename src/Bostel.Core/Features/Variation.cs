using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>A feature as it would be if one of its independent errors were one standard deviation large.</summary>
/// <param name="Source">Id of the measured feature whose error it is.</param>
/// <param name="Index">Which of its errors.</param>
/// <param name="Name">Of that feature, for people.</param>
/// <param name="Freedom">Degrees of freedom that tell the error; null: as many as matter.</param>
public sealed record Variation(string Source, int Index, string Name, Shape Shape, double? Freedom);
