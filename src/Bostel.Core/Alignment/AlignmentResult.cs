using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>Another pose that fits nearly as well (symmetry), with its residual relative to the chosen one.</summary>
public sealed record AlternativePose(RigidTransform Transform, double Rms, double TimesWorse);

/// <summary>
/// How sure a pose is: covariance of small turns (rad, about <see cref="Center"/>) and shifts (mm) in nominal axes, 36 numbers row by row,
/// from the scatter of the residuals, the shape of the surface, and the effective number of independent points. A locked motion has no
/// variance; one that the surface does not resist is infinite.
/// </summary>
public sealed record PoseUncertainty(double[] Covariance, Vector3D Center, double EffectivePoints)
{
    /// <summary>Of a pose that is off by independent motions of one standard deviation each.</summary>
    /// <param name="free">Motions that nothing holds.</param>
    public static PoseUncertainty Of(
        IEnumerable<SmallMotion> errors, Vector3D center, IEnumerable<Motion> free, double effectivePoints)
    {
        var covariance = new double[36];
        foreach (var error in errors)
        {
            double[] six = [.. error.Turn.ToArray(), .. error.Of(center).ToArray()];
            for (var i = 0; i < 36; i++)
            {
                covariance[i] += six[i / 6] * six[i % 6];
            }
        }

        foreach (var motion in free)
        {
            covariance[7 * (int)motion] = double.PositiveInfinity;
        }

        return new(covariance, center, effectivePoints);
    }

    /// <summary>Standard deviation of the place of a point of the part, in its worst direction, mm.</summary>
    public double SigmaAt(Vector3D p)
    {
        if (Covariance.Any(double.IsInfinity))
        {
            return double.PositiveInfinity;
        }

        // Displacement = shift + turn × arm.
        var arm = p - Center;
        double[,] j = { { 0, arm.Z, -arm.Y, 1, 0, 0 }, { -arm.Z, 0, arm.X, 0, 1, 0 }, { arm.Y, -arm.X, 0, 0, 0, 1 } };
        var spread = new double[3, 3];
        for (var r = 0; r < 3; r++)
        {
            for (var c = 0; c < 3; c++)
            {
                for (var a = 0; a < 6; a++)
                {
                    for (var b = 0; b < 6; b++)
                    {
                        spread[r, c] += j[r, a] * Covariance[(6 * a) + b] * j[c, b];
                    }
                }
            }
        }

        return Math.Sqrt(Math.Max(0, SymmetricEigen.Solve(spread).Values[^1]));
    }
}

/// <summary>
/// What one datum, or one group of reference points, did to a pose: motions it fixed, motions still free after it, and the distance left.
/// </summary>
public sealed record AlignmentStep(string Name, int Fixed, int Free, double Residual, string Says)
{
    /// <summary>Which of the six motions it took; none where several hold them together.</summary>
    public IReadOnlyList<Motion> Takes { get; init; } = [];
}

/// <summary>
/// A scan brought onto the nominal. <see cref="Rms"/> is the area-weighted root mean square of the point-to-surface distances that took
/// part; <see cref="Inliers"/> the share of the scan's area near the nominal with agreeing normals; <see cref="Coverage"/> the share of the
/// nominal's area with scan data near it; <see cref="Condition"/> the smallest over the largest eigenvalue of the scaled normal equations
/// (near 0: some motion is not determined by the shape). <see cref="TranslationSigma"/> and <see cref="RotationSigma"/> are standard
/// deviations of the pose.
/// </summary>
public sealed record AlignmentResult(
    RigidTransform Transform, double Rms, double Inliers, double Coverage, double Condition, double TranslationSigma, double RotationSigma,
    int PointsUsed, IReadOnlyList<AlternativePose> Alternatives)
{
    /// <summary>Least share of the scan that must lie near the nominal, and of the nominal that must have scan near it.</summary>
    public const double LeastInliers = 0.6;
    public const double LeastCoverage = 0.1;

    /// <summary>Below these shares the scan is taken for another part: no verdict may rest on the alignment.</summary>
    public bool Resembles => Inliers >= LeastInliers && Coverage >= LeastCoverage && !Mirrored;

    /// <summary>
    /// The scan does not resemble the nominal, but its mirror image does: it was mirrored on its way here, or is of the opposite hand.
    /// </summary>
    public bool Mirrored { get; init; }

    /// <summary>Null where the pose was given and not fitted.</summary>
    public PoseUncertainty? Uncertainty { get; init; }

    /// <summary>
    /// Standard deviation of the place of the corner of the part's box that is known worst, mm; infinite where a motion is not held, null
    /// where the pose was given and not fitted.
    /// </summary>
    public double? FarthestSigma { get; init; }

    /// <summary>
    /// Surface on which this pose was told from others that fit nearly as well, mm²: a keyway or notch of a part that is symmetrical but
    /// for it. Null where no other fitted nearly as well, or none could be told apart.
    /// </summary>
    public double? DecidedOn { get; init; }

    /// <summary>For alignments by datums or reference points, in the order applied.</summary>
    public IReadOnlyList<AlignmentStep> Steps { get; init; } = [];

    /// <summary>Balanced alignments: by how much the worst point lies out of its tolerance, mm; negative when all lie within.</summary>
    public double? LargestOutOfTolerance { get; init; }
}
