using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>
/// The residuals of a feature laid flat: a round one unrolled about its axis, a plane seen along its normal, an edge along its length.
/// </summary>
/// <param name="Across">What goes to the right, with its unit.</param>
/// <param name="Up">What goes up, with its unit; null: the residual itself, of features that are lines.</param>
/// <param name="Points">Across, up and residual (mm) by turns, 3·N; no more than the picture can show.</param>
public sealed record ResidualMap(string Across, string? Up, double[] Points)
{
    private const int Most = 6000;

    private const string Around = "angle about the axis, °", Along = "along the axis, mm";

    /// <returns>Null for a feature that has no residuals, or cannot be laid flat.</returns>
    public static ResidualMap? Of(FeatureResult f)
    {
        if (f.Construction is not null || f.Residuals.Length < 3)
        {
            return null;
        }

        return f.Shape switch
        {
            Plane3D s => Laid(f, "mm", "mm", Flat(s.Normal, f.Place)),
            Cylinder3D s => Laid(f, Around, Along, Unrolled(s.AxisLine)),
            Cone3D s => Laid(f, Around, Along, Unrolled(new(s.Apex, s.Axis))),
            Torus3D s => Laid(f, Around, Along, Unrolled(new(s.Center, s.Axis))),
            Sphere3D s => Laid(f, "longitude, °", "latitude, °", Globe(s.Center)),
            Circle3D s => Laid(f, Around, null, Unrolled(new(s.Center, s.Normal))),
            Slot3D s => Laid(f, "angle about the middle, °", null, Unrolled(new(s.Center, s.Normal))),
            Line3D s => Laid(f, "along the line, mm", null, p => ((p - f.Place).Dot(s.Direction), 0)),
            _ => null,
        };
    }

    private static ResidualMap Laid(FeatureResult f, string across, string? up, Func<Vector3D, (double U, double V)> lay)
    {
        var step = Math.Max(1, (f.Residuals.Length + Most - 1) / Most);
        var points = new List<double>();
        for (var i = 0; i < f.Residuals.Length; i += step)
        {
            var (u, v) = lay(Vector3D.At(f.Points, i));
            points.AddRange([u, v, f.Residuals[i]]);
        }

        return new(across, up, [.. points]);
    }

    /// <summary>Seen against the normal, the longer of the part's axes that lie in it to the right.</summary>
    private static Func<Vector3D, (double U, double V)> Flat(Vector3D normal, Vector3D middle)
    {
        var (x, y) = SquareTo(normal);
        return p => ((p - middle).Dot(x), (p - middle).Dot(y));
    }

    private static Func<Vector3D, (double U, double V)> Unrolled(Line3D axis)
    {
        var (x, y) = SquareTo(axis.Direction);
        return p => (Degrees((p - axis.Point).Dot(x), (p - axis.Point).Dot(y)), (p - axis.Point).Dot(axis.Direction));
    }

    private static Func<Vector3D, (double U, double V)> Globe(Vector3D center) => p =>
    {
        var d = (p - center).Normalized();
        return (Degrees(d.X, d.Y), Math.Asin(Math.Clamp(d.Z, -1, 1)) * 180 / Math.PI);
    };

    /// <summary>Two directions across one; the first is the part's x, or its y where that runs along.</summary>
    private static (Vector3D X, Vector3D Y) SquareTo(Vector3D along)
    {
        var start = Math.Abs(along.X) < 0.9 ? Vector3D.UnitX : Vector3D.UnitY;
        var x = (start - (start.Dot(along) * along)).Normalized();
        return (x, along.Cross(x));
    }

    private static double Degrees(double x, double y)
    {
        var angle = Math.Atan2(y, x) * 180 / Math.PI;
        return angle < 0 ? angle + 360 : angle;
    }
}
