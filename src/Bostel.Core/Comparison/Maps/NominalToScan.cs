using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>
/// The deviation seen from the nominal: from every place of it to the scan. What is missing, or was not measured, shows only this way.
/// </summary>
public static class NominalToScan
{
    /// <summary>Where a map does not ask, or a scan cannot tell: neither a value nor missing.</summary>
    public const double NotAsked = double.PositiveInfinity;

    /// <summary>
    /// A place of the nominal is met by a cloud when the nearest point lies no farther beside it than so many spacings, as points that hang
    /// together do.
    /// </summary>
    private const double CloudReach = 2.5;

    /// <summary>
    /// Deviation at every vertex of the nominal's surface, mm, positive where the scan lies out of the material. NaN where the scan has
    /// nothing that faces the same way within the distance, or ends: neither a border nor a patch was measured. Nearer to a sharp edge than
    /// the points of the scan lie apart, it rounds the edge whatever the part does: there it is not asked.
    /// </summary>
    /// <param name="scan">In its own coordinates.</param>
    /// <param name="transform">Scan to nominal.</param>
    /// <param name="spacing">Of its points, mm.</param>
    public static double[] Compute(
        NominalSurface nominal, TriangleMesh scan, RigidTransform transform, double spacing, DeviationOptions options,
        IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var place = transform.Inverse();
        var deviation = scan.TriangleCount == 0 ? OfCloud(scan, spacing, options) : OfMesh(scan, options);
        var edges = new PointTree([.. nominal.Sharp.SelectMany(p => p.ToArray())]);
        return VertexValues.Of(nominal.Normals.Length, nominal.Normals.Length, v =>
        {
            var p = nominal.Mesh.Vertex(v);
            return nominal.Sharp.Length > 0 && edges.Nearest(p, spacing) >= 0
                ? NotAsked
                : deviation(place.Apply(p), place.Rotate(nominal.Normals[v]));
        }, progress, cancel);
    }

    private static Func<Vector3D, Vector3D, double> OfMesh(TriangleMesh scan, DeviationOptions options)
    {
        var measured = scan.MeasuredTriangleCount == scan.TriangleCount ? scan : scan.KeepTriangles(t => t < scan.MeasuredTriangleCount);
        var tree = new TriangleTree(measured);
        var border = new SurfaceBorder(measured);
        var cosine = Math.Cos(options.MaxAngleDegrees * Math.PI / 180);
        return (p, n) =>
        {
            var hit = tree.Closest(p, options.MaxDistance, -1, n, cosine);
            if (!hit.Found || hit.Distance > Deviation.LeastWithin)
            {
                // As from the scan: what lies far nearer than all that faces alike, and is no far side, is the place's own.
                var reach = Deviation.FarNearer * (hit.Found ? hit.Distance : options.MaxDistance);
                var own = tree.Closest(p, reach, -1, n, Deviation.FarSide);
                hit = own.Found ? own : hit;
            }

            return hit.Found && !border.Holds(hit) ? -tree.SignedDistance(p, hit) : double.NaN;
        };
    }

    /// <summary>Of points there is no surface: the nearest tells how far it stands out along the nominal's normal.</summary>
    private static Func<Vector3D, Vector3D, double> OfCloud(TriangleMesh scan, double spacing, DeviationOptions options)
    {
        var points = new PointTree(scan.Coordinates);
        return (p, n) =>
        {
            var nearest = points.Nearest(p, options.MaxDistance);
            if (nearest < 0)
            {
                return double.NaN;
            }

            var offset = scan.Vertex(nearest) - p;
            var along = offset.Dot(n);
            return (offset - (along * n)).Length <= CloudReach * spacing ? along : double.NaN;
        };
    }
}
