using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Alignment;

/// <summary>
/// A plane of symmetry found in a scan: the plane, the share of the area whose mirror image lies on the scan, and the rms distance there, mm.
/// </summary>
public sealed record FoundSymmetry(Plane3D Plane, double Share, double Rms);

/// <summary>
/// Finds planes of symmetry: the scan is mirrored at a first plane (across its principal axes and its dominant directions) and the mirror image fitted
/// to the scan point to plane; mirroring and fitting together are again a mirroring, whose plane is the one sought.
/// </summary>
public static class SymmetryPlane
{
    /// <summary>Starts that are settled on all points.</summary>
    private const int Promising = 6;

    /// <returns>Distinct planes, the best first; none when nothing mirrors onto itself.</returns>
    /// <exception cref="BadInputException">The scan has no triangles.</exception>
    public static IReadOnlyList<FoundSymmetry> Find(TriangleMesh scan, CancellationToken cancel = default)
    {
        if (scan.TriangleCount == 0)
        {
            throw new BadInputException("The scan has no triangles: a plane of symmetry is found from its surface.");
        }

        var target = new AlignmentTarget(new(scan));
        var few = SurfaceSamples.OfScan(scan, 800);
        var samples = SurfaceSamples.OfScan(scan, 4000);
        var even = SurfaceSamples.Even(scan, 4000);
        var limit = Math.Max(0.004 * target.Diagonal, 2 * scan.MeanEdge());
        var found = new List<FoundSymmetry>();
        // Most starts lead nowhere: few points tell which are worth all of them.
        var rough = new List<FoundSymmetry>();
        foreach (var first in Starts(even))
        {
            cancel.ThrowIfCancellationRequested();
            if (Settle(few, target, first, [(0.05, 15), (0.02, 10)]) is { } plane)
            {
                rough.Add(Judge(few, target, plane, 2 * limit));
            }
        }

        foreach (var first in rough.Where(r => r.Share > 0.5).OrderByDescending(r => r.Share).Take(Promising))
        {
            cancel.ThrowIfCancellationRequested();
            if (Settle(samples, target, first.Plane, [(0.01, 20), (0.005, 15)]) is not { } plane)
            {
                continue;
            }

            var result = Judge(samples, target, plane, limit);
            if (result.Share > 0.6 && !found.Any(f => IsSame(f.Plane, plane, scan.Bounds.Center, limit)))
            {
                found.Add(result);
            }
        }

        return [.. found.OrderByDescending(f => f.Share).ThenBy(f => f.Rms)];
    }

    private static bool IsSame(Plane3D a, Plane3D b, Vector3D center, double limit) =>
        a.Normal.LineAngleTo(b.Normal) < 0.02 && Math.Abs(a.Distance(center) - (Math.Sign(a.Normal.Dot(b.Normal)) * b.Distance(center))) < limit;

    private static IEnumerable<Plane3D> Starts(SurfaceSamples even)
    {
        var mean = even.Points.Aggregate(Vector3D.Zero, (s, p) => s + (p / even.Count));
        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        foreach (var q in even.Points)
        {
            var p = q - mean;
            (xx, xy, xz, yy, yz, zz) = (xx + (p.X * p.X), xy + (p.X * p.Y), xz + (p.X * p.Z), yy + (p.Y * p.Y), yz + (p.Y * p.Z), zz + (p.Z * p.Z));
        }

        var axes = SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz).Vectors;
        var peaks = DirectionPeaks.Find(even, 8).Select(p => p.Direction).ToList();
        var between = peaks.SelectMany((a, i) => peaks.Skip(i + 1).SelectMany(b => new[] { a - b, a + b })).Where(v => v.Length > 0.2).Select(v => v.Normalized());
        var tried = new List<Vector3D>();
        foreach (var direction in axes.Concat(peaks).Concat(between))
        {
            if (!tried.Any(t => t.LineAngleTo(direction) < 0.12) && tried.Count < 24)
            {
                tried.Add(direction);
                yield return new(mean, direction);
            }
        }
    }

    /// <summary>
    /// Mirrors at the plane, fits, and takes the plane of the whole, again with each reach (in diagonals) and number of steps. Far reaches take the nearest
    /// surface whichever way it faces: to look for one that agrees would cost a search of all that is near.
    /// </summary>
    private static Plane3D? Settle(SurfaceSamples samples, AlignmentTarget target, Plane3D plane, (double Reach, int Steps)[] rounds)
    {
        var diagonal = target.Diagonal;
        foreach (var (reach, steps) in rounds)
        {
            var mirrored = Mirrored(samples, plane);
            var outcome = PointToPlane.Refine(mirrored, target.Tree, RigidTransform.Identity, new(steps, reach * diagonal, 1e-4, 1e-6 * diagonal, reach > 0.01 ? -2 : 0.5) { Grid = target.Grid });
            if (outcome.Used < 0.3 * samples.Count)
            {
                return null;
            }

            // x ↦ T(x − 2((x − q)·n)n): the normal turns back to front, −n ≈ R n; the plane halves the way of its own point.
            var t = outcome.Transform;
            var normal = (plane.Normal + t.Rotate(plane.Normal)).Normalized();
            var image = t.Apply(plane.Point);
            var middle = 0.5 * (plane.Point + image);
            plane = new(middle, normal);
        }

        return plane;
    }

    private static FoundSymmetry Judge(SurfaceSamples samples, AlignmentTarget target, Plane3D plane, double limit)
    {
        var mirrored = Mirrored(samples, plane);
        double near = 0, area = 0, squares = 0;
        for (var i = 0; i < mirrored.Count; i++)
        {
            var hit = target.Tree.Closest(mirrored.Points[i], limit, target.Grid.NearestAt(mirrored.Points[i]), mirrored.Normals[i], 0.5);
            area += mirrored.Areas[i];
            if (hit.Found)
            {
                near += mirrored.Areas[i];
                squares += mirrored.Areas[i] * hit.DistanceSquared;
            }
        }

        return new(plane, near / area, Math.Sqrt(squares / Math.Max(1e-300, near)));
    }

    private static SurfaceSamples Mirrored(SurfaceSamples samples, Plane3D plane) => new(
        [.. samples.Points.Select(p => p - (2 * plane.Distance(p) * plane.Normal))],
        [.. samples.Normals.Select(n => n - (2 * n.Dot(plane.Normal) * plane.Normal))],
        samples.Areas);
}
