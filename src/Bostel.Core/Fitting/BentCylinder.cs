using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// The torus a short piece of tube belongs to: a cylinder through it errs by κs²/2·cos(θ − β), with s along its axis, θ around it,
/// κ the curvature of the tube's middle line and β the side it bends to (second-order expansion of the torus about a meridian). Points
/// alone tell it, where normals are too noisy.
/// </summary>
internal static class BentCylinder
{
    private const int Terms = 8;

    /// <summary>
    /// The torus nearest to points that lie about a cylinder; null when they do not tell a bend, or one tighter than the tube.
    /// </summary>
    /// <param name="points">3·N coordinates, mm.</param>
    public static Torus3D? Torus(double[] points, Cylinder3D cylinder)
    {
        var centroid = PointSums.Centroid(points);
        var scale = PointSums.Extent(points, centroid);
        var frame = Frames.Along(cylinder.AxisLine.Project(centroid), cylinder.Axis);
        var inverse = frame.Inverse();
        var (matrix, right, bend) = (new double[Terms, Terms], new double[Terms], new double[Terms]);
        Span<double> row = stackalloc double[Terms];
        for (var i = 0; i < points.Length; i += 3)
        {
            var p = inverse.Apply(new(points[i], points[i + 1], points[i + 2]));
            var (rho, s) = (Math.Sqrt((p.X * p.X) + (p.Y * p.Y)), p.Z / scale);
            if (rho == 0)
            {
                continue;
            }

            // Size, shift and tilt of the cylinder are free beside the bend.
            var (c, n) = (p.X / rho, p.Y / rho);
            (row[0], row[1], row[2], row[3]) = (1, s, c, n);
            (row[4], row[5], row[6], row[7]) = (s * c, s * n, s * s * c, s * s * n);
            for (var j = 0; j < Terms; j++)
            {
                right[j] += row[j] * (rho - cylinder.Radius);
                for (var k = 0; k < Terms; k++)
                {
                    matrix[j, k] += row[j] * row[k];
                }
            }
        }

        if (!LinearSolve.Cholesky(matrix, right, bend))
        {
            return null;
        }

        var curvature = 2 * Math.Sqrt((bend[6] * bend[6]) + (bend[7] * bend[7])) / (scale * scale);
        var (major, side) = (1 / curvature, frame.Rotate(new Vector3D(bend[6], bend[7], 0).Normalized()));
        return major > cylinder.Radius && curvature * scale > 1e-3
            ? new(frame.Apply(new(bend[2], bend[3], 0)) + (major * side), cylinder.Axis.Cross(side).Normalized(), major,
                cylinder.Radius + bend[0])
            : null;
    }
}
