using Bostel.Core.Fitting;

namespace Bostel.Core.Features;

/// <summary>
/// What is measured: one feature made of nominal faces. Points nearer than <see cref="EdgeMargin"/> to the border of the faces are left out
/// (null: the larger of 0.5 mm and three mean scan edges). <see cref="EdgeOf"/>: not the faces are measured but the edge that they cut out
/// of that face, the side of a sheet; from its points alone, for walls as thin as a sheet give hardly any.
/// </summary>
public sealed record FeaturePlan(string Id, string Name, int[] Faces)
{
    /// <summary>Name of the alignment in which it is measured; null: the plan's own.</summary>
    public string? Alignment { get; init; }

    public Criterion Criterion { get; init; } = Criterion.LeastSquares;
    public double? EdgeMargin { get; init; }

    /// <summary>
    /// Where it is measured alone: a datum taken from its targets (ISO 5459), a feature of which only some places count. Null: everywhere.
    /// </summary>
    public IReadOnlyList<TargetArea>? Targets { get; init; }
    public int? EdgeOf { get; init; }

    /// <summary>A surface picked on a scan, instead of faces; null: the faces are measured.</summary>
    public ScanRegion? Region { get; init; }

    /// <summary>
    /// Of an edge: how far before it the points of the scan end, mm, as the device or the fusing of its views lose them; null: what fused
    /// scans lose, a share of their spacing.
    /// </summary>
    public double? EdgeLoss { get; init; }

    /// <summary>Farthest a point may lie from the nominal face, mm.</summary>
    public double SearchDistance { get; init; } = 1;
}
