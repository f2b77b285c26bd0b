using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>Points that count together.</summary>
/// <param name="Middle">Of their areas.</param>
/// <param name="Area">Sum of their areas.</param>
/// <param name="Moment">Of areas times residuals.</param>
/// <param name="Slope">Of areas times residuals times places about the middle.</param>
/// <param name="Squares">Of the areas squared.</param>
/// <param name="Of">Mean squares of their places about the middle: xx, yy, zz.</param>
/// <param name="Across">The same of their products: xy, xz, yz.</param>
/// <param name="Gathered">Whether sources are made of several points each: then the last four count.</param>
internal readonly record struct GaussianSource(
    Vector3D Middle, double Area, double Moment, Vector3D Slope, double Squares, Vector3D Of, Vector3D Across, bool Gathered)
{
    public static GaussianSource Single(Vector3D place, double area, double residual) =>
        new(place, area, area * residual, default, area * area, default, default, false);

    /// <summary>Of several points.</summary>
    /// <param name="points">At least one.</param>
    public static GaussianSource Gather(double[] coordinates, double[] areas, double[] residuals, ReadOnlySpan<int> points)
    {
        double area = 0, moment = 0, squares = 0;
        Vector3D sum = default, slope = default, of = default, across = default;
        foreach (var i in points)
        {
            area += areas[i];
            moment += areas[i] * residuals[i];
            squares += areas[i] * areas[i];
            sum += areas[i] * Vector3D.At(coordinates, i);
        }

        if (!(area > 0))
        {
            return new(Vector3D.At(coordinates, points[0]), 0, 0, default, 0, default, default, true);
        }

        var middle = sum / area;
        foreach (var i in points)
        {
            var (d, share) = (Vector3D.At(coordinates, i) - middle, areas[i] / area);
            slope += areas[i] * residuals[i] * d;
            of += share * new Vector3D(d.X * d.X, d.Y * d.Y, d.Z * d.Z);
            across += share * new Vector3D(d.X * d.Y, d.X * d.Z, d.Y * d.Z);
        }

        return new(middle, area, moment, slope, squares, of, across, true);
    }
}
