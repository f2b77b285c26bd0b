using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Local sizes of a slot or tab (ISO 14405-1, two-point size, the default): distances of opposite places along the mean normal of both
/// planes. Greatest and least are given, freed of what noise adds; both have to lie within the limits.
/// </summary>
internal static class TwoPointSize
{
    /// <summary>Opposite a place lie the points within so many spacings of its foot.</summary>
    private const double Opposite = 1.6;

    /// <summary>Fewer pairs of opposite places tell no size.</summary>
    private const int LeastPairs = 12;

    /// <exception cref="BadInputException">The features are not opposite planes.</exception>
    public static Evaluated Of(FeatureResult a, FeatureResult b)
    {
        if (a.Shape is not Plane3D first || b.Shape is not Plane3D second
            || ((Plane3D)a.Nominal.Shape!).Normal.AngleTo(-((Plane3D)b.Nominal.Shape!).Normal) > Size.MostOutOfParallel)
        {
            throw new BadInputException($"{a.Plan.Name} and {b.Plan.Name} are no slot or tab: a width is that of opposite planes.");
        }

        // From a to b out of the material's or the slot's inside: a tab's normals point away from each other, a slot's toward.
        var across = (second.Normal - first.Normal).Normalized();
        var side = (b.Nominal.Center - a.Nominal.Center).Dot(across) < 0 ? -1 : 1;
        var (sizes, points, areas) = Local(a, b, second, across);
        if (sizes.Length < LeastPairs)
        {
            throw new BadInputException($"{a.Plan.Name} and {b.Plan.Name}: only {sizes.Length} places have one opposite to them.");
        }

        var local = sizes.Select(s => side * s).ToArray();
        var mean = local.Average();
        var noise = SurfaceNoise.Of(points, areas, [.. local.Select(s => s - mean)], new(points));
        var method = $"two-point sizes of {local.Length} places";
        if (noise is null)
        {
            return new(local.Max(), null, method, [a, b]) { Least = local.Min(), Device = new(1, mean, 0) };
        }

        var (up, down) =
            (NoiseBias.Of(noise.Form, noise.Noise, (_, high) => high), NoiseBias.Of(noise.Form, noise.Noise, (low, _) => -low));
        var (greatest, least) = (local.Max() - up.Bias, local.Min() + down.Bias);
        return new(Math.Max(greatest, least), Contribution.Of(
            new Contribution("noise in the extreme points", Math.Max(up.Sigma, down.Sigma))),
            method + Words.Less(up), [a, b])
        {
            Raw = local.Max(),
            Least = Math.Min(greatest, least),
            Device = new(1, mean, 0),
            Remark = Invariant($"local sizes from {Math.Min(greatest, least):0.000} to {Math.Max(greatest, least):0.000} mm"),
        };
    }

    /// <summary>At each point of the one plane the height of the other's points around its foot.</summary>
    private static (double[] Sizes, double[] Points, double[] Areas) Local(
        FeatureResult a, FeatureResult b, Plane3D second, Vector3D across)
    {
        Vector3D At(double[] points, int i) => new(points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]);
        Vector3D Flat(Vector3D p) => p - (p.Dot(across) * across);
        var tree = new PointTree([.. Enumerable.Range(0, b.Used).SelectMany(j => Flat(At(b.Points, j)).ToArray())]);
        var reach = Opposite * Math.Sqrt(b.Areas.Average());
        var near = new List<int>();
        var (sizes, points, areas) = (new List<double>(), new List<double>(), new List<double>());
        for (var i = 0; i < a.Used; i++)
        {
            var p = At(a.Points, i);
            tree.Within(Flat(p), reach, near);
            if (near.Count > 0)
            {
                // The plane carries what the points around do not: its slope.
                sizes.Add((-second.Distance(p) / second.Normal.Dot(across))
                    + (near.Average(j => b.Residuals[j]) * Math.Sign(second.Normal.Dot(across))));
                points.AddRange(p.ToArray());
                areas.Add(a.Areas[i]);
            }
        }

        return ([.. sizes], [.. points], [.. areas]);
    }
}
