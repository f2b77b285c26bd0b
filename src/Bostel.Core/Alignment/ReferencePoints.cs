using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// A place on the nominal where the part is held: the scan's surface, met along <see cref="Direction"/>, is to lie there (plus an offset
/// along it). Points with a larger weight are met more closely.
/// </summary>
public sealed record ReferencePoint(string Name, Vector3D Nominal, Vector3D Direction, double Weight = 1, double Offset = 0);

/// <summary>Alignment by reference points: each locks the part along its direction, by weighted least squares over all of them.</summary>
public static class ReferencePoints
{
    private const int MostSteps = 50;

    /// <param name="scan">Index over the scan, mm.</param>
    /// <param name="points">Six or more whose directions together lock all six degrees of freedom.</param>
    /// <param name="start">Scan to nominal, so near that each direction meets the right surface.</param>
    /// <param name="searchDistance">Farthest the surface may lie from its reference point at the start, mm.</param>
    /// <exception cref="BadInputException">Too few points, a direction that meets no surface, or a motion that none of them
    /// locks.</exception>
    public static DatumPose Fit(TriangleTree scan, IReadOnlyList<ReferencePoint> points, RigidTransform start, double searchDistance)
    {
        if (scan.Mesh.TriangleCount == 0)
        {
            throw new BadInputException("reference points: the scan has no triangles; mesh it first.");
        }

        if (points.Count < 6)
        {
            throw new UndeterminedException(
                $"reference points: {points.Count} locking directions are too few: six are needed to fix six degrees of freedom.");
        }

        if (points.FirstOrDefault(p => !(p.Direction.LengthSquared > 0) || !(p.Weight > 0)) is { } bad)
        {
            throw new BadInputException($"reference point {bad.Name}: needs a direction and a weight above 0.");
        }

        var center = points.Aggregate(Vector3D.Zero, (s, p) => s + (p.Nominal / points.Count));
        var lever = Math.Max(1e-6, points.Max(p => Vector3D.Distance(p.Nominal, center)));
        var free = new FreeMotions(center, lever);
        var pose = start;
        var mean = points.Average(p => p.Weight);
        for (var step = 0; step < MostSteps; step++)
        {
            var (motion, length, rank) =
                free.Step([.. points.Select(p => Row(scan, p, pose, searchDistance, free, Math.Sqrt(p.Weight / mean)))]);
            if (rank < 6)
            {
                free.Fix([.. points.Select(p => Row(scan, p, pose, searchDistance, free, 1))]);
                throw new UndeterminedException($"reference points: together they do not lock the part; free: {free.Describe()}.");
            }

            pose = motion.After(pose).Orthonormalized();
            if (length < 1e-10 * lever)
            {
                break;
            }
        }

        return new(pose, [.. points.Select(p => new AlignmentStep(p.Name, 1, 0, Row(scan, p, pose, searchDistance, free, 1).Residual, ""))],
            0, "nothing", []);
    }

    /// <summary>
    /// Distance of the surface from its place along the direction, and how it changes: a motion m moves the meeting point by m·n/(d·n).
    /// </summary>
    private static (double[] Row, double Residual) Row(
        TriangleTree scan, ReferencePoint point, RigidTransform pose, double searchDistance, FreeMotions free, double root)
    {
        var back = pose.Inverse();
        var direction = point.Direction.Normalized();
        var hits = new List<(double Distance, int Triangle)>();
        scan.AllHits(back.Apply(point.Nominal), back.Rotate(direction), hits);
        var near = hits.Where(h => Math.Abs(h.Distance) <= searchDistance && pose.Rotate(scan.FaceNormal(h.Triangle)).Dot(direction) > 0.2)
            .ToList();
        if (near.Count == 0)
        {
            throw new BadInputException(
                $"reference point {point.Name}: its direction meets no surface of the scan within {searchDistance:0.###} mm.");
        }

        var (distance, triangle) = near.MinBy(h => Math.Abs(h.Distance));
        var normal = pose.Rotate(scan.FaceNormal(triangle));
        var met = point.Nominal + (distance * direction);
        var along = root / normal.Dot(direction) * normal;
        return (free.Shift(met, along), root * (distance - point.Offset));
    }
}
