using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Covariance of a fitted straight line.</summary>
internal static class Lines
{
    /// <summary>
    /// Displacements across the line at the reference, then tilts: for errors alike in every direction across, each direction is a straight
    /// regression over the position along the line. Two directions in space, one in a plane.
    /// </summary>
    /// <param name="residuals">Distances from the line.</param>
    /// <param name="directions">2 in space, 1 in a plane.</param>
    /// <param name="tilts">Whether the direction was fitted.</param>
    public static double[,] Covariance(double[] points, double[]? weights, Line3D line, double[] residuals, int directions, bool tilts)
    {
        double sw = 0, swz = 0, swzz = 0, squares = 0;
        var used = 0;
        for (var i = 0; i < residuals.Length; i++)
        {
            var w = weights is null ? 1 : weights[i];
            var z = (Vector3D.At(points, i) - line.Point).Dot(line.Direction);
            sw += w;
            swz += w * z;
            swzz += w * z * z;
            squares += w * residuals[i] * residuals[i];
            used += w > 0 ? 1 : 0;
        }

        var free = directions * (used - (tilts ? 2 : 1));
        var variance = free > 0 ? squares / free : 0;
        var covariance = new double[2 * directions, 2 * directions];
        var determinant = tilts ? (sw * swzz) - (swz * swz) : 0;
        for (var d = 0; d < directions; d++)
        {
            covariance[d, d] = variance * (determinant > 0 ? swzz / determinant : 1 / sw);
            covariance[directions + d, directions + d] = determinant > 0 ? variance * sw / determinant : 0;
        }

        return covariance;
    }
}
