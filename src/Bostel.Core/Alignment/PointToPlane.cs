using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// Iterative point-to-plane registration (Chen and Medioni 1992) by Gauss–Newton on the six rigid motions, with Tukey weights whose scale
/// is the robust scatter of the residuals and shrinks with them. Sums run over fixed chunks: the result does not depend on the number of
/// threads.
/// </summary>
internal static class PointToPlane
{
    private const int Chunk = 2048;

    /// <summary>Share of the scatter of the residuals.</summary>
    private const double Held = 0.05;

    internal sealed record Options(int MostSteps, double StartDistance, double SmallestScale, double StopStep, double MinimumCosine = 0.7)
    {
        public AlignmentScope Scope { get; init; } = AlignmentScope.Everything;

        /// <summary>The pose whose value locked motions keep; the start's when null.</summary>
        public RigidTransform? Reference { get; init; }

        /// <summary>Where the search for the first counterparts starts.</summary>
        public DistanceGrid? Grid { get; init; }

        /// <summary>Of rough steps: see <see cref="TriangleTree.Closest"/>.</summary>
        public int MostBlocks { get; init; } = int.MaxValue;
    }

    /// <summary>
    /// Matrix: JᵀWJ of turns (times the lever) and shifts. Residuals: NaN where a sample took no part; else Triangles is its counterpart,
    /// Normals the direction it is measured in.
    /// </summary>
    internal sealed record Outcome(
        RigidTransform Transform, double Rms, double[,] Matrix, double Weight, double Lever, double Scale, int Used, double[] Residuals,
        int[] Triangles, Vector3D[] Normals);

    private struct Sums
    {
        public double[] Matrix;
        public double[] Right;
        public double Weight;
        public double Squares;
        public int Used;
    }

    /// <summary>Refines a start. Seeds keep the closest triangle of each sample between steps.</summary>
    public static Outcome Refine(
        SurfaceSamples scan, TriangleTree nominal, RigidTransform start, Options options, CancellationToken cancel = default)
    {
        var transform = start;
        var seeds = new int[scan.Count];
        for (var i = 0; i < seeds.Length; i++)
        {
            seeds[i] = options.Grid?.NearestAt(start.Apply(scan.Points[i])) ?? -1;
        }

        var reach = options.StartDistance;
        var center = nominal.Mesh.Bounds.Center;
        var lever = Math.Max(1e-9, nominal.Mesh.Bounds.Diagonal / 2);
        var residuals = new double[scan.Count];
        var planes = new Vector3D[scan.Count];
        var feet = new Vector3D[scan.Count];
        Outcome? outcome = null;
        var search = true;
        for (var step = 1; step <= options.MostSteps; step++)
        {
            cancel.ThrowIfCancellationRequested();
            Match(scan, nominal, transform, search ? reach : null, options, seeds, residuals, planes, feet);
            var scale = Math.Max(options.SmallestScale, RobustScale(residuals));
            var sums = Accumulate(scan, options.Scope, seeds, residuals, planes, feet, scale, center, lever);
            outcome = new(transform, Math.Sqrt(sums.Squares / Math.Max(1e-300, sums.Weight)), Full(sums.Matrix), sums.Weight, lever, scale,
                sums.Used, residuals, seeds, planes);
            if (sums.Used < 6 || Step(outcome.Matrix, sums.Right, options.Scope.Free) is not { } delta)
            {
                break;
            }

            // No counterpart is farther than the reach: a longer step follows a motion the surface hardly resists.
            var shorten = Math.Min(1, 3 * reach / Math.Max(1e-300, Math.Sqrt(delta.Sum(d => d * d))));
            var rotation = shorten / lever * new Vector3D(delta[0], delta[1], delta[2]);
            var move = shorten * new Vector3D(delta[3], delta[4], delta[5]);
            transform = options.Scope.Held(
                RigidTransform.FromTwist(rotation, move, center).After(transform).Orthonormalized(), options.Reference ?? start, center);
            outcome = outcome with { Transform = transform };
            var motion = Math.Max(rotation.Length * lever, move.Length);
            if (search && motion < options.StopStep)
            {
                break;
            }

            // A motion far below the scatter changes few counterparts: they are held until the steps have died away, then searched again.
            search = motion < options.StopStep || motion > Held * scale;
            reach = Math.Max(6 * scale, 0.7 * reach);
        }

        return outcome!;
    }

    /// <param name="reach">Within what the counterparts are searched; null to keep the triangles found last.</param>
    private static void Match(
        SurfaceSamples scan, TriangleTree nominal, RigidTransform transform, double? reach, Options options, int[] seeds,
        double[] residuals, Vector3D[] planes, Vector3D[] feet)
    {
        ForChunks(scan.Count, (_, from, to) =>
        {
            var previous = -1;
            for (var i = from; i < to; i++)
            {
                if (reach is null && double.IsNaN(residuals[i]))
                {
                    continue;
                }

                var p = transform.Apply(scan.Points[i]);
                var n = transform.Rotate(scan.Normals[i]);
                var hit = reach is not { } within
                    ? nominal.OnTriangle(seeds[i], p)
                    : nominal.Closest(p, within, seeds[i] >= 0 ? seeds[i] : previous, n, n.LengthSquared > 0.5 ? options.MinimumCosine : -2,
                        options.MostBlocks);
                if (!hit.Found || options.Scope.WeightOf(hit.Triangle) <= 0)
                {
                    residuals[i] = double.NaN;
                    continue;
                }

                seeds[i] = previous = hit.Triangle;

                // At an edge or corner of the nominal the direction to the closest point is the better normal; at the rim of chosen faces
                // it is not, as what lies beyond them would then be held sideways by faces that do not take part.
                var offset = p - hit.Point;
                var normal = hit.Part == TrianglePart.Face || hit.DistanceSquared < 1e-12 || options.Scope.TriangleWeights is not null
                    ? nominal.FaceNormal(hit.Triangle)
                    : offset.Normalized();
                planes[i] = normal;
                feet[i] = p;
                residuals[i] = offset.Dot(normal);
            }
        });
    }

    private static Sums Accumulate(
        SurfaceSamples scan, AlignmentScope scope, int[] triangles, double[] residuals, Vector3D[] planes, Vector3D[] points, double scale,
        Vector3D center, double lever)
    {
        var chunks = (scan.Count + Chunk - 1) / Chunk;
        var partial = new Sums[chunks];
        var cutoff = 4.685 * scale;
        ForChunks(scan.Count, (chunk, from, to) =>
        {
            var sums = new Sums { Matrix = new double[21], Right = new double[6] };
            Span<double> g = stackalloc double[6];
            for (var i = from; i < to; i++)
            {
                var r = residuals[i];
                if (double.IsNaN(r))
                {
                    continue;
                }

                var u = r / cutoff;
                if (Math.Abs(u) >= 1)
                {
                    continue;
                }

                var w = scan.Areas[i] * scope.WeightOf(triangles[i]) * (1 - (u * u)) * (1 - (u * u));
                var arm = (points[i] - center).Cross(planes[i]) / lever;
                (g[0], g[1], g[2]) = (arm.X, arm.Y, arm.Z);
                (g[3], g[4], g[5]) = (planes[i].X, planes[i].Y, planes[i].Z);
                var at = 0;
                for (var a = 0; a < 6; a++)
                {
                    for (var b = 0; b <= a; b++)
                    {
                        sums.Matrix[at++] += w * g[a] * g[b];
                    }

                    sums.Right[a] += w * g[a] * r;
                }

                sums.Weight += w;
                sums.Squares += w * r * r;
                sums.Used++;
            }

            partial[chunk] = sums;
        });
        var total = new Sums { Matrix = new double[21], Right = new double[6] };
        foreach (var part in partial)
        {
            for (var i = 0; i < 21; i++)
            {
                total.Matrix[i] += part.Matrix[i];
            }

            for (var i = 0; i < 6; i++)
            {
                total.Right[i] += part.Right[i];
            }

            total.Weight += part.Weight;
            total.Squares += part.Squares;
            total.Used += part.Used;
        }

        return total;
    }

    /// <summary>The Gauss–Newton step over the free motions; null when they are not determined.</summary>
    private static double[]? Step(double[,] matrix, double[] right, int[] free)
    {
        var (reduced, down) = (new double[free.Length, free.Length], new double[free.Length]);
        for (var r = 0; r < free.Length; r++)
        {
            down[r] = -right[free[r]];
            for (var c = 0; c < free.Length; c++)
            {
                reduced[r, c] = matrix[free[r], free[c]];
            }
        }

        var some = new double[free.Length];
        if (!LinearSolve.Cholesky(Damped(reduced), down, some))
        {
            return null;
        }

        var delta = new double[6];
        for (var r = 0; r < free.Length; r++)
        {
            delta[free[r]] = some[r];
        }

        return delta;
    }

    internal static void ForChunks(int count, Action<int, int, int> body)
    {
        var chunks = (count + Chunk - 1) / Chunk;
        if (chunks <= 1)
        {
            body(0, 0, count);
            return;
        }

        Parallel.For(0, chunks, c => body(c, c * Chunk, Math.Min(count, (c + 1) * Chunk)));
    }

    /// <summary>1.4826 × the median absolute residual.</summary>
    private static double RobustScale(double[] residuals)
    {
        var step = Math.Max(1, residuals.Length / 20000);
        var sizes = new List<double>();
        for (var i = 0; i < residuals.Length; i += step)
        {
            if (!double.IsNaN(residuals[i]))
            {
                sizes.Add(Math.Abs(residuals[i]));
            }
        }

        if (sizes.Count == 0)
        {
            return double.PositiveInfinity;
        }

        sizes.Sort();
        return 1.4826 * sizes[sizes.Count / 2];
    }

    private static double[,] Full(double[] lower)
    {
        var full = new double[6, 6];
        var at = 0;
        for (var a = 0; a < 6; a++)
        {
            for (var b = 0; b <= a; b++)
            {
                full[a, b] = full[b, a] = lower[at++];
            }
        }

        return full;
    }

    /// <summary>A motion the surface does not resist (a turned part) is held by a trace of damping instead of running away.</summary>
    private static double[,] Damped(double[,] matrix)
    {
        var damped = (double[,])matrix.Clone();
        double trace = 0;
        var n = matrix.GetLength(0);
        for (var i = 0; i < n; i++)
        {
            trace += matrix[i, i];
        }

        for (var i = 0; i < n; i++)
        {
            damped[i, i] += 1e-9 * trace;
        }

        return damped;
    }
}
