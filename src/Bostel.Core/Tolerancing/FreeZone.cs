using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>A signed distance from the nominal and how it changes: with the shift of a point along a direction.</summary>
internal readonly record struct ZoneRow(double Distance, Vector3D At, Vector3D Along);

/// <summary>
/// Motions that no datum holds are the tolerance zone's to choose: of all poses they allow, the one where the greatest distance is least
/// (ISO 1660, ISO 5459; ASME Y14.5.1, 6). Sequential linear programming within a shrinking trust region, as minimum-zone fits are solved.
/// </summary>
internal static class FreeZone
{
    private const int MostSteps = 12;

    /// <param name="rows">The distances at a pose; a step is kept only when they show it to be better.</param>
    /// <param name="offset">Whether the zone may lie at any one distance from the nominal, as a further freedom.</param>
    /// <returns>The pose and its rows, the distances from the middle of the zone.</returns>
    public static (RigidTransform Pose, ZoneRow[] Rows) Best(
        RigidTransform start, IReadOnlyList<SmallMotion> free, Func<RigidTransform, ZoneRow[]> rows, bool offset = false)
    {
        ZoneRow[] At(RigidTransform pose) => offset ? Centred(rows(pose)) : rows(pose);
        var (pose, now) = (start, At(start));
        var worst = Worst(now);
        var (trust, smallest) = (2 * worst, 1e-4 * worst);
        var columns = free.Count + (offset ? 1 : 0);
        for (var step = 0; step < MostSteps && free.Count > 0 && trust > smallest; step++)
        {
            var gradients = new double[now.Length * columns];
            for (var i = 0; i < now.Length; i++)
            {
                for (var k = 0; k < free.Count; k++)
                {
                    gradients[(i * columns) + k] = now[i].Along.Dot(free[k].Of(now[i].At));
                }

                if (offset)
                {
                    gradients[(i * columns) + free.Count] = 1;
                }
            }

            if (ChebyshevProgram.Solve([.. now.Select(r => r.Distance)], gradients, columns, trust, true, true) is not var (delta, _))
            {
                break;
            }

            var candidate = pose;
            for (var k = 0; k < free.Count; k++)
            {
                candidate = free[k].Times(delta[k]).After(candidate);
            }

            var next = At(candidate);
            var reached = Worst(next);
            if (reached < worst - (1e-6 * worst))
            {
                var gain = worst - reached;
                (pose, now, worst) = (candidate, next, reached);
                trust = gain < 1e-3 * worst ? 0 : trust;
            }
            else
            {
                trust *= 0.25;
            }
        }

        return (pose, now);
    }

    /// <summary>All motions, about a part that no datum holds.</summary>
    public static IReadOnlyList<SmallMotion> Everything(Box3D part)
    {
        var lever = 0.5 * Math.Max(1, part.Diagonal);
        Vector3D[] axes = [Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ];
        return
        [
            .. axes.Select(a => new SmallMotion(a / lever, Vector3D.Zero, part.Center)),
            .. axes.Select(a => new SmallMotion(Vector3D.Zero, a, part.Center)),
        ];
    }

    /// <summary>The same about the middle between the least and the greatest distance.</summary>
    private static ZoneRow[] Centred(ZoneRow[] rows)
    {
        var middle = (rows.Min(r => r.Distance) + rows.Max(r => r.Distance)) / 2;
        return [.. rows.Select(r => r with { Distance = r.Distance - middle })];
    }

    private static double Worst(ZoneRow[] rows) => rows.Max(r => Math.Abs(r.Distance));
}
