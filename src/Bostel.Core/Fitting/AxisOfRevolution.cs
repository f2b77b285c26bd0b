using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// The axis of a surface of revolution from its normals: their lines all meet it, a linear condition on the axis' Plücker coordinates
/// (Pottmann and Randrup, Computing 60, 1998). A start for fits; noise of the normals moves it.
/// </summary>
internal static class AxisOfRevolution
{
    /// <summary>The line nearest to meeting all normal lines; null when the normals do not determine one.</summary>
    /// <param name="surface">Points, mm, unit normals, and weights.</param>
    /// <param name="c">A point near them.</param>
    public static Line3D? Of(IEnumerable<(Vector3D Point, Vector3D Normal, double Weight)> surface, Vector3D c)
    {
        // With lines (n, m = p × n) and the axis (a, b): n·b + m·a = 0. For a given a the best b is −N⁻¹Kᵀa, which leaves a
        // symmetric form in a.
        var (mm, mn, nn) = (new double[3, 3], new double[3, 3], new double[3, 3]);
        foreach (var (p, n, w) in surface)
        {
            var m = (p - c).Cross(n);
            for (var i = 0; i < 3; i++)
            {
                for (var k = 0; k < 3; k++)
                {
                    mm[i, k] += w * m[i] * m[k];
                    mn[i, k] += w * m[i] * n[k];
                    nn[i, k] += w * n[i] * n[k];
                }
            }
        }

        // A shift no normal feels (along a cylinder) is held by a trace of damping.
        var trace = nn[0, 0] + nn[1, 1] + nn[2, 2];
        for (var i = 0; i < 3; i++)
        {
            nn[i, i] += 1e-12 * trace;
        }

        if (LinearSolve.Inverse(nn) is not { } inverse)
        {
            return null;
        }

        var fold = new double[3, 3];
        for (var i = 0; i < 3; i++)
        {
            for (var k = 0; k < 3; k++)
            {
                for (var l = 0; l < 3; l++)
                {
                    fold[i, k] += mn[i, l] * inverse[l, k];
                }
            }
        }

        double Form(int i, int k) => mm[i, k] - Enumerable.Range(0, 3).Sum(l => fold[i, l] * mn[k, l]);
        var a = SymmetricEigen.Solve3(Form(0, 0), Form(0, 1), Form(0, 2), Form(1, 1), Form(1, 2), Form(2, 2)).Vectors[0];
        var b = new Vector3D(-Fold(0), -Fold(1), -Fold(2));
        return new(c + a.Cross(b - (a.Dot(b) * a)), a);

        double Fold(int k) => Enumerable.Range(0, 3).Sum(i => fold[i, k] * a[i]);
    }

    /// <summary>
    /// The torus about an axis: in the half plane of distance and height about it, a circle; null when the points lie on a line there, or
    /// the circle meets the axis.
    /// </summary>
    /// <param name="points">3·N coordinates.</param>
    public static Torus3D? Torus(double[] points, Line3D axis)
    {
        var profile = new double[points.Length];
        for (var i = 0; i < points.Length; i += 3)
        {
            var p = new Vector3D(points[i], points[i + 1], points[i + 2]) - axis.Point;
            var height = p.Dot(axis.Direction);
            (profile[i], profile[i + 1]) = ((p - (height * axis.Direction)).Length, height);
        }

        return TaubinCircle.Fit(profile, RigidTransform.Identity) is { } circle && circle.Center.X > circle.Radius
            ? new(axis.Point + (circle.Center.Y * axis.Direction), axis.Direction, circle.Center.X, circle.Radius)
            : null;
    }
}
