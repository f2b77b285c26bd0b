using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// The smallest circle that holds a few points, exactly: of all circles with two of them as ends of a diameter, or through three,
/// the smallest that holds the rest (Elzinga and Hearn 1972). Of points on a line that is their range.
/// </summary>
internal static class SmallestCircle
{
    private const double Slack = 1 + 1e-9;

    /// <summary>Of the size of the coordinates: places that should coincide do so within some of their last digits.</summary>
    private const double LastDigits = 1e-15;

    /// <summary>Its diameter; the points lie in a plane or on a line.</summary>
    public static double Diameter(Vector3D[] flat)
    {
        var best = double.PositiveInfinity;
        var rounding = LastDigits * flat.Select(p => p.Length).DefaultIfEmpty(0).Max();
        for (var i = 0; i < flat.Length; i++)
        {
            for (var j = i + 1; j < flat.Length; j++)
            {
                var middle = (flat[i] + flat[j]) / 2;
                Try(middle, Vector3D.Distance(middle, flat[i]));
                for (var k = j + 1; k < flat.Length; k++)
                {
                    if (Center(flat[i], flat[j], flat[k]) is { } center)
                    {
                        Try(center, Vector3D.Distance(center, flat[i]));
                    }
                }
            }
        }

        return flat.Length < 2 ? 0 : 2 * best;

        void Try(Vector3D center, double radius)
        {
            if (radius < best && flat.All(p => Vector3D.Distance(p, center) <= (radius * Slack) + rounding))
            {
                best = radius;
            }
        }
    }

    /// <summary>Of the circle through three points; null when they lie on a line.</summary>
    private static Vector3D? Center(Vector3D a, Vector3D b, Vector3D c)
    {
        var (u, v) = (b - a, c - a);
        var normal = u.Cross(v);
        var area = normal.LengthSquared;
        return area <= 1e-24 * u.LengthSquared * v.LengthSquared
            ? null
            : a + (((v.LengthSquared * normal.Cross(u)) + (u.LengthSquared * v.Cross(normal))) / (2 * area));
    }
}
