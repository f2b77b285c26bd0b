using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// Balances a part within its tolerance bands: the rigid motion that makes the largest amount by which a point lies out of its band least
/// (a minimax fit with allowances, solved like a minimum-zone fit: sequential linear programming over the points that are worst). Points
/// that have no counterpart near them take no part; single stray points would rule the result, so the scan should be free of them.
/// </summary>
internal static class BalancedFit
{
    private const int MostSteps = 40;
    private const int Runs = 256;

    /// <returns>The pose, and the largest amount out of tolerance there (negative: all within).</returns>
    public static (RigidTransform Transform, double Worst) Improve(
        SurfaceSamples scan, AlignmentTarget target, RigidTransform start, double[] lower, double[] upper, AlignmentScope scope,
        CancellationToken cancel)
    {
        var free = scope.Free;
        var lever = target.Diagonal / 2;
        var seeds = new int[scan.Count];
        Array.Fill(seeds, -1);
        var now = Excess(scan, target, start, lower, upper, scope, seeds);
        if (free.Length == 0)
        {
            return (start, now.Worst);
        }

        var transform = start;
        var chosen = new SortedSet<int>();
        var trust = 0.1 * Math.Max(1e-6, now.Values.Where(double.IsFinite).DefaultIfEmpty().Max(Math.Abs));
        for (var step = 0; step < MostSteps && trust > 1e-7; step++)
        {
            cancel.ThrowIfCancellationRequested();
            AddWorst(chosen, now.Values);
            var some = chosen.Where(i => double.IsFinite(now.Values[i])).ToArray();
            if (Solve(some, now, target.Center, lever, free, trust) is not { } delta)
            {
                break;
            }

            var twist = RigidTransform.FromTwist(
                new Vector3D(delta[0], delta[1], delta[2]) / lever, new(delta[3], delta[4], delta[5]), target.Center);
            var moved = scope.Held(twist.After(transform).Orthonormalized(), start, target.Center);
            var next = Excess(scan, target, moved, lower, upper, scope, seeds);
            if (next.Worst < now.Worst - 1e-9)
            {
                (transform, now) = (moved, next);
            }
            else
            {
                AddWorst(chosen, next.Values);
                trust *= 0.5;
            }
        }

        return (transform, now.Worst);
    }

    private static double[]? Solve(int[] some, Matched now, Vector3D center, double lever, int[] free, double trust)
    {
        var (distances, allowances, gradients) = (new double[some.Length], new double[some.Length], new double[some.Length * free.Length]);
        for (var k = 0; k < some.Length; k++)
        {
            var i = some[k];
            var arm = (now.Points[i] - center).Cross(now.Normals[i]) / lever;
            double[] g = [arm.X, arm.Y, arm.Z, now.Normals[i].X, now.Normals[i].Y, now.Normals[i].Z];
            distances[k] = now.Middles[i];
            allowances[k] = now.Allowances[i];
            for (var f = 0; f < free.Length; f++)
            {
                gradients[(k * free.Length) + f] = g[free[f]];
            }
        }

        if (ChebyshevProgram.Solve(distances, gradients, free.Length, trust, true, true, allowances) is not var (step, _))
        {
            return null;
        }

        var delta = new double[6];
        for (var f = 0; f < free.Length; f++)
        {
            delta[free[f]] = step[f];
        }

        return delta;
    }

    /// <summary>
    /// Each point's place, surface normal, deviation from the middle of its band, half the band, and excess over it; no number without
    /// counterpart.
    /// </summary>
    private sealed record Matched(
        Vector3D[] Points, Vector3D[] Normals, double[] Middles, double[] Allowances, double[] Values, double Worst);

    private static Matched Excess(
        SurfaceSamples scan, AlignmentTarget target, RigidTransform pose, double[] lower, double[] upper, AlignmentScope scope, int[] seeds)
    {
        var n = scan.Count;
        var found = new Matched(new Vector3D[n], new Vector3D[n], new double[n], new double[n], new double[n], 0);
        var reach = 0.02 * target.Diagonal;
        PointToPlane.ForChunks(n, (_, from, to) =>
        {
            for (var i = from; i < to; i++)
            {
                var p = pose.Apply(scan.Points[i]);
                var normal = pose.Rotate(scan.Normals[i]);
                var hit = target.Tree.Closest(p, reach, seeds[i], normal, normal.LengthSquared > 0.5 ? 0.7 : -2);
                if (!hit.Found || scope.WeightOf(hit.Triangle) <= 0)
                {
                    found.Values[i] = double.NegativeInfinity;
                    continue;
                }

                seeds[i] = hit.Triangle;
                var offset = p - hit.Point;
                var outward = hit.Part == TrianglePart.Face || hit.DistanceSquared < 1e-12
                    ? target.Tree.FaceNormal(hit.Triangle)
                    : Math.Sign(target.Tree.SignedDistance(p, hit)) * offset.Normalized();
                found.Points[i] = p;
                found.Normals[i] = outward;
                found.Middles[i] = offset.Dot(outward) - (0.5 * (lower[hit.Triangle] + upper[hit.Triangle]));
                found.Allowances[i] = 0.5 * (upper[hit.Triangle] - lower[hit.Triangle]);
                found.Values[i] = Math.Abs(found.Middles[i]) - found.Allowances[i];
            }
        });
        return found with { Worst = found.Values.Max() };
    }

    private static void AddWorst(SortedSet<int> chosen, double[] values)
    {
        for (var run = 0; run < Runs; run++)
        {
            var (from, to) = ((int)((long)run * values.Length / Runs), (int)((long)(run + 1) * values.Length / Runs));
            var worst = from;
            for (var i = from; i < to; i++)
            {
                worst = values[i] > values[worst] ? i : worst;
            }

            if (to > from && double.IsFinite(values[worst]))
            {
                chosen.Add(worst);
            }
        }
    }
}
