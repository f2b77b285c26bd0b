using System.Text.Json.Serialization;
using Bostel.Core.Geometry;
using MathNet.Numerics.Distributions;

namespace Bostel.Core.Fitting;

/// <summary>How outliers are treated.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<RobustMethod>))]
public enum RobustMethod
{
    /// <summary>The share of the points with the smallest residuals is used.</summary>
    [JsonStringEnumMemberName("trimmed")]
    Trimmed,

    /// <summary>Weights fall with the residual to nothing at 4.685 robust standard deviations.</summary>
    [JsonStringEnumMemberName("tukey")]
    Tukey,

    /// <summary>Points beyond three standard deviations are left out, again and again until none is.</summary>
    [JsonStringEnumMemberName("three-sigma")]
    ThreeSigma,
}

/// <param name="Method">How outliers are treated.</param>
/// <param name="Share">Trimmed: the share of the points used, above 0.5 up to 1.</param>
public sealed record Robust(RobustMethod Method, double Share = 0.9);

/// <summary>
/// Least squares in the presence of outliers. Trimmed: least trimmed squares by concentration steps from the plain fit and from fits to
/// small random subsets with a fixed seed (Rousseeuw and Van Driessen 2006). Tukey: biweight reweighting from the trimmed fit, scale from
/// the median absolute residual (Yohai 1987; Beaton and Tukey 1974). Three-sigma: rejection until nothing changes.
/// </summary>
public static class RobustFit
{
    private const int Subsets = 60;

    /// <summary>Points that the trials of least trimmed squares work on.</summary>
    private const int TrialPoints = 300;

    private const int MostRounds = 60;
    private const double TukeyConstant = 4.685;

    /// <summary>
    /// Nothing nearer than this is an outlier, mm: the residuals of exact points are rounding, and have outliers of their own.
    /// </summary>
    internal const double Insignificant = 1e-9;

    /// <summary>The fit, or why the points, or those left, do not determine the feature.</summary>
    /// <exception cref="BadInputException">A share that leaves too few, a kind that cannot be fitted.</exception>
    public static FitAttempt Try(string kind, double[] points, Known known, double[]? weights, Robust robust)
    {
        if (robust.Method == RobustMethod.Trimmed && !(robust.Share is > 0.5 and <= 1))
        {
            throw new BadInputException("share: must lie above 0.5, up to 1.");
        }

        return robust.Method switch
        {
            RobustMethod.Trimmed => Trimmed(kind, points, known, weights, robust.Share, final: true),
            RobustMethod.Tukey => Tukey(kind, points, known, weights),
            _ => ThreeSigma(kind, points, known, weights),
        };
    }

    private static FitAttempt ThreeSigma(string kind, double[] points, Known known, double[]? weights)
    {
        var first = LeastSquares.Try(kind, points, known, weights);
        if (first.Fit is not { } fit)
        {
            return first;
        }

        for (var round = 0; round < MostRounds; round++)
        {
            var limit = Math.Max(Insignificant, 3 * fit.Scatter);
            var next = Kept(fit.Residuals, weights, r => Math.Abs(r) <= limit);
            var before = fit.Rejected;
            var again = LeastSquares.Try(kind, points, known with { Start = fit.Shape }, next);
            if (again.Fit is null)
            {
                return again;
            }

            fit = again.Fit;
            if (fit.Rejected.AsSpan().SequenceEqual(before))
            {
                break;
            }
        }

        return fit;
    }

    private static FitAttempt Trimmed(string kind, double[] points, Known known, double[]? weights, double share, bool final)
    {
        var thin = PointSums.Thin(points, TrialPoints);
        var thinWeights = PointSums.ThinWeights(weights, TrialPoints);
        var tried = Starts(kind, thin, known, thinWeights)
            .Select(start => Concentrated(kind, thin, known, thinWeights, start, share, 2)).OfType<(FitResult Fit, double Sum)>()
            .OrderBy(t => t.Sum).Take(3)
            .Select(t => Concentrated(kind, thin, known, thinWeights, t.Fit.Shape, share, 20)).OfType<(FitResult Fit, double Sum)>()
                .ToList();
        return tried.Count > 0
            && Concentrated(kind, points, known, weights, tried.MinBy(t => t.Sum).Fit.Shape, share, MostRounds)?.Fit is { } result
            ? final ? Consistent(result, share) : result
            : FitAttempt.Failed($"The points do not determine a {kind}.");
    }

    /// <summary>The plain fit, then fits to small subsets: some of them hold no outlier.</summary>
    private static IEnumerable<Shape> Starts(string kind, double[] points, Known known, double[]? weights)
    {
        if (LeastSquares.Try(kind, points, known, weights).Fit is { } plain)
        {
            yield return plain.Shape;
        }

        var n = points.Length / 3;
        var size = kind switch { "plane" or "line" or "circle" => 4, "sphere" => 6, "slot" => 12, "torus" => 12, _ => 9 };
        var random = new Random(1);
        for (var k = 0; k < Subsets && n > 2 * size; k++)
        {
            var subset = Enumerable.Range(0, size).SelectMany(_ => points[(3 * random.Next(n))..][..3]).ToArray();
            if (LeastSquares.Try(kind, subset, known).Fit is { } fit)
            {
                yield return fit.Shape;
            }
        }
    }

    private static (FitResult Fit, double Sum)? Concentrated(
        string kind, double[] points, Known known, double[]? weights, Shape start, double share, int rounds)
    {
        var n = points.Length / 3;
        var count = (int)Math.Ceiling(share * n);
        var residuals = start.Distances(points);
        (FitResult Fit, double Sum)? best = null;
        for (var round = 0; round < rounds; round++)
        {
            var sizes = residuals.Select(Math.Abs).Order().ToArray();
            var limit = sizes[count - 1];
            var from = best?.Fit.Shape ?? start;
            var kept = Kept(residuals, weights, r => Math.Abs(r) <= limit);
            if (LeastSquares.Try(kind, points, known with { Start = from }, kept).Fit is not { } fit)
            {
                break;
            }

            residuals = fit.Residuals;
            var sum = residuals.Select(r => r * r).Order().Take(count).Sum();
            if (best is not null && sum >= best.Value.Sum * (1 - 1e-12))
            {
                break;
            }

            best = (fit, sum);
        }

        return best;
    }

    private static FitAttempt Tukey(string kind, double[] points, Known known, double[]? weights)
    {
        var trimmed = Trimmed(kind, points, known, weights, 0.6, final: false);
        if (trimmed.Fit is not { } fit)
        {
            return trimmed;
        }

        var scale = Math.Max(Insignificant, Scale(fit.Residuals));
        var factors = new double[fit.Residuals.Length];
        for (var round = 0; round < MostRounds; round++)
        {
            for (var i = 0; i < factors.Length; i++)
            {
                var u = fit.Residuals[i] / (TukeyConstant * scale);
                factors[i] = Math.Abs(u) < 1 ? (1 - (u * u)) * (1 - (u * u)) : 0;
            }

            var before = fit.Residuals;
            double[] biweights = [.. factors.Select((f, i) => f * (weights?[i] ?? 1))];
            var again = LeastSquares.Try(kind, points, known with { Start = fit.Shape }, biweights);
            if (again.Fit is null)
            {
                return again;
            }

            fit = again.Fit;
            var change = 0.0;
            for (var i = 0; i < before.Length; i++)
            {
                change = Math.Max(change, Math.Abs(fit.Residuals[i] - before[i]) * (factors[i] > 0 ? 1 : 0));
            }

            if (change < 1e-9 * scale)
            {
                break;
            }
        }

        return scale > Insignificant ? Biweighted(fit, scale) : fit;
    }

    /// <summary>
    /// Covariance of an M-estimate: s² Σψ²/(n − m) / (Σψ′/n)² in place of the weighted variance (Huber, Robust Statistics,
    /// 1981, 7.6).
    /// </summary>
    private static FitResult Biweighted(FitResult fit, double scale)
    {
        double psi = 0, slope = 0, weighted = 0, weight = 0;
        var n = fit.Residuals.Length;
        foreach (var r in fit.Residuals)
        {
            var u = r / (TukeyConstant * scale);
            if (Math.Abs(u) < 1)
            {
                var w = (1 - (u * u)) * (1 - (u * u));
                psi += r * w * r * w;
                slope += (1 - (u * u)) * (1 - (5 * u * u));
                weighted += w * r * r;
                weight += w;
            }
        }

        // fit.Covariance = s_w² (JᵀWJ)⁻¹ with JᵀWJ ≈ (Σw/n) JᵀJ.
        var variance = psi / (n - fit.Fitted) / (slope / n * (slope / n));
        var factor = weighted > 0 ? variance * (weight / n) / (weighted / (fit.Points - fit.Fitted)) : 1;
        return Scaled(fit, factor) with { Scatter = scale };
    }

    /// <summary>The variance of the innermost share of normal residuals is too small by 1 − 2qφ(q)/share with q its quantile.</summary>
    private static FitResult Consistent(FitResult fit, double share)
    {
        if (share >= 1)
        {
            return fit;
        }

        var q = Normal.InvCDF(0, 1, (1 + share) / 2);
        var factor = 1 - (2 * q * Math.Exp(-q * q / 2) / Math.Sqrt(2 * Math.PI) / share);

        // The estimate itself scatters by 1/factor more than that of all points: Var = σ²/(n·share·factor)
        // (Rousseeuw and Leroy 1987, 4.4).
        return Scaled(fit, 1 / (factor * factor)) with { Scatter = fit.Scatter / Math.Sqrt(factor) };
    }

    private static FitResult Scaled(FitResult fit, double factor)
    {
        var covariance = (double[,])fit.Covariance!.Clone();
        for (var r = 0; r < covariance.GetLength(0); r++)
        {
            for (var c = 0; c < covariance.GetLength(1); c++)
            {
                covariance[r, c] *= factor;
            }
        }

        return fit with { Covariance = covariance };
    }

    /// <summary>
    /// Standard deviation of residuals that a minority does not move: 1.4826 × their median absolute value, over the half of the points
    /// that is nearest at least.
    /// </summary>
    internal static double Scale(double[] residuals)
    {
        var sizes = residuals.Select(Math.Abs).Order().ToArray();
        return 1.4826 * sizes[sizes.Length / 2];
    }

    private static double[] Kept(double[] residuals, double[]? weights, Func<double, bool> keep) =>
        [.. residuals.Select((r, i) => keep(r) ? weights?[i] ?? 1 : 0)];
}
