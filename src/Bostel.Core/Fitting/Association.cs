namespace Bostel.Core.Fitting;

/// <summary>One entry to every fit: kind of feature, criterion, what is known beforehand, weights, and how outliers are treated.</summary>
public static class Association
{
    /// <param name="kind">line, plane, circle, sphere, cylinder, cone, torus or slot.</param>
    /// <param name="criterion">Extremal criteria take no weights: they rest on single points; outliers are rejected by a least-squares fit
    /// before.</param>
    /// <param name="points">3·N coordinates, mm.</param>
    /// <param name="known">What is known and what is held.</param>
    /// <param name="weights">N weights for least squares; null counts every point alike.</param>
    /// <param name="robust">How outliers are treated; null keeps every point.</param>
    /// <exception cref="BadInputException">The criterion is not defined for the kind.</exception>
    /// <exception cref="UndeterminedException">The points do not determine the feature.</exception>
    public static FitResult Fit(
        string kind, Criterion criterion, double[] points, Known? known = null, double[]? weights = null, Robust? robust = null)
    {
        known ??= Known.Nothing;
        if (criterion == Criterion.LeastSquares)
        {
            return robust is null
                ? LeastSquares.Fit(kind, points, known, weights)
                : RobustFit.Try(kind, points, known, weights, robust).OrThrow();
        }

        if (weights is not null)
        {
            throw new BadInputException("weights: only least squares weighs points.");
        }

        return robust is null ? ExtremalFit.Fit(kind, criterion, points, known) : WithoutOutliers(kind, criterion, points, known, robust);
    }

    private static FitResult WithoutOutliers(string kind, Criterion criterion, double[] points, Known known, Robust robust)
    {
        var first = RobustFit.Try(kind, points, known, null, robust).OrThrow();
        var rejected = first.Rejected.ToHashSet();
        var kept = Enumerable.Range(0, points.Length / 3).Where(i => !rejected.Contains(i)).ToArray();
        var fit = ExtremalFit.Fit(kind, criterion, [.. kept.SelectMany(i => points[(3 * i)..((3 * i) + 3)])], known);
        return fit with { Residuals = fit.Shape.Distances(points), Rejected = first.Rejected };
    }
}
