using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>How much of the nominal a scan has measured.</summary>
/// <param name="Whole">Share of the nominal's area with scan data.</param>
/// <param name="OfFace">The same a face, by its id.</param>
public sealed record CoverageResult(double Whole, IReadOnlyList<double> OfFace);

/// <summary>
/// The comparison the other way round: from the nominal to the scan. It tells what was not measured, which the way from the scan cannot.
/// </summary>
public static class NominalCoverage
{
    private const double LeastCosine = 0.5;

    /// <summary>
    /// Even samples of the nominal count as measured when the scan's surface lies within a distance and is turned the same way (within
    /// 60°). Patches are no measurement. A cloud counts by its nearest point.
    /// </summary>
    /// <param name="scan">In its own coordinates.</param>
    /// <param name="transform">Scan to nominal.</param>
    /// <param name="maxDistance">mm.</param>
    /// <param name="samples">How many samples; the shares are good to about one over its root.</param>
    public static CoverageResult Of(TriangleMesh scan, RigidTransform transform, NominalModel nominal, double maxDistance,
        int samples = 100_000, CancellationToken cancel = default)
    {
        if (!(maxDistance > 0))
        {
            throw new BadInputException("maxDistance: must be above 0 mm.");
        }

        var even = SurfaceSamples.Even(nominal.Mesh, samples);
        var toScan = transform.Inverse();
        var reaches = Reacher(scan, toScan, even, maxDistance);
        var measured = new bool[even.Count];
        Parallel.For(0, (even.Count + 2047) / 2048, new ParallelOptions { CancellationToken = cancel }, chunk =>
        {
            for (var i = chunk * 2048; i < Math.Min(even.Count, (chunk + 1) * 2048); i++)
            {
                measured[i] = reaches(i);
            }
        });

        // Samples are even, so a face's share is that of its samples; each is assigned by the closest triangle of the nominal itself.
        var tree = new TriangleTree(nominal.Mesh);
        var (all, hit) = (new int[nominal.Faces.Count], new int[nominal.Faces.Count]);
        for (var i = 0; i < even.Count; i++)
        {
            var face = nominal.FaceOfTriangle[tree.Closest(even.Points[i], double.PositiveInfinity, -1, even.Normals[i],
                0.99).Triangle is var t and >= 0 ? t : tree.Closest(even.Points[i]).Triangle];
            all[face]++;
            hit[face] += measured[i] ? 1 : 0;
        }

        return new((double)hit.Sum() / even.Count, [.. all.Select((n, f) => n == 0 ? 0 : (double)hit[f] / n)]);
    }

    private static Func<int, bool> Reacher(TriangleMesh scan, RigidTransform toScan, SurfaceSamples even, double maxDistance)
    {
        if (scan.TriangleCount == 0)
        {
            var points = new PointTree(scan.Coordinates);
            return i => points.Nearest(toScan.Apply(even.Points[i]), maxDistance) >= 0;
        }

        var measured = scan.MeasuredTriangleCount == scan.TriangleCount ? scan : scan.KeepTriangles(t => t < scan.MeasuredTriangleCount);
        var tree = new TriangleTree(measured);
        return i => tree.Closest(toScan.Apply(even.Points[i]), maxDistance, -1, toScan.Rotate(even.Normals[i]), LeastCosine).Found;
    }
}
