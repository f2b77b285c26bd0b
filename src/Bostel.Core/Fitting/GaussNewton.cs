using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Where and how a fit ended: the model, JᵀWJ there, Σwd², and the number of steps.</summary>
internal readonly record struct FitRun<TModel>(TModel Model, double[,] Matrix, double SumOfSquares, int Iterations, FitEnding Ending)
{
    /// <summary>Whether the model is a fit, and no place where the search was given up.</summary>
    public bool Found => Ending is not (FitEnding.Undetermined or FitEnding.OfNoUse) && double.IsFinite(SumOfSquares);
}

/// <summary>
/// Orthogonal-distance least squares by Gauss–Newton with Levenberg–Marquardt damping (Marquardt 1963; Forbes, NPL DITC 140/89).
/// </summary>
internal static class GaussNewton
{
    private const int MostIterations = 200;

    /// <summary>Share of the sum of squares that a step leaves while the search is still on its way.</summary>
    private const double OnItsWay = 0.25;

    /// <summary>Runs to stationarity over the parameters that are free; the result says how it ended.</summary>
    public static FitRun<TModel> Run<TModel>(double[] points, double[]? weights, TModel start, Known known, double size)
        where TModel : struct, IShapeModel<TModel>
    {
        var model = start;
        var (here, there) = (NormalEquations.Accumulate(points, weights, model), new NormalSums(TModel.Parameters.Length));
        var freedom = Freedom.Of(known, model);
        FitRun<TModel> Ended(int iterations, FitEnding ending) => new(model, here.Matrix(), here.SumOfSquares, iterations, ending);
        if (freedom.Count == 0)
        {
            return Ended(0, FitEnding.Converged);
        }

        Span<double> matrix = stackalloc double[freedom.Count * freedom.Count];
        Span<double> slope = stackalloc double[freedom.Count];
        Span<double> step = stackalloc double[freedom.Count];

        var useful = known.Useful * known.Useful * points.Length / 3;
        var (damping, raise) = (1e-8, 10.0);
        var stalled = 0;
        var before = 0.0;
        for (var iteration = 1; iteration <= MostIterations; iteration++)
        {
            freedom.Reduce(here, matrix, slope);
            if (!Solve(matrix, slope, damping, step))
            {
                return Ended(iteration, FitEnding.Undetermined);
            }

            var delta = freedom.Expand(step);
            var next = model.Step(delta);
            NormalEquations.Accumulate(points, weights, next, there);
            var (sum, nextSum) = (here.SumOfSquares, there.SumOfSquares);
            var length = StepLength(delta, size);
            if (nextSum <= sum * (1 + 1e-13) && double.IsFinite(nextSum))
            {
                // The linear model's least sum bounds what is left to gain once the steps gain little.
                var gain = 0.0;
                for (var i = 0; i < step.Length; i++)
                {
                    gain += slope[i] * step[i];
                }

                (model, here, there) = (next, there, here);
                if (iteration > 1 && nextSum > OnItsWay * sum && sum + gain > useful)
                {
                    return Ended(iteration, FitEnding.OfNoUse);
                }

                stalled = nextSum >= sum * (1 - 1e-15) ? stalled + 1 : 0;
                (damping, raise) = (Math.Max(damping * 0.1, 1e-14), 10);
            }
            else
            {
                // Ever faster (Nielsen, IMM-REP-1999-05): a start beyond the reach of the linear model needs much, rounding at the end no
                // step at all.
                (damping, raise) = (Math.Max(damping * raise, 1e-8), 10 * raise);
            }

            // The steps shrink by a steady factor near the end: the next one would be shorter by as much again.
            var coming = length < 0.1 * before ? length * length / before : length;
            if (10 * coming < 1e-13 * size || length < 1e-13 * size)
            {
                return Ended(iteration, FitEnding.Converged);
            }

            if (stalled > 4 || damping > 1e8)
            {
                return Ended(iteration, FitEnding.Stalled);
            }

            before = length;
        }

        return Ended(MostIterations, FitEnding.StepLimit);
    }

    /// <summary>The damped step; false when the matrix is singular to working precision. Damps and factors the matrix in place.</summary>
    private static bool Solve(Span<double> a, ReadOnlySpan<double> b, double lambda, Span<double> x)
    {
        for (var i = 0; i < b.Length; i++)
        {
            a[i * (b.Length + 1)] += lambda * a[i * (b.Length + 1)];
            x[i] = -b[i];
        }

        return LinearSolve.Cholesky(a, x);
    }

    private static double StepLength(double[] delta, double size)
    {
        var largest = 0.0;
        foreach (var d in delta)
        {
            largest = Math.Max(largest, Math.Abs(d));
        }

        return largest * Math.Min(1, size);
    }
}
