using Bostel.Core.Alignment;
using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Plans;

/// <summary>How sure a pose is that measured features determine.</summary>
internal static class FeaturePose
{
    /// <summary>
    /// The pose is solved anew with the features off by each of their independent errors; their effects add up to first order
    /// (JCGM 100:2008, 5.1.3 note 2). An error that features share moves them together.
    /// </summary>
    /// <param name="features">All that the pose rests on.</param>
    /// <param name="pose">As solved from the features as measured.</param>
    /// <param name="center">About which turns are told.</param>
    /// <param name="free">Motions that no feature holds: they have no bounds here.</param>
    /// <param name="solve">The pose from the shapes that features are given.</param>
    public static PoseUncertainty Uncertainty(IReadOnlyList<FeatureResult> features, RigidTransform pose, Vector3D center,
        IEnumerable<Motion> free, Func<Func<FeatureResult, Shape>, RigidTransform> solve)
    {
        var covariance = new double[36];
        var back = pose.Inverse();
        foreach (var (source, index) in features.SelectMany(f => f.Variations).Select(v => (v.Source, v.Index)).Distinct())
        {
            var motion = SmallMotion.Of(solve(f => f.Varied(source, index)).After(back), center);
            double[] six = [.. motion.Turn.ToArray(), .. motion.Shift.ToArray()];
            for (var i = 0; i < 36; i++)
            {
                covariance[i] += six[i / 6] * six[i % 6];
            }
        }

        foreach (var motion in free)
        {
            covariance[7 * (int)motion] = double.PositiveInfinity;
        }

        return new(covariance, center, features.Min(f => f.EffectivePoints));
    }
}
