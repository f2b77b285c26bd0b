using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>
/// Even samples of nominal faces with their distances from the border: how narrow the faces are, and how much of them was measured.
/// </summary>
internal sealed class FaceSamples
{
    private const int Many = 1500;

    private const double Spacings = 1.2, LeastReach = 0.1;

    private readonly Vector3D[] _points;
    private readonly double[] _fromBorder;

    /// <summary>As many may be drawn on the whole faces so that small targets get their share.</summary>
    private const int Most = 100_000;

    /// <param name="border">The border of the faces; null when they are closed in themselves.</param>
    /// <param name="targets">The areas that count; none: all of the faces.</param>
    public FaceSamples(
        IReadOnlyCollection<int> faces, NominalModel nominal, TriangleTree? border, IReadOnlyList<TargetArea>? targets = null)
    {
        var surface = nominal.Mesh.KeepTriangles(t => faces.Contains(nominal.FaceOfTriangle[t]));
        if (targets is { Count: > 0 })
        {
            var part = targets.Sum(t => Math.PI * t.Radius * t.Radius) / surface.Area();
            var drawn = SurfaceSamples.Even(surface, (int)Math.Clamp(Many / part, Many, Most)).Points;
            _points = [.. drawn.Where(p => targets.Any(t => t.Holds(p)))];
        }
        else
        {
            _points = SurfaceSamples.Even(surface, Many).Points;
        }

        _fromBorder = [.. _points.Select(p => border is null ? double.PositiveInfinity : border.Closest(p).Distance)];
    }

    /// <summary>Distance of the innermost place from the border: half the width of a long face.</summary>
    public double HalfWidth => _fromBorder.DefaultIfEmpty(0).Max();

    /// <summary>
    /// Share of the samples inside a margin that have a measured point near the place it belongs to, and those that have none, 3·K.
    /// </summary>
    /// <param name="vertices">The measured points.</param>
    public (double Share, double[] Missing) Covered(AlignedScan scan, IReadOnlyList<int> vertices, double margin = 0)
    {
        var tree = new PointTree(FeatureExtraction.Feet(scan, vertices));

        // A little over a spacing away a place still counts as measured.
        var reach = Math.Max(LeastReach, Spacings * scan.Beside.Spacing);
        var inside = _points.Where((_, i) => _fromBorder[i] > margin).ToList();
        var missing = inside.Where(p => tree.Nearest(p, reach) < 0).ToList();
        return (inside.Count == 0 ? 0 : 1 - ((double)missing.Count / inside.Count), [.. missing.SelectMany(p => p.ToArray())]);
    }
}
