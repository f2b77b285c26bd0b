using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Fitting;

/// <summary>
/// How many independent points a set of neighbouring residuals is worth: n / (1 + Σρ), the sum of the correlations of a point with all
/// others taken from the empirical correlogram (Cressie, Statistics for Spatial Data, 1993, 1.3 and 2.4). Holds on curves and surfaces
/// alike.
/// </summary>
internal static class SpatialCorrelation
{
    private const int Probes = 400;
    private const int Lags = 12;
    private const int Widest = 8;

    /// <summary>Effective number of points, between 1 and their count.</summary>
    /// <param name="points">3·N coordinates, mm.</param>
    /// <param name="residuals">N, about zero.</param>
    /// <param name="fitted">Parameters of the fit that left the residuals: it took m/nₑ of the variance, and as much of the covariance of
    /// neighbours.</param>
    public static double EffectiveCount(double[] points, double[] residuals, PointTree tree, int fitted)
    {
        var n = residuals.Length;
        var variance = residuals.Sum(r => r * r) / Math.Max(1, n);
        var lag = Spacing(points, tree);
        if (n < 30 || variance <= 0 || lag <= 0)
        {
            return n;
        }

        // Lags are widened while the correlation reaches past the last one.
        for (var width = 1; ; width *= 2)
        {
            var (sum, pairs, lost) = Correlogram(points, residuals, tree, width * lag, variance);
            if (lost || width == Widest)
            {
                var effective = Math.Clamp(n / (1 + sum), 1, n);
                var taken = Math.Min(0.5, fitted / effective);
                return Math.Clamp(n / (1 + (sum * (1 - taken)) + (pairs * taken)), 1, n);
            }
        }
    }

    /// <summary>
    /// Sum of the correlations of a point with its neighbours, how many those are, and whether correlation was lost within the lags.
    /// </summary>
    private static (double Sum, double Pairs, bool Lost) Correlogram(
        double[] points, double[] residuals, PointTree tree, double lag, double variance)
    {
        var products = new double[Lags];
        var counts = new int[Lags];
        var near = new List<int>();
        var probes = Math.Min(Probes, residuals.Length);
        for (var k = 0; k < probes; k++)
        {
            var i = (int)((long)k * residuals.Length / probes);
            var p = Vector3D.At(points, i);
            tree.Within(p, Lags * lag, near);
            foreach (var j in near)
            {
                var bin = (int)((Vector3D.At(points, j) - p).Length / lag);
                if (j != i && bin < Lags)
                {
                    products[bin] += residuals[i] * residuals[j];
                    counts[bin]++;
                }
            }
        }

        double sum = 0, pairs = 0;
        for (var bin = 0; bin < Lags; bin++)
        {
            // On an even grid no two points are closer than the spacing: such a ring says nothing.
            if (counts[bin] > 0)
            {
                if (products[bin] / counts[bin] / variance < 2 / Math.Sqrt(counts[bin]))
                {
                    return (sum, pairs, true);
                }

                sum += products[bin] / variance / probes;
                pairs += (double)counts[bin] / probes;
            }
        }

        return (sum, pairs, false);
    }

    /// <summary>Side of the square that one point stands for, from the radius that holds eight neighbours.</summary>
    private static double Spacing(double[] points, PointTree tree)
    {
        const int Neighbours = 8, Sampled = 60;
        var n = points.Length / 3;
        var near = new List<int>();
        var radius = PointSums.Extent(points, PointSums.Centroid(points)) / Math.Sqrt(n);
        for (var attempt = 0; attempt < 40; attempt++)
        {
            var counts = new List<int>();
            for (var k = 0; k < Math.Min(Sampled, n); k++)
            {
                tree.Within(Vector3D.At(points, (int)((long)k * n / Math.Min(Sampled, n))), radius, near);
                counts.Add(near.Count - 1);
            }

            counts.Sort();
            var median = counts[counts.Count / 2];
            if (median >= Neighbours || median >= n - 1)
            {
                return radius * Math.Sqrt(Math.PI / Math.Max(1, median));
            }

            radius *= 1.25;
        }

        return 0;
    }
}
