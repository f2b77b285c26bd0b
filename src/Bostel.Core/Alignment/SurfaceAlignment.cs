using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>Fits a scan to all surfaces of its nominal, from any pose.</summary>
public static class SurfaceAlignment
{
    /// <summary>
    /// Coarse, then fine. The result maps scan coordinates (mm) to nominal coordinates. Poses that fit as well within the noise are returned as
    /// alternatives. The caller decides by <see cref="AlignmentResult.Resembles"/> whether the scan is of this part at all.
    /// </summary>
    /// <param name="scan">Prepared scan, mm. A cloud without triangles is aligned without normals.</param>
    /// <param name="nominal">Index over the nominal.</param>
    /// <param name="progress">0 to 1 with what is being done.</param>
    public static AlignmentResult FitToAllSurfaces(TriangleMesh scan, TriangleTree nominal, IProgress<(double Share, string What)>? progress = null, CancellationToken cancel = default)
    {
        progress?.Report((0, "Looking for the pose"));
        var moved = Centred(scan, out var shift);
        var samples = SurfaceSamples.OfScan(moved, 20000);
        var nominalSamples = SurfaceSamples.Even(nominal.Mesh, 8000);
        var directions = scan.TriangleCount == 0 ? BothSenses(samples) : samples;
        var inner = progress is null ? null : new Progress(share => progress.Report((0.5 * share, "Looking for the pose")));
        var poses = CoarseAlignment.Find(samples, directions, nominalSamples, nominal, inner, cancel);
        var diagonal = nominal.Mesh.Bounds.Diagonal;
        var refined = new List<(PointToPlane.Outcome Outcome, double Score)>();
        foreach (var pose in poses.TakeWhile(p => p.Score < (3 * poses[0].Score) + (1e-4 * diagonal)).Take(6))
        {
            var outcome = PointToPlane.Refine(samples, nominal, pose.Transform, new(40, 0.01 * diagonal, 1e-4, 1e-6 * diagonal), cancel);
            refined.Add((outcome, CoarseAlignment.ExactScore(nominal, samples, outcome.Transform, 0.01 * diagonal)));
            progress?.Report((0.5 + (0.2 * refined.Count / 6), "Comparing the poses"));
        }

        refined.Sort((a, b) => a.Score.CompareTo(b.Score));
        var final = Refine(moved, nominal, refined[0].Outcome.Transform, progress, cancel);
        var others = Alternatives(refined, final, diagonal, shift);
        return final with { Transform = final.Transform.After(shift), Alternatives = others };
    }

    /// <summary>Fine alignment from a given start (a pose chosen by hand, a loaded transform, an alternative).</summary>
    public static AlignmentResult RefineFrom(TriangleMesh scan, TriangleTree nominal, RigidTransform start, IProgress<(double Share, string What)>? progress = null, CancellationToken cancel = default)
    {
        var moved = Centred(scan, out var shift);
        var result = Refine(moved, nominal, start.After(shift.Inverse()), progress, cancel);
        return result with { Transform = result.Transform.After(shift) };
    }

    /// <summary>Residuals and coverage of a pose that is taken as it is.</summary>
    public static AlignmentResult Assess(TriangleMesh scan, TriangleTree nominal, RigidTransform transform)
    {
        var moved = Centred(scan, out var shift);
        var local = transform.After(shift.Inverse());
        var samples = SurfaceSamples.OfScan(moved, 60000);
        var outcome = PointToPlane.Refine(samples, nominal, local, new(1, 0.01 * nominal.Mesh.Bounds.Diagonal, 1e-4, 0)) with { Transform = local };
        return Describe(outcome, moved, nominal) with { Transform = transform };
    }

    private static AlignmentResult Refine(TriangleMesh scan, TriangleTree nominal, RigidTransform start, IProgress<(double Share, string What)>? progress, CancellationToken cancel)
    {
        var diagonal = nominal.Mesh.Bounds.Diagonal;
        var coarse = PointToPlane.Refine(SurfaceSamples.OfScan(scan, 20000), nominal, start, new(60, 0.01 * diagonal, 1e-4, 1e-6), cancel);
        progress?.Report((0.8, "Finishing on all points"));
        var all = SurfaceSamples.OfScan(scan, 400_000);
        var fine = PointToPlane.Refine(all, nominal, coarse.Transform, new(12, Math.Max(6 * coarse.Scale, 1e-3 * diagonal), 1e-4, 1e-6), cancel);
        progress?.Report((0.95, "Measuring the coverage"));
        return Describe(fine, scan, nominal);
    }

    private static AlignmentResult Describe(PointToPlane.Outcome outcome, TriangleMesh scan, TriangleTree nominal)
    {
        var diagonal = nominal.Mesh.Bounds.Diagonal;
        var lever = diagonal / 2;
        var (values, _) = SymmetricEigen.Solve(outcome.Matrix);
        var condition = values[^1] > 0 ? Math.Max(0, values[0]) / values[^1] : 0;
        var near = Share(SurfaceSamples.OfScan(scan, 20000), nominal, outcome.Transform, Math.Max(0.3, 0.004 * diagonal));
        var coverage = Coverage(scan, nominal, outcome.Transform);

        // Scatter per sample over the weighted matrix; neighbouring points are correlated, which PoseSigma allows for by a factor of three.
        var mean = outcome.Used > 0 ? Trace(outcome.Matrix) / outcome.Used / 2 : 1;
        var inverse = LinearSolve.Inverse(outcome.Matrix);
        double Sigma(int first) => inverse is null
            ? double.PositiveInfinity
            : 3 * outcome.Rms * Math.Sqrt(mean * Math.Max(inverse[first, first], Math.Max(inverse[first + 1, first + 1], inverse[first + 2, first + 2])));
        return new(outcome.Transform, outcome.Rms, near, coverage, condition, Sigma(3), Sigma(0) / lever, outcome.Used, []);
    }

    /// <summary>A cloud's normals have no sense: for the search of dominant directions each point counts both ways.</summary>
    private static SurfaceSamples BothSenses(SurfaceSamples cloud)
    {
        var normals = CloudNormals.Estimate(cloud.Points, out _);
        return new([.. cloud.Points, .. cloud.Points], [.. normals, .. normals.Select(n => -n)], [.. cloud.Areas, .. cloud.Areas]);
    }

    private static double Trace(double[,] m) => Enumerable.Range(3, 3).Sum(i => m[i, i]) * 2;

    private static List<AlternativePose> Alternatives(List<(PointToPlane.Outcome Outcome, double Score)> refined, AlignmentResult best, double diagonal, RigidTransform shift) =>
        [.. refined.Skip(1)
            .Where(r => r.Score < (1.3 * refined[0].Score) + 1e-4 && !CoarseAlignment.SamePose(r.Outcome.Transform, best.Transform, diagonal, 0.005))
            .Select(r => new AlternativePose(r.Outcome.Transform.After(shift), r.Outcome.Rms, r.Score / Math.Max(1e-9, refined[0].Score)))];

    /// <summary>Share of the scan's area within a distance of the nominal with agreeing normals.</summary>
    private static double Share(SurfaceSamples samples, TriangleTree nominal, RigidTransform transform, double limit)
    {
        var near = new bool[samples.Count];
        PointToPlane.ForChunks(samples.Count, (_, from, to) =>
        {
            for (var i = from; i < to; i++)
            {
                var n = transform.Rotate(samples.Normals[i]);
                near[i] = nominal.Closest(transform.Apply(samples.Points[i]), limit, -1, n, n.LengthSquared > 0.5 ? 0.5 : -2).Found;
            }
        });
        double sum = 0, area = 0;
        for (var i = 0; i < near.Length; i++)
        {
            sum += near[i] ? samples.Areas[i] : 0;
            area += samples.Areas[i];
        }

        return area > 0 ? sum / area : 0;
    }

    /// <summary>Share of the nominal's area that has scan points within three mean edges.</summary>
    private static double Coverage(TriangleMesh scan, TriangleTree nominal, RigidTransform transform)
    {
        var samples = SurfaceSamples.Even(nominal.Mesh, 4000);
        var inverse = transform.Inverse();
        var points = new PointTree(scan.Coordinates);
        var reach = Math.Max(3 * scan.MeanEdge(), 0.005 * nominal.Mesh.Bounds.Diagonal);
        var covered = 0;
        foreach (var p in samples.Points)
        {
            covered += points.Nearest(inverse.Apply(p), reach) >= 0 ? 1 : 0;
        }

        return (double)covered / samples.Count;
    }

    /// <summary>Works about the scan's own centre, so that nothing is lost far from the origin. The shift maps scan to centred coordinates.</summary>
    private static TriangleMesh Centred(TriangleMesh scan, out RigidTransform shift)
    {
        shift = RigidTransform.FromTranslation(-scan.Bounds.Center);
        return scan.Transformed(shift);
    }

    private sealed class Progress(Action<double> report) : IProgress<double>
    {
        public void Report(double value) => report(value);
    }
}
