namespace Bostel.Core.Geometry;

/// <summary>
/// The rectangle of least area around points of a plane. One of its sides lies along a side of their convex hull (Freeman and Shapira,
/// Communications of the ACM 18, 1975).
/// </summary>
public static class SmallestRectangle
{
    /// <summary>Its longer and its shorter side, in the unit of the points; both 0 without points.</summary>
    public static (double Long, double Short) Around(IEnumerable<(double X, double Y)> points)
    {
        var hull = Hull([.. points.Distinct().Order()]);
        var best = (Area: double.PositiveInfinity, Long: 0.0, Short: 0.0);
        for (var i = 0; i < hull.Count; i++)
        {
            var (from, to) = (hull[i], hull[(i + 1) % hull.Count]);
            var (x, y) = (to.X - from.X, to.Y - from.Y);
            var length = Math.Sqrt((x * x) + (y * y));
            if (length > 0)
            {
                var (along, across) = (Width(hull, x / length, y / length), Width(hull, -y / length, x / length));
                if (along * across < best.Area)
                {
                    best = (along * across, Math.Max(along, across), Math.Min(along, across));
                }
            }
        }

        return (best.Long, best.Short);
    }

    private static double Width(List<(double X, double Y)> hull, double x, double y)
    {
        var (low, high) = (double.PositiveInfinity, double.NegativeInfinity);
        foreach (var p in hull)
        {
            var at = (p.X * x) + (p.Y * y);
            (low, high) = (Math.Min(low, at), Math.Max(high, at));
        }

        return high - low;
    }

    /// <summary>Andrew's monotone chain, counter-clockwise.</summary>
    private static List<(double X, double Y)> Hull(List<(double X, double Y)> sorted)
    {
        if (sorted.Count < 3)
        {
            return sorted;
        }

        List<(double X, double Y)> hull = [];
        foreach (var half in (IEnumerable<(double X, double Y)>[])[sorted, sorted.AsEnumerable().Reverse()])
        {
            var first = hull.Count;
            foreach (var p in half)
            {
                while (hull.Count >= first + 2 && Turn(hull[^2], hull[^1], p) <= 0)
                {
                    hull.RemoveAt(hull.Count - 1);
                }

                hull.Add(p);
            }

            // The last of one half is the first of the other.
            hull.RemoveAt(hull.Count - 1);
        }

        return hull;
    }

    private static double Turn((double X, double Y) a, (double X, double Y) b, (double X, double Y) c) =>
        ((b.X - a.X) * (c.Y - a.Y)) - ((b.Y - a.Y) * (c.X - a.X));
}
