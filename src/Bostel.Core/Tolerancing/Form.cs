using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tolerancing;

/// <summary>Form by the minimum zone (ISO 1101, ISO 12781-1, ISO 12180-1), on the raw or the filtered points.</summary>
internal static class Form
{
    public static Evaluated Flatness(FeatureResult f, double? filter)
    {
        if (f.Shape is not Plane3D)
        {
            throw new BadInputException($"{f.Plan.Name}: flatness belongs to a plane, not to a {f.Nominal.Kind}.");
        }

        var (points, noise) = Prepared(f, filter);
        return new(ExtremalFit.MinimumZonePlane(points).Form, Math.Sqrt(2) * noise, "minimum-zone plane" + Words.Filter(filter),
            [f])
        { DeviceFactor = 0 };
    }

    public static Evaluated Cylindricity(FeatureResult f, double? filter)
    {
        if (f.Shape is not Cylinder3D cylinder)
        {
            throw new BadInputException($"{f.Plan.Name}: cylindricity belongs to a cylinder, not to a {f.Nominal.Kind}.");
        }

        var (points, noise) = Prepared(f, filter);
        return new(ExtremalFit.Cylinder(points, Criterion.MinimumZone, new() { Start = cylinder }).Form, Math.Sqrt(2) * noise,
            "minimum-zone cylinder" + Words.Filter(filter), [f])
        { DeviceFactor = 0 };
    }

    /// <summary>
    /// The feature's points, moved along their normals to the filtered residuals when a filter is named, and the noise left in a single one
    /// of them: from differences of neighbouring residuals, over the square root of the points a filtered value rests on.
    /// </summary>
    internal static (double[] Points, double Noise) Prepared(FeatureResult f, double? filter)
    {
        var tree = new PointTree(f.Points);
        var residuals = f.Shape.Distances(f.Points);
        var noise = LocalNoise(f.Points, residuals, Math.Sqrt(f.AreaPerPoint), tree);
        if (filter is not { } nestingIndex)
        {
            return (f.Points, noise);
        }

        var (smooth, support) = GaussianFilter.Apply(f.Points, residuals, nestingIndex, tree);
        var moved = new double[f.Points.Length];
        for (var i = 0; i < residuals.Length; i++)
        {
            var p = new Vector3D(f.Points[3 * i], f.Points[(3 * i) + 1], f.Points[(3 * i) + 2]);
            var q = p + ((smooth[i] - residuals[i]) * f.Shape.Gradient(p));
            (moved[3 * i], moved[(3 * i) + 1], moved[(3 * i) + 2]) = q;
        }

        return (moved, noise / Math.Sqrt(Math.Max(1, support)));
    }

    private static double LocalNoise(double[] points, double[] residuals, double spacing, PointTree tree)
    {
        var near = new List<int>();
        double sum = 0;
        var count = 0;
        var step = Math.Max(1, residuals.Length / 800);
        for (var i = 0; i < residuals.Length; i += step)
        {
            tree.Within(new(points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]), 1.6 * spacing, near);
            foreach (var j in near)
            {
                if (j != i)
                {
                    sum += (residuals[i] - residuals[j]) * (residuals[i] - residuals[j]);
                    count++;
                }
            }
        }

        return count == 0 ? 0 : Math.Sqrt(sum / count / 2);
    }
}
