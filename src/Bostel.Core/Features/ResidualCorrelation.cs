using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>
/// How many independent points a set of neighbouring residuals is worth: the empirical autocorrelation of the residuals over distance gives a
/// correlation area; the feature's area over it is the effective number (Cressie, Statistics for Spatial Data, 1993, 1.3 and 2.4).
/// </summary>
internal static class ResidualCorrelation
{
    private const int Probes = 400;
    private const int Lags = 12;

    /// <summary>Effective number of points, between 1 and their count.</summary>
    /// <param name="coordinates">3·N.</param>
    /// <param name="residuals">N, about zero.</param>
    /// <param name="areaPerPoint">mm² each point stands for.</param>
    public static double EffectiveCount(double[] coordinates, double[] residuals, double areaPerPoint, PointTree tree)
    {
        var n = residuals.Length;
        var variance = residuals.Sum(r => r * r) / Math.Max(1, n);
        if (n < 30 || variance <= 0 || areaPerPoint <= 0)
        {
            return n;
        }

        var lag = Math.Sqrt(areaPerPoint);
        var products = new double[Lags];
        var counts = new int[Lags];
        var near = new List<int>();
        for (var k = 0; k < Math.Min(Probes, n); k++)
        {
            var i = (int)((long)k * n / Math.Min(Probes, n));
            var p = new Vector3D(coordinates[3 * i], coordinates[(3 * i) + 1], coordinates[(3 * i) + 2]);
            tree.Within(p, Lags * lag, near);
            foreach (var j in near)
            {
                var d = (new Vector3D(coordinates[3 * j], coordinates[(3 * j) + 1], coordinates[(3 * j) + 2]) - p).Length;
                var bin = (int)(d / lag);
                if (j != i && bin < Lags)
                {
                    products[bin] += residuals[i] * residuals[j];
                    counts[bin]++;
                }
            }
        }

        // Each point's own area counts fully; rings around it count with their correlation until that is lost in its own noise.
        var area = areaPerPoint;
        var inner = areaPerPoint / Math.PI;
        for (var bin = 0; bin < Lags; bin++)
        {
            if (counts[bin] == 0)
            {
                // On an even grid no two points are closer than the spacing: the next ring stands for this one too.
                continue;
            }

            var correlation = products[bin] / counts[bin] / variance;
            if (correlation < 2 / Math.Sqrt(counts[bin]))
            {
                break;
            }

            var outer = (bin + 1) * (bin + 1) * lag * lag;
            area += Math.Min(1, correlation) * Math.PI * (outer - inner);
            inner = outer;
        }

        return Math.Clamp(n * areaPerPoint / area, 1, n);
    }
}
