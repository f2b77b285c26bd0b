using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>How far a found edge lies beside the true one, on average and from case to case.</summary>
/// <param name="Bias">Mean error of each parameter.</param>
/// <param name="Covariance">Of the error that is left when the mean is taken off.</param>
/// <param name="Cuts">How many trials tell it.</param>
internal sealed record EdgeError(double[] Bias, double[,] Covariance, int Cuts);

/// <summary>
/// Tells the error of a found edge from the scan itself, without knowing how its points are arranged: edges of the same form are cut out
/// of the material behind the true one, where their place is known, and sought in the same way (a resampling of the data as in Efron and
/// Tibshirani, An Introduction to the Bootstrap, 1993, but of space instead of points). What the spacing, the arrangement and the noise
/// do to the true edge they do to these.
/// </summary>
internal static class TrialCuts
{
    private const int Most = 48, Least = 12;

    /// <summary>Depths of the cuts, in spacings: clear of the true edge, and no deeper than there is material.</summary>
    private const double Shallowest = 1, Deepest = 4;

    /// <summary>Material that has to lie behind a cut, in spacings.</summary>
    private const double Behind = 3;

    /// <summary>Share of the places that must be as deep.</summary>
    private const double DeepEnough = 0.9;

    /// <summary>Additive recurrences of the plastic number fill the range of depths and shifts evenly (Roberts 2018).</summary>
    private const double First = 0.7548776662466927, Second = 0.5698402909980532, Third = 0.6180339887498949;

    /// <param name="points">In the plane of the sheet, 3·N.</param>
    /// <param name="noise">Standard deviation of each point within the sheet, mm.</param>
    /// <returns>Null when too little material lies behind the edge for cuts.</returns>
    public static EdgeError? Of(FoundEdge edge, EdgeFit fit, double[] points, double spacing, double noise)
    {
        var deepest = Depth(edge, fit, spacing);
        if (deepest < Shallowest || Information(edge, spacing) is not { } here)
        {
            return null;
        }

        var errors = new double[Most][];
        var scaled = new double[Most][];
        Parallel.For(0, Most, k =>
        {
            var by = spacing * (Shallowest + ((deepest - Shallowest) * Fraction(k * First)));
            var aside = (by - (Shallowest * spacing * 0.7)) * Math.Sqrt(Fraction(k * Second));
            var cut = edge.Curve.Cut(by, aside, 2 * Math.PI * Fraction(k * Third));
            if (new EdgeFit(Remaining(cut, points, noise, k)).Find(cut, spacing, spacing) is { } found
                && Information(found, spacing) is { } there)
            {
                errors[k] = found.Curve.Minus(cut);
                scaled[k] = Rescaled(errors[k], there, here);
            }
        });
        var made = errors.Where(e => e is not null).ToList();
        return made.Count < Least ? null : new(Mean(made), Covariance([.. scaled.Where(e => e is not null)]), made.Count);
    }

    /// <summary>
    /// The Cholesky factor of Σddᵀ over the covered places, d the slope of the depth: what a fit knows of each parameter grows with it
    /// (Fisher's information, up to a factor that all edges in one scan share).
    /// </summary>
    private static double[,]? Information(FoundEdge edge, double spacing)
    {
        var n = edge.Curve.Count;
        var information = new double[n, n];
        var slope = new double[EdgeCurve.MostParameters];
        foreach (var (place, covered) in edge.Curve.Places(spacing).Zip(edge.Covered))
        {
            edge.Curve.Depth(place.X, place.Y, slope);
            for (var r = 0; covered && r < n; r++)
            {
                for (var c = 0; c < n; c++)
                {
                    information[r, c] += slope[r] * slope[c];
                }
            }
        }

        return LinearSolve.CholeskyFactor(information);
    }

    /// <summary>
    /// A cut is larger than the edge that it stands for, and known better for that: its error as it would be with the edge's information.
    /// </summary>
    private static double[] Rescaled(double[] error, double[,] there, double[,] here)
    {
        var n = error.Length;
        var white = new double[n];
        for (var r = 0; r < n; r++)
        {
            for (var c = r; c < n; c++)
            {
                white[r] += there[c, r] * error[c];
            }
        }

        LinearSolve.BackSubstitute(here, white);
        return white;
    }

    /// <summary>How deep cuts may lie so that nearly all the covered places keep material behind them.</summary>
    private static double Depth(FoundEdge edge, EdgeFit fit, double spacing)
    {
        for (var deep = Deepest; deep >= Shallowest; deep -= 0.5)
        {
            var covered = fit.Covered(edge.Curve, spacing, deep + Behind);
            var both = covered.Where((c, i) => c && edge.Covered[i]).Count();
            if (both >= DeepEnough * edge.Covered.Count(c => c))
            {
                return deep;
            }
        }

        return 0;
    }

    /// <summary>The points of the sheet as they would be if it ended at the cut: noise carries some across.</summary>
    private static double[] Remaining(EdgeCurve cut, double[] points, double noise, int seed)
    {
        var random = new SeededNoise(seed);
        Span<double> slope = stackalloc double[EdgeCurve.MostParameters];
        var left = new List<double>(points.Length);
        for (var i = 0; i < points.Length / 3; i++)
        {
            var (x, y) = (points[3 * i], points[(3 * i) + 1]);
            if (cut.Depth(x, y, slope) + (noise * random.Normal(i)) > 0)
            {
                left.AddRange([x, y, 0]);
            }
        }

        return [.. left];
    }

    private static double[] Mean(List<double[]> errors) =>
        [.. Enumerable.Range(0, errors[0].Length).Select(p => errors.Average(e => e[p]))];

    private static double[,] Covariance(List<double[]> errors)
    {
        var (n, mean) = (errors[0].Length, Mean(errors));
        var covariance = new double[n, n];
        for (var r = 0; r < n; r++)
        {
            for (var c = 0; c < n; c++)
            {
                covariance[r, c] = errors.Sum(e => (e[r] - mean[r]) * (e[c] - mean[c])) / (errors.Count - 1);
            }
        }

        return covariance;
    }

    private static double Fraction(double value) => value - Math.Floor(value);
}
