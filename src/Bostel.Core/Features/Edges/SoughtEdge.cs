using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>An edge sought in the points of one side of a sheet, freed of what spacing and loss add, with its errors.</summary>
/// <param name="Curve">In the plane of the points.</param>
/// <param name="Found">Where the points end, and along which places.</param>
/// <param name="Spacing">Of the points beside the edge, mm.</param>
/// <param name="LossSigma">Standard deviation of what the scan loses at its edges, mm: the same at all of them.</param>
/// <param name="Freedom">Degrees of freedom of the errors that are the edge's own.</param>
internal sealed record SoughtEdge(EdgeCurve Curve, FoundEdge Found, double Spacing, double LossSigma, double Freedom)
{
    /// <summary>
    /// Trial cuts share points: so many tell as much as this many independent ones (simulated sheets, see docs/methods.md).
    /// </summary>
    internal const double IndependentCuts = 12;

    /// <summary>
    /// Fusing rounds edges off: simulated fused scans end so many spacings before them, at any spacing. Other devices lose less or more:
    /// one standard deviation, where it is not said how much, and where it is.
    /// </summary>
    private const double UsualLoss = 0.22, UsualLossSigma = 0.1, GivenLossSigma = 0.05;

    /// <summary>Less of an edge than this is no edge.</summary>
    private const double LeastCoverage = 0.25;

    /// <summary>The curve off by each of its own independent errors of one standard deviation.</summary>
    public IReadOnlyList<EdgeCurve> Varied { get; init; } = [];

    /// <summary>The curve off by one standard deviation of what the scan loses.</summary>
    public EdgeCurve Lossy => Curve.Cut(LossSigma, 0, 0);

    /// <param name="flat">Points in the plane of the side, 3·N with z = 0.</param>
    /// <param name="start">About where the edge lies.</param>
    /// <param name="spacing">About how far apart the points lie, mm.</param>
    /// <param name="reach">How far off the start may be, mm.</param>
    /// <param name="noise">Standard deviation of the points, mm.</param>
    /// <param name="loss">How far before the edge the points end, mm; null: what fused scans lose.</param>
    /// <returns>Null, and why, when the points do not tell an edge there.</returns>
    public static (SoughtEdge? Edge, string? Why) Seek(
        double[] flat, EdgeCurve start, double spacing, double reach, double noise, double? loss)
    {
        var fit = new EdgeFit(flat);
        var density = fit.Density(start, spacing);
        var apart = 1 / Math.Sqrt(density);
        if (!(density > 0 && fit.Find(start, apart, reach) is { } found && found.Coverage >= LeastCoverage))
        {
            return (null, "the scan has no points along it");
        }

        if (TrialCuts.Of(found, fit, flat, apart, noise) is not { } error)
        {
            return (null, "too little of its side lies beside it to tell where it is");
        }

        var curve = found.Curve.Step([.. error.Bias.Select(b => -b)]).Cut(-(loss ?? UsualLoss * apart), 0, 0);
        var sigma = apart * (loss is null ? UsualLossSigma : GivenLossSigma);
        return (new(curve, found, apart, sigma, Math.Min(error.Cuts - 1, IndependentCuts))
        {
            Varied = [.. Roots(error).Select(step => curve.Step(step))],
        }, null);
    }

    /// <summary>Independent errors of one standard deviation each; the bias is known no better than its trials tell it.</summary>
    private static IEnumerable<double[]> Roots(EdgeError error)
    {
        var (values, vectors) = SymmetricEigen.Solve(error.Covariance);
        for (var e = 0; e < values.Length; e++)
        {
            var sigma = Math.Sqrt(Math.Max(0, values[e]) * (1 + (1 / IndependentCuts)));
            yield return [.. Enumerable.Range(0, values.Length).Select(r => sigma * vectors[r, e])];
        }
    }
}
