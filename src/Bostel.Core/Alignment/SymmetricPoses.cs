using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// Poses that fit nearly alike because the part is nearly symmetrical. Over the whole surface a keyway or a notch drowns in the noise of
/// all the rest; so they are told apart on the places alone where they differ.
/// </summary>
internal static class SymmetricPoses
{
    /// <summary>A pose with the mean truncated distance of all samples in it.</summary>
    internal sealed record Pose(RigidTransform Transform, double Rms, double Score);

    /// <param name="Poses">The decided one first, then those that nothing speaks against, best first.</param>
    /// <param name="DecidedOn">Surface on which it was decided against others, mm²; null: there was none to decide against.</param>
    internal sealed record Decision(List<Pose> Poses, double? DecidedOn);

    /// <summary>
    /// Poses within this of the best fit nearly as well: with all the rest alike, a few hundredths of the surface may still be off.
    /// </summary>
    private const double Nearly = 2;

    /// <summary>So many of the poses found give the turns that are done again; the group of a solid takes two or three.</summary>
    private const int Generators = 8;

    /// <summary>
    /// Turns are tried as a half to a sixth of what takes one pose to another: with few poses found, those between are missing.
    /// </summary>
    private const int FinestShare = 6;

    /// <summary>rad; a shape that goes into itself at less counts as turned.</summary>
    private const double LeastTurn = Math.PI / 13;

    /// <summary>More are not looked at: a shape of a higher order counts as turned.</summary>
    private const int Most = 24;

    /// <summary>In robust standard deviations of the distances: so far apart two poses differ at a place.</summary>
    private const double Differs = 6;

    /// <summary>Distances are cut at this share of the diagonal: how far off a place lies beyond it says no more.</summary>
    private const double Cut = 0.05;

    private const double Exact = 1e-6;

    /// <summary>Fewer samples than this decide nothing.</summary>
    private const int Least = 12;

    /// <summary>Of all by which two poses differ, so much at least has to speak for one of them.</summary>
    private const double Consistent = 0.5;

    /// <param name="refined">Poses found, best first.</param>
    /// <param name="refine">Refines a pose and scores it.</param>
    public static Decision Decide(
        IReadOnlyList<Pose> refined, SurfaceSamples samples, AlignmentTarget target, Func<RigidTransform, Pose> refine,
        CancellationToken cancel)
    {
        bool IsNear(Pose p, double best) => p.Score < (Nearly * best) + 1e-4;
        var close = refined.Where(p => IsNear(p, refined[0].Score)).ToList();
        if (close.Count < 2)
        {
            return new([.. refined.Take(1)], null);
        }

        close = Completed(close, target.Diagonal, refine, cancel);
        var best = close.Min(p => p.Score);
        close = [.. close.Where(p => IsNear(p, best)).OrderBy(p => p.Score)];
        var cut = Cut * target.Diagonal;
        var distances = close.Select(p => CoarseAlignment.Distances(target.Tree, samples, p.Transform, cut)).ToArray();
        return Judge(close, distances, samples.Areas, Exact * target.Diagonal);
    }

    /// <summary>
    /// What takes one pose to another takes the part nearly to itself; done again and again it gives the poses that were not found.
    /// </summary>
    private static List<Pose> Completed(
        List<Pose> close, double diagonal, Func<RigidTransform, Pose> refine, CancellationToken cancel)
    {
        var all = close.ToList();
        var tried = close.Select(p => p.Transform).ToList();
        bool Joins(RigidTransform next)
        {
            cancel.ThrowIfCancellationRequested();
            if (all.Count >= Most || tried.Any(t => CoarseAlignment.SamePose(t, next, diagonal, 0.01)))
            {
                return false;
            }

            tried.Add(next);
            var pose = refine(next);
            var joins = pose.Score < (Nearly * close[0].Score) + 1e-4
                && !all.Any(p => CoarseAlignment.SamePose(p.Transform, pose.Transform, diagonal, 0.005));
            if (joins)
            {
                all.Add(pose);
            }

            return joins;
        }

        RigidTransform From(RigidTransform pose) => pose.After(close[0].Transform.Inverse());
        var shares = close.Skip(1).Take(2).SelectMany(p => Shares(From(p.Transform))).ToList();
        foreach (var share in shares)
        {
            Joins(share.After(close[0].Transform));
        }

        // What is found is used to find more, until nothing is new.
        for (var i = 0; i < all.Count; i++)
        {
            foreach (var turn in all.Skip(1).Take(Generators).Select(p => From(p.Transform)).ToList())
            {
                Joins(turn.After(all[i].Transform).Orthonormalized());
            }
        }

        return all;
    }

    /// <summary>Shares of a turn about its own axis, the finest first.</summary>
    private static IEnumerable<RigidTransform> Shares(RigidTransform turn)
    {
        var rotation = turn.RotationVector();
        if (rotation.Length < 2 * LeastTurn)
        {
            yield break;
        }

        // The axis passes where the turn moves points least: (I − R) c = t, solved across the axis.
        var axis = rotation.Normalized();
        var across = turn.Translation - (turn.Translation.Dot(axis) * axis);
        var center = 0.5 * (across + (axis.Cross(across) / Math.Tan(rotation.Length / 2)));
        for (var m = FinestShare; m >= 2; m--)
        {
            if (rotation.Length / m >= LeastTurn)
            {
                yield return RigidTransform.FromTwist(rotation / m, Vector3D.Zero, center);
            }
        }
    }

    /// <param name="exact">Distances below this are rounding, mm: a scan without noise has them at most places.</param>
    private static Decision Judge(List<Pose> close, double[][] distances, double[] areas, double exact)
    {
        var explained = Enumerable.Range(0, areas.Length).Select(i => distances.Min(d => d[i])).ToArray();
        var sigma = Math.Max(exact, 1.4826 * Median(explained));

        // What lies near the nominal in no pose is stray data, and decides nothing.
        var tells = Enumerable.Range(0, areas.Length).Where(i => explained[i] < Differs * sigma).ToArray();
        var sums = distances.Select(d => tells.Where(i => distances.Max(o => o[i]) - explained[i] > Differs * sigma)
            .Sum(i => areas[i] * d[i])).ToArray();
        var first = Enumerable.Range(0, close.Count).MinBy(k => sums[k]);
        var open = new List<Pose> { close[first] };
        double? decidedOn = null;
        for (var k = 0; k < close.Count; k++)
        {
            if (k == first)
            {
                continue;
            }

            var apart = tells.Where(i => Math.Abs(distances[k][i] - distances[first][i]) > Differs * sigma).ToArray();
            var whole = apart.Sum(i => areas[i] * Math.Abs(distances[k][i] - distances[first][i]));
            var against = apart.Sum(i => areas[i] * (distances[k][i] - distances[first][i]));
            if (apart.Length >= Least && against > Consistent * whole)
            {
                decidedOn = Math.Min(decidedOn ?? double.PositiveInfinity, apart.Sum(i => areas[i]));
            }
            else
            {
                open.Add(close[k]);
            }
        }

        return new(open, decidedOn);
    }

    private static double Median(double[] values)
    {
        var sorted = values.Order().ToArray();
        return sorted[sorted.Length / 2];
    }
}
