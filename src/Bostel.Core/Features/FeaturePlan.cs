using Bostel.Core.Fitting;

namespace Bostel.Core.Features;

/// <summary>
/// What is measured: one feature made of nominal faces. Points nearer than <see cref="EdgeMargin"/> to the border of the faces are left out
/// (null: the larger of 0.5 mm and three mean scan edges).
/// </summary>
public sealed record FeaturePlan(string Id, string Name, int[] Faces)
{
    public Criterion Criterion { get; init; } = Criterion.LeastSquares;
    public double? EdgeMargin { get; init; }

    /// <summary>Farthest a point may lie from the nominal face, mm.</summary>
    public double SearchDistance { get; init; } = 1;
}
