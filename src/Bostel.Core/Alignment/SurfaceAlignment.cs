using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>Fits a scan to the surfaces of its nominal, from any pose or from a start.</summary>
public static class SurfaceAlignment
{
    /// <summary>Enough to come close from a start that is some degrees off.</summary>
    private const int ToComeClose = 2_500;

    /// <summary>
    /// Neighbouring points err alike, and with noise of 0.02 mm more points than these would not move the pose by 0.2 µm.
    /// </summary>
    private const int ToSettle = 20_000;

    /// <summary>Where only some faces count, or the extremes.</summary>
    private const int ForChosenFaces = 100_000;

    /// <summary>When less of a scan than this lies near its nominal, it is looked whether its mirror image lies better.</summary>
    private const double Doubtful = 0.95;

    /// <summary>
    /// Coarse, then fine. The result maps scan coordinates (mm) to nominal coordinates. Poses that fit as well within the noise are
    /// returned as alternatives. The caller decides by <see cref="AlignmentResult.Resembles"/> whether the scan is of this part at all.
    /// </summary>
    /// <param name="scan">Prepared scan, mm. A cloud without triangles is aligned without normals.</param>
    /// <param name="target">The nominal made ready.</param>
    /// <param name="scope">Which surfaces the fine alignment uses, and with what weight; nothing is locked when the pose is sought.</param>
    /// <param name="progress">0 to 1 with what is being done.</param>
    public static AlignmentResult FitToAllSurfaces(
        TriangleMesh scan, AlignmentTarget target, AlignmentScope? scope = null, IProgress<(double Share, string What)>? progress = null,
        CancellationToken cancel = default)
    {
        progress?.Report((0, "Looking for the pose"));
        var moved = Centred(scan, out var shift);
        var samples = SurfaceSamples.OfScan(moved, ToSettle);
        var directions = scan.TriangleCount == 0 ? BothSenses(samples) : samples;
        var inner = progress is null ? null : new Progress(share => progress.Report((0.5 * share, "Looking for the pose")));
        var found = CoarseAlignment.Find(samples, directions, target, inner, cancel);
        if (found.Hopeless)
        {
            progress?.Report((0.8, "Looking whether it is mirrored"));
            var unlike = Assess(scan, target, found.Poses[0].Transform.After(shift));
            return unlike with { Mirrored = Mirrored(unlike.Inliers, samples, directions, target, cancel) };
        }

        var (poses, decidedOn) = Compared(found.Poses, samples, target, progress, cancel);
        var final = Refine(moved, target, poses[0].Transform, poses[0].Transform, 0.01 * target.Diagonal,
            (scope ?? AlignmentScope.Everything) with { Locked = [] }, progress, cancel);
        var mirrored = final.Inliers < Doubtful && Mirrored(final.Inliers, samples, directions, target, cancel);
        return final with
        {
            Transform = final.Transform.After(shift),
            Mirrored = mirrored,
            DecidedOn = decidedOn,
            Alternatives = Alternatives(poses, final, target.Diagonal, shift)
        };
    }

    /// <summary>
    /// Whether the mirror image of a scan that fits badly or nowhere lies on the nominal: then it was mirrored on its way here (an axis
    /// turned over in an export), or the part is of the opposite hand. The same search, on mirrored samples; they must leave out less than
    /// half of what the scan itself does.
    /// </summary>
    private static bool Mirrored(
        double inliers, SurfaceSamples samples, SurfaceSamples directions, AlignmentTarget target, CancellationToken cancel)
    {
        static SurfaceSamples Mirror(SurfaceSamples s) => s with
        {
            Points = [.. s.Points.Select(p => new Vector3D(-p.X, p.Y, p.Z))],
            Normals = [.. s.Normals.Select(n => new Vector3D(-n.X, n.Y, n.Z))],
        };
        var image = Mirror(samples);
        var found = CoarseAlignment.Find(image, Mirror(directions), target, null, cancel);
        return !found.Hopeless
            && CoarseAlignment.NearShare(target, image, found.Poses[0].Transform, NearEnough(target)) >= Math.Max(
                AlignmentResult.LeastInliers, 0.5 * (1 + inliers));
    }

    /// <summary>Fine alignment from a given start (a pose chosen by hand, a loaded transform, an alternative).</summary>
    /// <param name="start">Scan to nominal coordinates, within a few per cent of the part's size.</param>
    /// <param name="scope">Which surfaces are used, with what weight, and which motions keep the start's value.</param>
    public static AlignmentResult RefineFrom(
        TriangleMesh scan, AlignmentTarget target, RigidTransform start, AlignmentScope? scope = null,
        IProgress<(double Share, string What)>? progress = null, CancellationToken cancel = default)
    {
        var moved = Centred(scan, out var shift);
        var wanted = scope ?? AlignmentScope.Everything;
        var given = start.After(shift.Inverse());
        var options =
            new PointToPlane.Options(30, 0.02 * target.Diagonal, 1e-4, 1e-5 * target.Diagonal) { Grid = target.Grid, Scope = wanted };
        var close = PointToPlane.Refine(SurfaceSamples.OfScan(moved, ToComeClose), target.Tree, given, options, cancel);
        var result =
            Refine(moved, target, close.Transform, given, Math.Max(6 * close.Scale, 2e-3 * target.Diagonal), wanted, progress, cancel);
        return result with { Transform = result.Transform.After(shift) };
    }

    /// <summary>
    /// From a start, balances the part within its tolerance bands: the largest amount by which any point lies out of its band is least
    /// (<see cref="BalancedFit"/>).
    /// </summary>
    /// <param name="lower">Lower limit of the deviation for each triangle of the nominal, mm.</param>
    /// <param name="upper">Upper limit.</param>
    public static AlignmentResult Balance(
        TriangleMesh scan, AlignmentTarget target, RigidTransform start, double[] lower, double[] upper, AlignmentScope? scope = null,
        IProgress<(double Share, string What)>? progress = null, CancellationToken cancel = default)
    {
        var wanted = scope ?? AlignmentScope.Everything;
        var fitted = RefineFrom(scan, target, start, wanted, progress, cancel);
        var moved = Centred(scan, out var shift);
        var (transform, worst) = BalancedFit.Improve(
            SurfaceSamples.OfScan(moved, ForChosenFaces), target, fitted.Transform.After(shift.Inverse()), lower, upper, wanted, cancel);
        return Assess(scan, target, transform.After(shift)) with { LargestOutOfTolerance = worst, Uncertainty = fitted.Uncertainty };
    }

    /// <summary>Residuals and coverage of a pose that is taken as it is.</summary>
    public static AlignmentResult Assess(TriangleMesh scan, AlignmentTarget target, RigidTransform transform)
    {
        var moved = Centred(scan, out var shift);
        var local = transform.After(shift.Inverse());
        var samples = SurfaceSamples.OfScan(moved, 60000);
        var outcome = PointToPlane.Refine(samples, target.Tree, local, new(1, 0.01 * target.Diagonal, 1e-4, 0)) with { Transform = local };
        return Describe(outcome, moved, samples, target, AlignmentScope.Everything) with { Transform = transform, Uncertainty = null };
    }

    private static SymmetricPoses.Decision Compared(
        List<CoarseAlignment.Candidate> poses, SurfaceSamples samples, AlignmentTarget target,
        IProgress<(double Share, string What)>? progress, CancellationToken cancel)
    {
        // Refined on fewer points, told apart on all of them.
        var refined = new List<SymmetricPoses.Pose>();
        var some = CoarseAlignment.Thin(samples, 2 * ToComeClose);
        var options = new PointToPlane.Options(
            40, 0.01 * target.Diagonal, 1e-4, 1e-5 * target.Diagonal)
        { Grid = target.Grid, MostBlocks = CoarseAlignment.RoughBlocks };
        SymmetricPoses.Pose Refined(RigidTransform start)
        {
            var outcome = PointToPlane.Refine(some, target.Tree, start, options, cancel);
            var score = CoarseAlignment.ExactScore(target.Tree, samples, outcome.Transform, 0.01 * target.Diagonal);
            return new(outcome.Transform, outcome.Rms, score);
        }

        foreach (var pose in poses.TakeWhile(p => p.Score < (3 * poses[0].Score) + (1e-4 * target.Diagonal)).Take(6))
        {
            refined.Add(Refined(pose.Transform));
            progress?.Report((0.5 + (0.05 * refined.Count), "Comparing the poses"));
        }

        refined.Sort((a, b) => a.Score.CompareTo(b.Score));

        // Where nothing fits, many poses fit alike badly, and no symmetry of the part is the reason.
        var near = CoarseAlignment.NearShare(target, samples, refined[0].Transform, NearEnough(target));
        return near < AlignmentResult.LeastInliers
            ? new([refined[0]], null)
            : SymmetricPoses.Decide(refined, samples, target, Refined, cancel);
    }

    private static AlignmentResult Refine(
        TriangleMesh scan, AlignmentTarget target, RigidTransform start, RigidTransform reference, double reach, AlignmentScope scope,
        IProgress<(double Share, string What)>? progress, CancellationToken cancel)
    {
        progress?.Report((0.8, "Finishing on all points"));
        var all = SurfaceSamples.OfScan(scan, scope.TriangleWeights is null ? ToSettle : ForChosenFaces);
        var fine = PointToPlane.Refine(
            all, target.Tree, start, new(60, reach, 1e-4, 1e-6) { Grid = target.Grid, Scope = scope, Reference = reference }, cancel);
        progress?.Report((0.95, "Measuring the coverage"));
        return Describe(fine, scan, all, target, scope);
    }

    private static AlignmentResult Describe(
        PointToPlane.Outcome outcome, TriangleMesh scan, SurfaceSamples samples, AlignmentTarget target, AlignmentScope scope)
    {
        var (values, _) = SymmetricEigen.Solve(outcome.Matrix);
        var condition = values[^1] > 0 ? Math.Max(0, values[0]) / values[^1] : 0;
        var near = CoarseAlignment.NearShare(target, SurfaceSamples.OfScan(scan, ToSettle), outcome.Transform, NearEnough(target));
        var sure = PoseCovariance.Of(outcome, samples, scope.WeightOf, target.Center, scope.Free);
        double Sigma(int first) => Math.Sqrt(Enumerable.Range(first, 3).Max(i => sure.Covariance[7 * i]));
        return new(outcome.Transform, outcome.Rms, near, Coverage(scan, target, outcome.Transform), condition, Sigma(3), Sigma(0),
            outcome.Used, [])
        { Uncertainty = sure };
    }

    /// <summary>Within this the scan counts as near the nominal, mm.</summary>
    private static double NearEnough(AlignmentTarget target) => Math.Max(0.3, 0.004 * target.Diagonal);

    /// <summary>A cloud's normals have no sense: for the search of dominant directions each point counts both ways.</summary>
    private static SurfaceSamples BothSenses(SurfaceSamples cloud)
    {
        var normals = CloudNormals.Estimate(cloud.Points, out _);
        return new([.. cloud.Points, .. cloud.Points], [.. normals, .. normals.Select(n => -n)], [.. cloud.Areas, .. cloud.Areas]);
    }

    private static List<AlternativePose> Alternatives(
        List<SymmetricPoses.Pose> poses, AlignmentResult best, double diagonal, RigidTransform shift) =>
        [.. poses.Skip(1)
            .Where(r => !CoarseAlignment.SamePose(r.Transform, best.Transform, diagonal, 0.005))
            .Select(r => new AlternativePose(r.Transform.After(shift), r.Rms, r.Score / Math.Max(1e-9, poses[0].Score)))];

    /// <summary>
    /// Share of the nominal's area that has scan points within three mean edges, on its own side: those of a sheet's other skin do not
    /// count. Large scans are thinned and the reach widened with them. Clouds without normals know no sides.
    /// </summary>
    private static double Coverage(TriangleMesh scan, AlignmentTarget target, RigidTransform transform)
    {
        var step = Math.Max(1, scan.MeasuredVertexCount / 40_000);
        var points = new double[3 * ((scan.MeasuredVertexCount + step - 1) / step)];
        for (var i = 0; i < points.Length / 3; i++)
        {
            (points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]) = scan.Vertex(i * step);
        }

        var inverse = transform.Inverse();
        var sides = new SidedPoints(points, scan.HasNormals ? i => scan.Normal(i * step) : null);
        var reach = Math.Max(3 * scan.MeanEdge() * Math.Sqrt(step), 0.005 * target.Diagonal);
        var samples = target.Samples;
        int covered = 0, tried = 0;
        for (var i = 0; i < samples.Count; i += 2, tried++)
        {
            covered += sides.Any(inverse.Apply(samples.Points[i]), inverse.Rotate(samples.Normals[i]), reach) ? 1 : 0;
        }

        return (double)covered / tried;
    }

    /// <summary>
    /// Works about the scan's own centre, so that nothing is lost far from the origin. The shift maps scan to centred coordinates.
    /// </summary>
    private static TriangleMesh Centred(TriangleMesh scan, out RigidTransform shift)
    {
        shift = RigidTransform.FromTranslation(-scan.Bounds.Center);
        return scan.Shifted(-scan.Bounds.Center);
    }

    private sealed class Progress(Action<double> report) : IProgress<double>
    {
        public void Report(double value) => report(value);
    }
}
