using Bostel.Core.Fitting;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>How the points of a surface err.</summary>
/// <param name="Sigma">Standard deviation of one, mm.</param>
/// <param name="Independent">How many of them err independently.</param>
/// <param name="Support">How many independent points the form rests on at each place.</param>
/// <param name="Rounded">Whether the form rounds off edges: some rests are far too large to be noise.</param>
internal sealed record PointNoise(double Sigma, double Independent, double Support, bool Rounded);

/// <summary>
/// Residuals on a surface taken apart into form, their areal Gaussian mean over a few points, and noise, the rest, with what its own
/// correlation leaves independent. Form shorter than a few points counts as noise, so noise is never too small.
/// </summary>
internal sealed record SurfaceNoise(double[] Form, PointNoise Noise)
{
    /// <summary>Of normal numbers one in 16,000 is larger than this many standard deviations.</summary>
    private const double NoNoise = 4;

    /// <summary>Cut-off of the mean in point spacings: it rests on some fifteen points.</summary>
    private const double Spacings = 6;

    private const double LeastSupport = 4;

    /// <param name="points">3·N coordinates, mm.</param>
    /// <param name="residuals">Along the surface's normal, mm.</param>
    /// <param name="areas">The surface each point stands for, mm².</param>
    /// <returns>Null when the points lie too far apart to tell noise from form.</returns>
    public static SurfaceNoise? Of(double[] points, double[] areas, double[] residuals, PointTree tree)
    {
        var (form, support) = GaussianFilter.Apply(points, areas, residuals, Spacings * Math.Sqrt(areas.Average()));
        if (!(support >= LeastSupport))
        {
            return null;
        }

        var rest = residuals.Select((r, i) => r - form[i]).ToArray();

        // A mean with Gaussian weights gives the point itself 2/s of the weight, s its support: 1 − 2·2/s + 1/s of the variance is left.
        var sigma = RobustFit.Scale(rest) / Math.Sqrt(1 - (3 / support));

        // Edges of form that the mean rounds off hang together, and are no noise.
        var clipped = rest.Select(r => Math.Clamp(r, -3 * sigma, 3 * sigma)).ToArray();
        var independent = Math.Clamp(SpatialCorrelation.EffectiveCount(points, clipped, tree, 0), 1, rest.Length);
        var rounded = rest.Count(r => Math.Abs(r) > NoNoise * sigma) > 2 + (rest.Length / 4000);
        return new(form, new(sigma, independent, Math.Max(1, support * independent / rest.Length), rounded));
    }
}
