using System.Runtime.Intrinsics;

namespace Bostel.Core.Fitting;

/// <summary>
/// Which sides of the surface bind and what is least: the zone's width (both sides, the offset free), the greatest distance (both sides),
/// the highest point (upper), or the negative of the lowest (lower).
/// </summary>
internal readonly record struct Sides(bool Upper, bool Lower, bool Centred)
{
    public static readonly Sides Zone = new(true, true, true);
    public static readonly Sides Both = new(true, true, false);
    public static readonly Sides Above = new(true, false, false);
    public static readonly Sides Below = new(false, true, false);

    public double Goal(double[] distances)
    {
        var (low, high) = PointSums.Range(distances);
        return Centred ? high - low : Upper && Lower ? Math.Max(high, -low) : Upper ? high : -low;
    }
}

/// <summary>
/// Sequential linear programming (Anthony, Bittner, Drieschner et al., Reference algorithms for Chebyshev assessments, PTB/NPL 1996): each
/// step solves the linearised problem exactly within a trust region that shrinks while steps do not improve (Fletcher, Practical Methods,
/// 14.5). Large point sets are solved on a growing set of their extreme points: the optimum over it that no point outside violates is the
/// optimum over all.
/// </summary>
internal static class ActiveSet
{
    private const int MostSteps = 300;
    private const int Direct = 2000;
    private const int Runs = 128;
    private const int MostRounds = 60;

    public static TModel Solve<TModel>(double[] points, TModel start, Freedom freedom, Sides sides)
        where TModel : struct, IShapeModel<TModel>
    {
        if (freedom.Count == 0)
        {
            return start;
        }

        var n = points.Length / 3;
        if (n <= Direct)
        {
            return Improve(points, start, freedom, sides);
        }

        var lever = Lever(points, start);
        var chosen = new SortedSet<int>(Enumerable.Range(0, Direct / 4).Select(i => (int)((long)i * n / (Direct / 4))));
        var model = start;
        var distances = PointBlocks.Distances(points, model);
        for (var round = 0; round < MostRounds; round++)
        {
            AddExtremes(chosen, distances, sides);
            var some = new double[3 * chosen.Count];
            var at = 0;
            foreach (var i in chosen)
            {
                points.AsSpan(3 * i, 3).CopyTo(some.AsSpan(at));
                at += 3;
            }

            model = Improve(some, model, freedom, sides);
            distances = PointBlocks.Distances(points, model);
            if (sides.Goal(distances) - sides.Goal(PointBlocks.Distances(some, model)) <= 1e-13 * lever)
            {
                return model;
            }
        }

        return model;
    }

    /// <summary>The highest and the lowest point of each run of points in order: extremes from all over the feature.</summary>
    private static void AddExtremes(SortedSet<int> chosen, double[] distances, Sides sides)
    {
        var n = distances.Length;
        for (var run = 0; run < Runs; run++)
        {
            var (from, to) = ((int)((long)run * n / Runs), (int)((long)(run + 1) * n / Runs));
            var (high, low) = (from, from);
            for (var i = from; i < to; i++)
            {
                high = distances[i] > distances[high] ? i : high;
                low = distances[i] < distances[low] ? i : low;
            }

            if (sides.Upper && to > from)
            {
                chosen.Add(high);
            }

            if (sides.Lower && to > from)
            {
                chosen.Add(low);
            }
        }
    }

    private static TModel Improve<TModel>(double[] points, TModel start, Freedom freedom, Sides sides)
        where TModel : struct, IShapeModel<TModel>
    {
        var n = points.Length / 3;
        var model = start;

        // An extra column for the offset when the zone is centred: then the greatest distance is half its width.
        var m = freedom.Count + (sides.Centred ? 1 : 0);
        var (distances, gradients) = (new double[n], new double[n * m]);
        var (trial, trialGradients) = (new double[n], new double[n * m]);
        var lever = Lever(points, model);
        Linearise(points, model, freedom, sides, lever, distances, gradients);
        var best = sides.Goal(distances);
        var (low, high) = PointSums.Range(distances);
        var trust = Math.Max(10 * (high - low), 1e-12 * lever);
        for (var i = 0; i < MostSteps && trust > 1e-14 * lever; i++)
        {
            if (ChebyshevProgram.Solve(distances, gradients, m, trust, sides.Upper, sides.Lower) is not var (delta, _))
            {
                return model;
            }

            var scaled = new double[freedom.Count];
            for (var k = 0; k < scaled.Length; k++)
            {
                scaled[k] = freedom.Angular[k] ? delta[k] / lever : delta[k];
            }

            var next = model.Step(freedom.Expand(scaled));
            Linearise(points, next, freedom, sides, lever, trial, trialGradients);
            var value = sides.Goal(trial);
            if (value < best)
            {
                (model, best) = (next, value);
                (distances, trial) = (trial, distances);
                (gradients, trialGradients) = (trialGradients, gradients);
            }
            else
            {
                trust = 0.5 * Math.Min(trust, delta.Take(scaled.Length).Max(Math.Abs));
            }
        }

        return model;
    }

    /// <summary>
    /// Reach of the points from the model: angles are scaled by it, so that one trust radius in mm serves all parameters.
    /// </summary>
    private static double Lever<TModel>(double[] points, TModel model)
        where TModel : struct, IShapeModel<TModel> => Math.Sqrt(3) * PointSums.Extent(points, model.Frame.Translation);

    private static void Linearise<TModel>(
        double[] points, TModel model, Freedom freedom, Sides sides, double lever, double[] distances, double[] gradients)
        where TModel : struct, IShapeModel<TModel>
    {
        var m = freedom.Count + (sides.Centred ? 1 : 0);
        var all = TModel.Parameters.Length;
        var blocks = new PointBlocks(model.Frame);
        Span<Vector256<double>> g = stackalloc Vector256<double>[8];
        for (var i = 0; i < distances.Length; i += 4)
        {
            blocks.Load(points, i, distances.Length, out var x, out var y, out var z);
            var d = model.Distance(x, y, z, g);
            for (var j = 0; j < Math.Min(4, distances.Length - i); j++)
            {
                distances[i + j] = d[j];
                var row = gradients.AsSpan((i + j) * m, m);
                for (var c = 0; c < freedom.Count; c++)
                {
                    double sum = 0;
                    for (var r = 0; r < all; r++)
                    {
                        sum += freedom.Basis[r, c] * g[r][j];
                    }

                    row[c] = freedom.Angular[c] ? sum / lever : sum;
                }

                if (sides.Centred)
                {
                    row[m - 1] = -1;
                }
            }
        }
    }
}
