using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Chooses where to look from, so that a characteristic's first feature is seen and not hidden behind other parts of the piece.
/// </summary>
internal static class EvidenceViews
{
    /// <summary>About 27° aside: the wall of a hole is seen, and its depth.</summary>
    private const double Aside = 0.5;

    public static EvidenceView? Of(IReadOnlyList<FeatureResult> evidence, TriangleTree tree)
    {
        if (evidence.Count == 0)
        {
            return null;
        }

        var f = evidence[0];
        var box = Box3D.Empty;
        for (var i = 0; i < f.Points.Length; i += 3)
        {
            box = box.Include(new(f.Points[i], f.Points[i + 1], f.Points[i + 2]));
        }

        var size = Math.Max(8, 2.2 * box.Diagonal);
        foreach (var (target, straight) in Candidates(f, box.Center))
        {
            if (!Free(tree, target, straight))
            {
                continue;
            }

            var direction = f.Shape is Plane3D ? straight : Tilts(straight).FirstOrDefault(d => Free(tree, target, d), straight);
            return new(target.ToArray(), direction.ToArray(), size);
        }

        var last = Candidates(f, box.Center).First();
        return new(last.Target.ToArray(), last.Direction.ToArray(), size);
    }

    private static IEnumerable<(Vector3D Target, Vector3D Direction)> Candidates(FeatureResult f, Vector3D center)
    {
        if (f.Shape is Plane3D plane)
        {
            yield return (center, plane.Normal);
            foreach (var d in Tilts(plane.Normal))
            {
                yield return (center, d);
            }
        }
        else if (f.Axis is { } axis && f.Nominal.Internal)
        {
            // A hole is looked into from the middle of either mouth.
            var (start, end) = AxisPlaces.Ends(f);
            yield return (end, (end - start).Normalized());
            yield return (start, (start - end).Normalized());
        }
        else if (f.Axis is { } outer)
        {
            var u = outer.Direction.Perpendicular();
            for (var k = 0; k < 8; k++)
            {
                var side = RigidTransform.FromAxisAngle(outer.Direction, k * Math.PI / 4).Rotate(u);
                yield return (center + ((f.Radius ?? 0) * side), side);
            }
        }
        else
        {
            yield return (center, f.Direction ?? Vector3D.UnitZ);
        }
    }

    private static IEnumerable<Vector3D> Tilts(Vector3D straight)
    {
        var u = straight.Perpendicular();
        for (var k = 0; k < 8; k++)
        {
            yield return (straight + (Aside * RigidTransform.FromAxisAngle(straight, k * Math.PI / 4).Rotate(u))).Normalized();
        }
    }

    private static bool Free(TriangleTree tree, Vector3D from, Vector3D direction) =>
        !tree.Blocks(from + (0.05 * direction), direction, 0, double.PositiveInfinity);
}
