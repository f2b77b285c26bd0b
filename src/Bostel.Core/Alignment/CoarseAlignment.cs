using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// Poses of a scan on its nominal without a start. Rotations come from matching pairs of dominant directions, from one dominant direction
/// with every spin about it, and from principal axes with all sign flips; for each, the translation comes from correlating the histograms
/// of surface positions along three axes. Poses are scored on a distance grid, the best are refined point to plane, twice, on more points
/// each time.
/// </summary>
internal static class CoarseAlignment
{
    private const int HistogramBins = 160;

    /// <summary>
    /// A rough search that has tested so many blocks of triangles finds no counterpart: mostly none around faces the right way.
    /// </summary>
    internal const int RoughBlocks = 96;

    /// <summary>
    /// In the right pose at least <see cref="AlignmentResult.LeastInliers"/> of a scan lie near its nominal, and after the rough steps most
    /// of them within a few hundredths of its size. When less than these shares do in every pose, the scan is of another part, and refining
    /// further would only take long.
    /// </summary>
    private const double LeastAfterFirst = 0.75 * AlignmentResult.LeastInliers;
    private const double LeastAfterSecond = 0.83 * AlignmentResult.LeastInliers;

    internal sealed record Candidate(RigidTransform Transform, double Score);

    /// <summary>The poses found. Hopeless: none of them is near enough to be worth refining.</summary>
    internal sealed record Found(List<Candidate> Poses, bool Hopeless);

    /// <param name="directions">The scan's samples with normals for the dominant directions; those of <paramref name="scan"/> may be
    /// zero.</param>
    /// <summary>Refined, distinct poses, best first. Scores are mean truncated distances in mm: smaller is better.</summary>
    public static Found Find(
        SurfaceSamples scan, SurfaceSamples directions, AlignmentTarget target, IProgress<double>? progress, CancellationToken cancel)
    {
        var (tree, nominal, grid, diagonal) = (target.Tree, target.Samples, target.Grid, target.Diagonal);
        var rotations = Rotations(directions, target);
        progress?.Report(0.15);
        var sparse = Thin(scan, 1200);
        var probe = Thin(scan, 300);
        var bare = scan.Normals[0].LengthSquared < 0.5;
        var nominalHistograms = Histograms(bare ? nominal with { Normals = new Vector3D[nominal.Count] } : nominal, RigidTransform.Identity,
            tree.Mesh.Bounds.Center, diagonal);
        var scored = new List<Candidate>[rotations.Count];
        Parallel.For(0, rotations.Count, new ParallelOptions { CancellationToken = cancel }, r =>
            scored[r] = [.. Translations(sparse, rotations[r], nominalHistograms, tree.Mesh.Bounds.Center, diagonal)
                .Select(t => new Candidate(t, Score(grid, probe, t, 0.05 * diagonal))).OrderBy(c => c.Score).Take(3)]);
        progress?.Report(0.4);

        var rough = Best(scored.SelectMany(s => s), 64, diagonal, 0.03);
        var first = Best(Refined(rough, Thin(scan, 200), target, true, 5, 0.06 * diagonal, cancel), 24, diagonal, 0.01);
        progress?.Report(0.6);
        var trial = Thin(scan, 500);
        if (first.All(c => NearShare(target, trial, c.Transform, 0.02 * diagonal, RoughBlocks) < LeastAfterFirst))
        {
            return new(first, true);
        }

        var second = Best(Refined(first, Thin(scan, 500), target, true, 8, 0.04 * diagonal, cancel), 10, diagonal, 0.01);
        progress?.Report(0.8);
        if (second.All(c => NearShare(target, trial, c.Transform, 0.01 * diagonal, RoughBlocks) < LeastAfterSecond))
        {
            return new(second, true);
        }

        return new(Best(Refined(second, Thin(scan, 2000), target, false, 25, 0.02 * diagonal, cancel), 10, diagonal, 0.005), false);
    }

    /// <summary>Mean distance, cut at a limit, over samples with agreeing normals.</summary>
    public static double ExactScore(
        TriangleTree tree, SurfaceSamples scan, RigidTransform transform, double limit, int mostBlocks = int.MaxValue)
    {
        var distances = Distances(tree, scan, transform, limit, mostBlocks);
        double sum = 0, area = 0;
        for (var i = 0; i < distances.Length; i++)
        {
            sum += scan.Areas[i] * distances[i];
            area += scan.Areas[i];
        }

        return sum / area;
    }

    /// <summary>Distances of the samples from surfaces with agreeing normals, cut at a limit; mm.</summary>
    public static double[] Distances(
        TriangleTree tree, SurfaceSamples scan, RigidTransform transform, double limit, int mostBlocks = int.MaxValue)
    {
        var distances = new double[scan.Count];
        PointToPlane.ForChunks(scan.Count, (_, from, to) =>
        {
            var seed = -1;
            for (var i = from; i < to; i++)
            {
                var n = transform.Rotate(scan.Normals[i]);
                var hit = tree.Closest(transform.Apply(scan.Points[i]), limit, seed, n, n.LengthSquared > 0.5 ? 0.5 : -2, mostBlocks);
                distances[i] = hit.Found ? Math.Sqrt(hit.DistanceSquared) : limit;
                seed = hit.Found ? hit.Triangle : -1;
            }
        });
        return distances;
    }

    /// <summary>Share of a scan's area within a distance of the nominal with agreeing normals.</summary>
    public static double NearShare(
        AlignmentTarget target, SurfaceSamples scan, RigidTransform transform, double limit, int mostBlocks = int.MaxValue)
    {
        var near = new bool[scan.Count];
        PointToPlane.ForChunks(scan.Count, (_, from, to) =>
        {
            for (var i = from; i < to; i++)
            {
                var (p, n) = (transform.Apply(scan.Points[i]), transform.Rotate(scan.Normals[i]));
                near[i] = target.Tree.Closest(p, limit, target.Grid.NearestAt(p), n, n.LengthSquared > 0.5 ? 0.5 : -2, mostBlocks).Found;
            }
        });
        double sum = 0, area = 0;
        for (var i = 0; i < near.Length; i++)
        {
            sum += near[i] ? scan.Areas[i] : 0;
            area += scan.Areas[i];
        }

        return area > 0 ? sum / area : 0;
    }

    private static List<Candidate> Refined(
        List<Candidate> poses, SurfaceSamples scan, AlignmentTarget target, bool rough, int steps, double reach, CancellationToken cancel)
    {
        var diagonal = target.Diagonal;
        var most = rough ? RoughBlocks : int.MaxValue;
        var refined = new Candidate[poses.Count];
        Parallel.For(0, poses.Count, new ParallelOptions { CancellationToken = cancel }, i =>
        {
            var outcome =
                PointToPlane.Refine(scan, target.Tree, poses[i].Transform,
                    new(steps, reach, 2e-4 * diagonal, 1e-4 * diagonal, 0.5) { Grid = target.Grid, MostBlocks = most }, cancel);
            refined[i] = new(outcome.Transform, ExactScore(target.Tree, scan, outcome.Transform, (rough ? 0.03 : 0.01) * diagonal, most));
        });
        return [.. refined];
    }

    private static List<Candidate> Best(IEnumerable<Candidate> poses, int most, double diagonal, double apart)
    {
        var kept = new List<Candidate>();
        foreach (var pose in poses.OrderBy(p => p.Score))
        {
            if (kept.Count >= most)
            {
                break;
            }

            if (!kept.Any(k => SamePose(k.Transform, pose.Transform, diagonal, apart)))
            {
                kept.Add(pose);
            }
        }

        return kept;
    }

    internal static bool SamePose(RigidTransform a, RigidTransform b, double diagonal, double apart)
    {
        var difference = b.After(a.Inverse());
        return difference.RotationAngle() < 2 * apart && (b.Translation - difference.Rotate(a.Translation)).Length < apart * diagonal;
    }

    private static List<RigidTransform> Rotations(SurfaceSamples scan, AlignmentTarget target)
    {
        var from = DirectionPeaks.Find(Thin(scan, 8000), 8);
        var to = target.Directions;
        var found = new List<RigidTransform>();
        void Add(RigidTransform r)
        {
            if (!found.Any(f => r.After(f.Inverse()).RotationAngle() < 4 * Math.PI / 180))
            {
                found.Add(r);
            }
        }

        foreach (var i in from)
        {
            foreach (var j in from)
            {
                var angle = i.Direction.AngleTo(j.Direction);
                if (angle is < 0.35 or > Math.PI - 0.35)
                {
                    continue;
                }

                foreach (var k in to)
                {
                    foreach (var l in to)
                    {
                        if (Math.Abs(k.Direction.AngleTo(l.Direction) - angle) < 0.07)
                        {
                            Add(Frame(k.Direction, l.Direction).After(Frame(i.Direction, j.Direction).Inverse()));
                        }
                    }
                }
            }
        }

        foreach (var i in from.Take(2))
        {
            foreach (var k in to.Take(5))
            {
                var turn = RigidTransform.Between(i.Direction, k.Direction);
                for (var spin = 0; spin < 45; spin++)
                {
                    Add(RigidTransform.FromAxisAngle(k.Direction, spin * 2 * Math.PI / 45).After(turn));
                }
            }
        }

        foreach (var r in PrincipalAxes(scan, target.Samples))
        {
            Add(r);
        }

        return found;
    }

    private static IEnumerable<RigidTransform> PrincipalAxes(SurfaceSamples scan, SurfaceSamples nominal)
    {
        var (a, b) = (Axes(scan), Axes(nominal));
        foreach (var order in (int[][])[[0, 1], [0, 2], [1, 0], [1, 2], [2, 0], [2, 1]])
        {
            for (var flip = 0; flip < 4; flip++)
            {
                var x = (flip & 1) == 0 ? a[order[0]] : -a[order[0]];
                var y = (flip & 2) == 0 ? a[order[1]] : -a[order[1]];
                yield return Frame(b[0], b[1]).After(Frame(x, y).Inverse());
            }
        }
    }

    private static Vector3D[] Axes(SurfaceSamples samples)
    {
        var area = samples.Areas.Sum();
        var mean = Vector3D.Zero;
        for (var i = 0; i < samples.Count; i++)
        {
            mean += samples.Areas[i] / area * samples.Points[i];
        }

        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        for (var i = 0; i < samples.Count; i++)
        {
            var p = samples.Points[i] - mean;
            var w = samples.Areas[i];
            (xx, xy, xz) = (xx + (w * p.X * p.X), xy + (w * p.X * p.Y), xz + (w * p.X * p.Z));
            (yy, yz, zz) = (yy + (w * p.Y * p.Y), yz + (w * p.Y * p.Z), zz + (w * p.Z * p.Z));
        }

        return SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz).Vectors;
    }

    private static RigidTransform Frame(Vector3D first, Vector3D second)
    {
        var z = first.Cross(second).Normalized();
        return RigidTransform.FromAxes(first, z.Cross(first), z, Vector3D.Zero);
    }

    /// <summary>
    /// Six histograms (three axes, both facing senses) of surface position along the axis, weighted by area and by how squarely the surface
    /// faces it. Without normals every point counts fully.
    /// </summary>
    private static double[][] Histograms(SurfaceSamples samples, RigidTransform rotation, Vector3D center, double diagonal)
    {
        var histograms = Enumerable.Range(0, 6).Select(_ => new double[HistogramBins]).ToArray();
        var scale = HistogramBins / (2 * diagonal);
        for (var i = 0; i < samples.Count; i++)
        {
            var p = rotation.Rotate(samples.Points[i]) + rotation.Translation - center;
            var n = rotation.Rotate(samples.Normals[i]);
            var free = n.LengthSquared < 0.5;
            for (var axis = 0; axis < 3; axis++)
            {
                var at = (p[axis] * scale) + (HistogramBins / 2.0) - 0.5;
                var bin = (int)Math.Floor(at);
                if (bin < 0 || bin + 1 >= HistogramBins)
                {
                    continue;
                }

                var c = free ? 1 : n[axis];
                var w = samples.Areas[i] * c * c * c * c;
                var h = histograms[(2 * axis) + (c < 0 ? 1 : 0)];
                h[bin] += w * (1 - (at - bin));
                h[bin + 1] += w * (at - bin);
            }
        }

        return histograms;
    }

    private static IEnumerable<RigidTransform> Translations(
        SurfaceSamples scan, RigidTransform rotation, double[][] nominal, Vector3D center, double diagonal)
    {
        var mean = Vector3D.Zero;
        foreach (var p in scan.Points)
        {
            mean += rotation.Rotate(p) / scan.Count;
        }

        var start = rotation with { Translation = center - mean };
        var histograms = Histograms(scan, start, center, diagonal);
        var shifts = Enumerable.Range(0, 3).Select(axis => Shifts(histograms, nominal, axis)).ToArray();
        var width = 2 * diagonal / HistogramBins;
        foreach (var x in shifts[0])
        {
            foreach (var y in shifts[1])
            {
                foreach (var z in shifts[2])
                {
                    yield return start with { Translation = start.Translation + (width * new Vector3D(x, y, z)) };
                }
            }
        }
    }

    /// <summary>
    /// The two best distinct shifts of one axis, by normalised overlap of square roots (so that one large plane does not rule).
    /// </summary>
    private static List<int> Shifts(double[][] scan, double[][] nominal, int axis)
    {
        const int Reach = HistogramBins / 3;
        var scores = new double[(2 * Reach) + 1];
        for (var side = 2 * axis; side < (2 * axis) + 2; side++)
        {
            for (var i = 0; i < HistogramBins; i++)
            {
                if (scan[side][i] <= 0)
                {
                    continue;
                }

                var root = Math.Sqrt(scan[side][i]);
                for (var shift = Math.Max(-Reach, -i); shift <= Math.Min(Reach, HistogramBins - 1 - i); shift++)
                {
                    scores[shift + Reach] += root * Math.Sqrt(nominal[side][i + shift]);
                }
            }
        }

        var first = Array.IndexOf(scores, scores.Max());
        var second = -1;
        for (var s = 0; s < scores.Length; s++)
        {
            if (Math.Abs(s - first) > 2 && (second < 0 || scores[s] > scores[second]))
            {
                second = s;
            }
        }

        return [first - Reach, second - Reach];
    }

    private static double Score(DistanceGrid grid, SurfaceSamples probe, RigidTransform transform, double limit)
    {
        double sum = 0;
        foreach (var p in probe.Points)
        {
            sum += Math.Min(limit, grid.At(transform.Apply(p)));
        }

        return sum / probe.Count;
    }

    internal static SurfaceSamples Thin(SurfaceSamples samples, int count)
    {
        if (samples.Count <= count)
        {
            return samples;
        }

        var pick = Enumerable.Range(0, count).Select(i => (int)((long)i * samples.Count / count)).ToArray();
        return new([.. pick.Select(i => samples.Points[i])], [.. pick.Select(i => samples.Normals[i])],
            [.. pick.Select(i => samples.Areas[i])]);
    }
}
