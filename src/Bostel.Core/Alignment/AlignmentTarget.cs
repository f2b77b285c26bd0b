using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>A nominal made ready for aligning scans to it: what does not depend on the scan is computed once, when first needed.</summary>
public sealed class AlignmentTarget(TriangleTree tree)
{
    private readonly Lazy<SurfaceSamples> _samples = new(() => SurfaceSamples.Even(tree.Mesh, 8000));
    private readonly Lazy<DistanceGrid> _grid = new(() => new(tree, 64));
    private readonly Lazy<List<(Vector3D Direction, double Share)>> _directions =
        new(() => DirectionPeaks.Find(SurfaceSamples.Even(tree.Mesh, 8000), 14));

    public TriangleTree Tree => tree;

    internal SurfaceSamples Samples => _samples.Value;

    internal DistanceGrid Grid => _grid.Value;

    /// <summary>Directions in which much of the surface faces.</summary>
    internal List<(Vector3D Direction, double Share)> Directions => _directions.Value;

    internal double Diagonal => tree.Mesh.Bounds.Diagonal;

    internal Vector3D Center => tree.Mesh.Bounds.Center;
}
