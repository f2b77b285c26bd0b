using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Orthogonal-distance least squares by Gauss–Newton with Levenberg–Marquardt damping (Marquardt 1963; Forbes, NPL DITC 140/89).</summary>
internal static class GaussNewton
{
    private const int MostIterations = 200;

    /// <summary>Runs to stationarity. Returns the model, JᵀJ there, and the number of steps.</summary>
    /// <exception cref="BadInputException">The points do not determine the shape.</exception>
    public static (TModel Model, double[,] Matrix, double SumOfSquares, int Iterations) Run<TModel>(
        double[] points, TModel start, Func<TModel, double[], TModel> step, double size)
        where TModel : struct, IShapeModel
    {
        var m = TModel.Count;
        var model = start;
        var (matrix, right, sum) = NormalEquations.Accumulate(points, model);
        var damping = 1e-8;
        var stalled = 0;
        for (var iteration = 1; iteration <= MostIterations; iteration++)
        {
            var delta = Solve(matrix, right, damping);
            var next = step(model, delta);
            var (nextMatrix, nextRight, nextSum) = NormalEquations.Accumulate(points, next);
            var length = StepLength(delta, size);
            if (nextSum <= sum * (1 + 1e-13) && double.IsFinite(nextSum))
            {
                stalled = nextSum >= sum * (1 - 1e-15) ? stalled + 1 : 0;
                (model, matrix, right, sum) = (next, nextMatrix, nextRight, nextSum);
                damping = Math.Max(damping * 0.1, 1e-14);
            }
            else
            {
                damping = Math.Max(damping * 10, 1e-9);
                stalled++;
            }

            if (length < 1e-13 * size || stalled > 4 || damping > 1e8)
            {
                return (model, matrix, sum, iteration);
            }
        }

        return (model, matrix, sum, MostIterations);

        double[] Solve(double[,] a, double[] b, double lambda)
        {
            var damped = (double[,])a.Clone();
            for (var i = 0; i < m; i++)
            {
                damped[i, i] += lambda * a[i, i];
            }

            var x = new double[m];
            return LinearSolve.Cholesky(damped, [.. b.Select(v => -v)], x)
                ? x
                : throw new BadInputException("The points do not determine the shape: they leave at least one of its parameters free.");
        }
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
