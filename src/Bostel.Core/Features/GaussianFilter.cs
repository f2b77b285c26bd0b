using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>
/// Areal Gaussian filter of residuals over a feature's points (weights of ISO 16610-61, each point with the surface it stands for).
/// </summary>
internal static class GaussianFilter
{
    /// <summary>The weights end at this share of the nesting index, where they are below 1 % of the middle one.</summary>
    private const double Truncation = 0.6;

    /// <summary>Filtered residuals, and the mean number of points that one filtered value rests on (1/Σw²).</summary>
    /// <param name="nestingIndex">Cut-off wavelength, mm.</param>
    public static (double[] Filtered, double PointsPerValue) Apply(
        double[] coordinates, double[] areas, double[] residuals, double nestingIndex, PointTree tree)
    {
        // α = √(ln 2 / π): half of a wave of the nesting index passes.
        var alpha = Math.Sqrt(Math.Log(2) / Math.PI);
        var filtered = new double[residuals.Length];
        var support = new double[residuals.Length];
        Parallel.For(0, (residuals.Length + 1023) / 1024, () => new List<int>(), (chunk, _, near) =>
        {
            for (var i = chunk * 1024; i < Math.Min(residuals.Length, (chunk + 1) * 1024); i++)
            {
                var p = Vector3D.At(coordinates, i);
                tree.Within(p, Truncation * nestingIndex, near);
                double sum = 0, weight = 0, squares = 0;
                foreach (var j in near)
                {
                    var d2 = (Vector3D.At(coordinates, j) - p).LengthSquared;
                    var w = areas[j] * Math.Exp(-Math.PI * d2 / (alpha * alpha * nestingIndex * nestingIndex));
                    sum += w * residuals[j];
                    weight += w;
                    squares += w * w;
                }

                filtered[i] = sum / weight;
                support[i] = weight * weight / squares;
            }

            return near;
        }, _ => { });
        return (filtered, support.Length == 0 ? 1 : support.Average());
    }
}
