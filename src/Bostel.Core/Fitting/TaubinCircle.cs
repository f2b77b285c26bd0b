using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// Algebraic circle that stays unbiased on short arcs (Taubin 1991, in the Newton form of Chernov, Circular and Linear Regression, 2010,
/// section 5.9).
/// </summary>
internal static class TaubinCircle
{
    /// <param name="flat">Points; only their coordinates in the frame's xy plane count.</param>
    /// <param name="frame">The plane is its xy plane.</param>
    /// <returns>The circle; null when the points lie on a line or in one place.</returns>
    public static Circle3D? Fit(double[] flat, RigidTransform frame)
    {
        var inverse = frame.Inverse();
        var n = flat.Length / 3;
        double mx = 0, my = 0;
        var local = new double[2 * n];
        for (var i = 0; i < n; i++)
        {
            var p = inverse.Apply(Vector3D.At(flat, i));
            (local[2 * i], local[(2 * i) + 1]) = (p.X, p.Y);
            mx += p.X / n;
            my += p.Y / n;
        }

        double mxx = 0, myy = 0, mxy = 0, mxz = 0, myz = 0, mzz = 0;
        for (var i = 0; i < n; i++)
        {
            var (x, y) = (local[2 * i] - mx, local[(2 * i) + 1] - my);
            var z = (x * x) + (y * y);
            mxx += x * x / n;
            myy += y * y / n;
            mxy += x * y / n;
            mxz += x * z / n;
            myz += y * z / n;
            mzz += z * z / n;
        }

        var mz = mxx + myy;
        var cov = (mxx * myy) - (mxy * mxy);

        // What rounding leaves of points on a line; an arc is this flat only below a millionth of a turn.
        if (cov <= 1e-14 * mz * mz)
        {
            return null;
        }

        var a3 = 4 * mz;
        var a2 = (-3 * mz * mz) - mzz;
        var a1 = (mzz * mz) + (4 * cov * mz) - (mxz * mxz) - (myz * myz) - (mz * mz * mz);
        var a0 = (mxz * mxz * myy) + (myz * myz * mxx) - (mzz * cov) - (2 * mxz * myz * mxy) + (mz * mz * cov);
        double eta = 0;
        for (var k = 0; k < 50; k++)
        {
            var value = a0 + (eta * (a1 + (eta * (a2 + (eta * a3)))));
            var slope = a1 + (eta * ((2 * a2) + (3 * a3 * eta)));
            var next = eta - (value / slope);
            if (!double.IsFinite(next) || next < 0 || Math.Abs(next - eta) < 1e-15 * Math.Abs(eta))
            {
                break;
            }

            eta = next;
        }

        var det = (eta * eta) - (eta * mz) + cov;
        var cx = ((mxz * (myy - eta)) - (myz * mxy)) / det / 2;
        var cy = ((myz * (mxx - eta)) - (mxz * mxy)) / det / 2;
        var radius = Math.Sqrt((cx * cx) + (cy * cy) + mz);
        return new Circle3D(frame.Apply(new(cx + mx, cy + my, 0)), frame.Rotate(Vector3D.UnitZ), radius);
    }
}
