using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>Another pose that fits nearly as well (symmetry), with its residual relative to the chosen one.</summary>
public sealed record AlternativePose(RigidTransform Transform, double Rms, double TimesWorse);

/// <summary>
/// A scan brought onto the nominal. <see cref="Rms"/> is the area-weighted root mean square of the point-to-surface distances that took part;
/// <see cref="Inliers"/> the share of the scan's area near the nominal with agreeing normals; <see cref="Coverage"/> the share of the nominal's
/// area with scan data near it; <see cref="Condition"/> the smallest over the largest eigenvalue of the scaled normal equations (near 0: some
/// motion is not determined by the shape). <see cref="TranslationSigma"/> and <see cref="RotationSigma"/> are standard deviations of the pose.
/// </summary>
public sealed record AlignmentResult(
    RigidTransform Transform, double Rms, double Inliers, double Coverage, double Condition, double TranslationSigma, double RotationSigma,
    int PointsUsed, IReadOnlyList<AlternativePose> Alternatives)
{
    /// <summary>Below these shares the scan is taken for another part: no verdict may rest on the alignment.</summary>
    public bool Resembles => Inliers >= 0.6 && Coverage >= 0.1;
}
