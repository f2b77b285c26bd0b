using Bostel.Core.Alignment;
using Bostel.Core.Geometry;

namespace Bostel.Core.Plans;

/// <summary>A way that starts from a given pose, or from a best fit to all surfaces that needs no start.</summary>
public abstract record StartedPlan : AlignPlan
{
    /// <summary>
    /// Half of the smallest turn between the poses of parts with up to six equal sides: nearer than this a pose is meant, rad.
    /// </summary>
    private const double FarthestPreferred = Math.PI / 6;

    /// <summary>Scan to nominal, 16 numbers row by row.</summary>
    public double[]? Start { get; init; }

    /// <summary>
    /// The pose that a person chose where several fit equally well (a symmetrical part): of those found, the one turned nearest to it is
    /// taken. Pieces delivered in another frame, where none lies near, keep the best. 16 numbers, scan to nominal.
    /// </summary>
    public double[]? Prefer { get; init; }

    internal override AlignmentResult Run(AlignmentTask task)
    {
        var first = Start is { } given
            ? task.Assess(RigidTransform.FromArray(given))
            : Preferred(task, null, task.BestFit());
        return first.Resembles
            ? From(first, task) with { Alternatives = first.Alternatives, DecidedOn = first.DecidedOn }
            : first;
    }

    /// <summary>The pose sought, from one near it.</summary>
    private protected abstract AlignmentResult From(AlignmentResult first, AlignmentTask task);

    private protected string Aside =>
        (Start is null ? "" : ", from a given start") + (Prefer is null ? "" : ", the pose nearest to the chosen one");

    internal override IEnumerable<string> Faults(IReadOnlySet<string> datums)
    {
        foreach (var pose in new[] { Start, Prefer }.OfType<double[]>())
        {
            _ = RigidTransform.FromArray(pose);
        }

        return [];
    }

    /// <summary>
    /// Of poses that fit equally well the one turned nearest to a preferred pose, if one lies near it; the others stay its alternatives. A
    /// preference made in another frame than this scan's lies near none of them and decides nothing.
    /// </summary>
    private protected AlignmentResult Preferred(AlignmentTask task, AlignmentScope? scope, AlignmentResult best)
    {
        if (Prefer is not { } prefer || best.Alternatives.Count == 0)
        {
            return best;
        }

        var wanted = RigidTransform.FromArray(prefer);
        double Off(RigidTransform pose) => pose.After(wanted.Inverse()).RotationAngle();
        var chosen = best.Alternatives.MinBy(a => Off(a.Transform))!;
        if (Off(chosen.Transform) >= Math.Min(Off(best.Transform), FarthestPreferred))
        {
            return best;
        }

        var refined = SurfaceAlignment.RefineFrom(task.Scan, task.Target, chosen.Transform, scope, null, task.Cancel);
        return refined with
        {
            Alternatives =
                [new AlternativePose(best.Transform, best.Rms, 1 / chosen.TimesWorse),
                    .. best.Alternatives.Where(a => a != chosen).Select(a => a with { TimesWorse = a.TimesWorse / chosen.TimesWorse })],
        };
    }
}
