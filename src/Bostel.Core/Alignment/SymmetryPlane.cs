using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// A plane of symmetry found in a scan: the plane, the share of the area whose mirror image lies on the scan, and the rms distance there,
/// mm.
/// </summary>
public sealed record FoundSymmetry(Plane3D Plane, double Share, double Rms);

/// <summary>
/// Finds planes of symmetry: the scan is mirrored at a first plane (across its principal axes and its dominant directions) and the mirror
/// image fitted to the scan point to plane; mirroring and fitting together are again a mirroring, whose plane is the one sought.
/// </summary>
public static class SymmetryPlane
{
    /// <summary>Starts that are followed up after a first look.</summary>
    private const int Promising = 10;

    /// <summary>
    /// Share of the reach that is taken for the scatter at the least: most of a plate lies on itself wherever along it the plane stands,
    /// and the few edges and holes that tell must not pass for outliers.
    /// </summary>
    private const double Trust = 0.2;

    /// <summary>Planes told at most.</summary>
    private const int Most = 12;

    /// <summary>Diagonals within which a mirrored point lies on the surface.</summary>
    private const double Near = 0.001;

    /// <returns>Distinct planes, the best first; none when nothing mirrors onto itself.</returns>
    /// <exception cref="BadInputException">The scan has no triangles.</exception>
    public static IReadOnlyList<FoundSymmetry> Find(TriangleMesh scan, CancellationToken cancel = default)
    {
        if (scan.TriangleCount == 0)
        {
            throw new BadInputException("The scan has no triangles: a plane of symmetry is found from its surface.");
        }

        var target = new AlignmentTarget(new(scan));
        var few = SurfaceSamples.OfMesh(scan, 800);
        var samples = SurfaceSamples.OfMesh(scan, 4000);
        var even = SurfaceSamples.Even(scan, 4000);
        var limit = Near * target.Diagonal;

        // Most starts lead nowhere: few points tell which are worth all of them.
        var rough = Settled(few, [.. Starts(even)], [(0.05, 8), (0.02, 6)], 8 * limit, 0.5).OrderByDescending(r => r.Share).Take(Promising);
        var fair = Settled(few, [.. rough.Select(r => r.Plane)], [(0.01, 10), (0.004, 10)], 3 * limit, 0.5);
        var found = new List<FoundSymmetry>();
        Keep(Settled(samples, [.. fair.Select(r => r.Plane)], [(0.005, 15), (0.002, 10)], limit, 0.6));

        // Two planes imply a third: the mirror image of one in the other.
        for (var k = 1; k < found.Count && found.Count < Most; k++)
        {
            var images = found.Take(k).SelectMany(f => new[] { Image(f.Plane, found[k].Plane), Image(found[k].Plane, f.Plane) })
                .Where(IsNew).ToArray();
            Keep(Settled(samples, images, [(0.002, 10)], limit, 0.6));
        }

        return [.. found.OrderByDescending(f => f.Share).ThenBy(f => f.Rms).Take(Most)];

        bool IsNew(Plane3D plane) => !found.Any(f => IsSame(f.Plane, plane, scan.Bounds.Center, 8 * limit));

        void Keep(List<FoundSymmetry> results) => results.ForEach(r =>
        {
            if (IsNew(r.Plane))
            {
                found.Add(r);
            }
        });

        List<FoundSymmetry> Settled(SurfaceSamples of, Plane3D[] starts, (double Reach, int Steps)[] rounds, double within, double least)
        {
            var kept = new List<FoundSymmetry>();
            foreach (var start in starts)
            {
                cancel.ThrowIfCancellationRequested();
                if (Settle(of, target, start, rounds) is { } plane && Judge(of, target, plane, within) is var judged
                    && judged.Share > least)
                {
                    kept.Add(judged);
                }
            }

            return kept;
        }
    }

    private static Plane3D Image(Plane3D plane, Plane3D mirror) =>
        new(plane.Point - (2 * mirror.Distance(plane.Point) * mirror.Normal),
            plane.Normal - (2 * plane.Normal.Dot(mirror.Normal) * mirror.Normal));

    private static bool IsSame(Plane3D a, Plane3D b, Vector3D center, double limit) =>
        a.Normal.LineAngleTo(b.Normal) < 0.02
            && Math.Abs(a.Distance(center) - (Math.Sign(a.Normal.Dot(b.Normal)) * b.Distance(center))) < limit;

    private static IEnumerable<Plane3D> Starts(SurfaceSamples even)
    {
        var mean = even.Points.Aggregate(Vector3D.Zero, (s, p) => s + (p / even.Count));
        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        foreach (var q in even.Points)
        {
            var p = q - mean;
            (xx, xy, xz, yy, yz, zz) =
                (xx + (p.X * p.X), xy + (p.X * p.Y), xz + (p.X * p.Z), yy + (p.Y * p.Y), yz + (p.Y * p.Z), zz + (p.Z * p.Z));
        }

        var axes = SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz).Vectors;
        var peaks = DirectionPeaks.Find(even, 8).Select(p => p.Direction).ToList();
        var between = peaks.SelectMany((a, i) => peaks.Skip(i + 1).SelectMany(b => new[] { a - b, a + b })).Where(v => v.Length > 0.2)
            .Select(v => v.Normalized());
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
    /// Mirrors at the plane, fits, and takes the plane of the whole, again with each reach (in diagonals) and number of steps. Far reaches
    /// take the nearest surface whichever way it faces: to look for one that agrees would cost a search of all that is near.
    /// </summary>
    private static Plane3D? Settle(SurfaceSamples samples, AlignmentTarget target, Plane3D plane, (double Reach, int Steps)[] rounds)
    {
        var diagonal = target.Diagonal;
        foreach (var (reach, steps) in rounds)
        {
            var mirrored = Mirrored(samples, plane);
            var outcome =
                PointToPlane.Refine(mirrored, target.Tree, RigidTransform.Identity, new(
                    steps, reach * diagonal, Trust * reach * diagonal, 1e-6 * diagonal, reach > 0.01 ? -2 : 0.5)
                { Grid = target.Grid });
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
