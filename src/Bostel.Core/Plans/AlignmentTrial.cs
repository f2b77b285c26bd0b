using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>One of the six motions of the part, and what holds it; null: nothing, it stays as it came.</summary>
public sealed record HeldMotion(Motion Motion, string? By)
{
    /// <summary>All six.</summary>
    public static IReadOnlyList<HeldMotion> Of(AlignedOutcome aligned) =>
        [.. Enum.GetValues<Motion>().Select(m => new HeldMotion(m, aligned.How.HeldBy(m, aligned.Result)))];
}

/// <summary>A characteristic whose verdict another alignment changes.</summary>
public sealed record VerdictChange(int No, string Name, Verdict Before, Verdict After);

/// <summary>What another alignment changes: how far it moves the corner of the part that it moves most, how far it turns it.</summary>
public sealed record PoseChange(double Moves, double TurnsDegrees)
{
    public static PoseChange Of(RigidTransform motion, Box3D part) => new(
        part.Corners.Max(c => Vector3D.Distance(motion.Apply(c), c)), motion.RotationVector().Length * 180 / Math.PI);
}

/// <summary>A way of aligning, tried on a scan without being kept.</summary>
/// <param name="Change">Against the pose that the piece has now; null: it has none.</param>
public sealed record AlignmentTrial(AlignedOutcome Aligned, PoseChange? Change)
{
    /// <param name="part">The nominal's box, mm.</param>
    public static AlignmentTrial Of(AlignedOutcome aligned, RigidTransform? present, Box3D part) => new(aligned, present is { } now
        ? PoseChange.Of(aligned.Result.Transform.After(now.Inverse()), part)
        : null);

    /// <summary>Rows whose verdict differs.</summary>
    public static IReadOnlyList<VerdictChange> Verdicts(
        IEnumerable<(int No, Verdict Verdict)> before, IEnumerable<CharacteristicResult> after)
    {
        var old = before.ToDictionary(r => r.No, r => r.Verdict);
        return [.. after.Where(r => old.TryGetValue(r.Plan.No, out var was) && was != r.Verdict)
            .Select(r => new VerdictChange(r.Plan.No, r.Plan.Name, old[r.Plan.No], r.Verdict))];
    }
}
