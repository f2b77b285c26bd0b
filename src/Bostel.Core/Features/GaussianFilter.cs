using System.Runtime.InteropServices;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>
/// Areal Gaussian filter of residuals over a feature's points (weights of ISO 16610-61, each point with the surface it stands for).
/// </summary>
internal static class GaussianFilter
{
    /// <summary>The weights end at this share of the nesting index, where they are a ten thousandth of the middle one.</summary>
    private const double Truncation = 0.8;

    /// <summary>
    /// Where points lie densely, those in a cube of this share of the nesting index count together, by an expansion of the weights about
    /// their middle to the second order (Greengard and Strain, The fast Gauss transform, 1991). For a wave of the nesting index that errs
    /// by less than a thousandth.
    /// </summary>
    private const double CubeShare = 1.0 / 8;

    /// <summary>Cubes with fewer points than this save nothing.</summary>
    private const double PointsInCube = 3;

    /// <summary>Filtered residuals, and the mean number of points that one filtered value rests on (1/Σw²).</summary>
    /// <param name="coordinates">3·N, mm.</param>
    /// <param name="areas">The surface that each stands for, mm².</param>
    /// <param name="nestingIndex">Cut-off wavelength, mm.</param>
    public static (double[] Filtered, double PointsPerValue) Apply(
        double[] coordinates, double[] areas, double[] residuals, double nestingIndex)
    {
        var cube = CubeShare * nestingIndex;
        return areas.Length > 0 && cube * cube > PointsInCube * areas.Average()
            ? Apply(coordinates, Gathered(coordinates, areas, residuals, cube), nestingIndex)
            : Exactly(coordinates, areas, residuals, nestingIndex);
    }

    /// <summary>The same with each point on its own.</summary>
    internal static (double[] Filtered, double PointsPerValue) Exactly(
        double[] coordinates, double[] areas, double[] residuals, double nestingIndex) =>
        Apply(coordinates, [.. areas.Select((a, i) => GaussianSource.Single(Vector3D.At(coordinates, i), a, residuals[i]))], nestingIndex);

    private static (double[] Filtered, double PointsPerValue) Apply(double[] coordinates, GaussianSource[] from, double nestingIndex)
    {
        var reach = Truncation * nestingIndex;
        var targets = new PointCells(coordinates, reach);
        var sources = new PointCells([.. from.SelectMany(s => s.Middle.ToArray())], reach);
        var filtered = new double[coordinates.Length / 3];
        var support = new double[filtered.Length];
        Parallel.For(0, targets.Count, () => (Near: new List<int>(), Around: new GaussianSums(nestingIndex, reach)), (cell, _, with) =>
        {
            sources.Around(Vector3D.At(coordinates, targets.In(cell)[0]), with.Near);
            with.Around.Take(from, CollectionsMarshal.AsSpan(with.Near));
            foreach (var i in targets.In(cell))
            {
                (filtered[i], support[i]) = with.Around.At(Vector3D.At(coordinates, i));
            }

            return with;
        }, _ => { });
        return (filtered, support.Length == 0 ? 1 : support.Average());
    }

    private static GaussianSource[] Gathered(double[] coordinates, double[] areas, double[] residuals, double side)
    {
        var cubes = new PointCells(coordinates, side);
        var sources = new GaussianSource[cubes.Count];
        Parallel.For(0, cubes.Count, cube => sources[cube] = GaussianSource.Gather(coordinates, areas, residuals, cubes.In(cube)));
        return sources;
    }
}
