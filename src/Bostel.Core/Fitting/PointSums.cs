using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Centroid, second moments, projections and thinning of point lists (3·N coordinates).</summary>
internal static class PointSums
{
    /// <summary>The weighted centroid; false, and why, with fewer points than needed.</summary>
    /// <exception cref="BadInputException">Coordinates or weights that are no numbers.</exception>
    public static bool Enough(double[] points, int least, double[]? weights, out Vector3D centroid, out FitAttempt tooFew)
    {
        var n = points.Length / 3;
        if (weights is not null && (weights.Length != n || weights.Any(w => !(w >= 0 && double.IsFinite(w)))))
        {
            throw new BadInputException($"weights: {n} numbers of 0 or more are needed, one a point.");
        }

        var used = weights is null ? n : weights.Count(w => w > 0);
        (centroid, tooFew) = (default, default);
        if (used < least)
        {
            tooFew = FitAttempt.Failed($"{used} points are too few: at least {least} are needed.");
            return false;
        }

        centroid = Centroid(points, weights);
        return double.IsFinite(centroid.LengthSquared) ? true : throw new BadInputException("points: a coordinate is not a finite number.");
    }

    public static Vector3D Centroid(double[] points, double[]? weights = null)
    {
        double x = 0, y = 0, z = 0, sum = 0;
        var first = new Vector3D(points[0], points[1], points[2]);
        for (var i = 0; i < points.Length; i += 3)
        {
            var w = weights is null ? 1 : weights[i / 3];
            x += w * (points[i] - first.X);
            y += w * (points[i + 1] - first.Y);
            z += w * (points[i + 2] - first.Z);
            sum += w;
        }

        return first + (new Vector3D(x, y, z) / sum);
    }

    /// <summary>Eigenvalues in rising order and eigenvectors of the scatter about a point.</summary>
    public static (double[] Values, Vector3D[] Vectors) Scatter(double[] points, Vector3D c, double[]? weights = null)
    {
        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        for (var i = 0; i < points.Length; i += 3)
        {
            var w = weights is null ? 1 : weights[i / 3];
            var (x, y, z) = (points[i] - c.X, points[i + 1] - c.Y, points[i + 2] - c.Z);
            xx += w * x * x;
            xy += w * x * y;
            xz += w * x * z;
            yy += w * y * y;
            yz += w * y * z;
            zz += w * z * z;
        }

        return SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz);
    }

    public static double[] Project(double[] points, Plane3D plane)
    {
        var flat = new double[points.Length];
        for (var i = 0; i < points.Length; i += 3)
        {
            var p = plane.Project(new(points[i], points[i + 1], points[i + 2]));
            (flat[i], flat[i + 1], flat[i + 2]) = (p.X, p.Y, p.Z);
        }

        return flat;
    }

    /// <summary>At most <paramref name="most"/> points, evenly picked, moved by a shift.</summary>
    public static double[] Thin(double[] points, int most, Vector3D shift = default)
    {
        var n = points.Length / 3;
        var count = Math.Min(n, most);
        var thin = new double[3 * count];
        for (var i = 0; i < count; i++)
        {
            var at = 3 * (int)((long)i * n / count);
            (thin[3 * i], thin[(3 * i) + 1], thin[(3 * i) + 2]) =
                (points[at] + shift.X, points[at + 1] + shift.Y, points[at + 2] + shift.Z);
        }

        return thin;
    }

    /// <summary>The weights of the points that <see cref="Thin(double[], int, Vector3D)"/> picks.</summary>
    public static double[]? ThinWeights(double[]? weights, int most)
    {
        if (weights is null || weights.Length <= most)
        {
            return weights;
        }

        return [.. Enumerable.Range(0, most).Select(i => weights[(int)((long)i * weights.Length / most)])];
    }

    /// <summary>Largest distance along an axis from a point, at least 1e-9.</summary>
    public static double Extent(double[] points, Vector3D from)
    {
        double most = 1e-9;
        for (var i = 0; i < points.Length; i += 3)
        {
            most = Math.Max(
                most, Math.Max(Math.Abs(points[i] - from.X), Math.Max(Math.Abs(points[i + 1] - from.Y), Math.Abs(points[i + 2] - from.Z))));
        }

        return most;
    }

    public static (double Low, double High) Range(ReadOnlySpan<double> values)
    {
        var (low, high) = (double.PositiveInfinity, double.NegativeInfinity);
        foreach (var v in values)
        {
            low = Math.Min(low, v);
            high = Math.Max(high, v);
        }

        return (low, high);
    }
}
