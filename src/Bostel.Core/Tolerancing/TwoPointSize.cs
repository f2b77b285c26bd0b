using Bostel.Core.Features;
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
    /// <summary>
    /// Opposite a place lie the points within so many spacings of its foot: enough for their mean to add hardly any noise.
    /// </summary>
    private const double Opposite = 2.2;

    private const int LeastOpposite = 6;

    /// <summary>Fewer places with one opposite tell no size.</summary>
    private const int LeastPlaces = 12;

    /// <exception cref="BadInputException">The features are not opposite planes, or one of them has no surface.</exception>
    public static Evaluated Of(FeatureResult a, FeatureResult b)
    {
        var (first, second) = ((a.Shape as Plane3D)!, (b.Shape as Plane3D)!);
        var across = Across(a, b);
        var side = (b.Nominal.Center - a.Nominal.Center).Dot(across) < 0 ? -1 : 1;

        // From each side, so that what is narrow on either is seen.
        Side[] sides = [.. new[] { Places(a, b, second, across), Places(b, a, first, -across) }
            .Where(p => p.Sizes.Length >= LeastPlaces).Select(p => From(p, side))];
        if (sides.Length == 0)
        {
            throw new BadInputException($"{a.Plan.Name} and {b.Plan.Name}: too few places have one opposite to them.");
        }

        var (greatest, least) = (sides.Max(s => s.Greatest), sides.Min(s => s.Least));
        (greatest, least) = (Math.Max(greatest, least), Math.Min(greatest, least));
        var taken = sides.MaxBy(s => s.Greatest)!.Taken;
        return new(greatest, sides.Any(s => double.IsNaN(s.Sigma)) ? null
                : Contribution.Of(new Contribution("noise in the extreme points", sides.Max(s => s.Sigma))),
            $"two-point sizes of {sides.Sum(s => s.Count)} places{Words.Less(taken)}", [a, b])
        {
            Raw = sides.Max(s => s.Raw),
            Least = least,
            Device = new(1, greatest, 0),
            Remark = Invariant($"local sizes from {least:0.000} to {greatest:0.000} mm"),
        };
    }

    /// <summary>
    /// From a to b out of the material's or the slot's inside: a tab's normals point away from each other, a slot's toward.
    /// </summary>
    /// <exception cref="BadInputException">The features are not opposite planes, or one of them has no surface.</exception>
    private static Vector3D Across(FeatureResult a, FeatureResult b)
    {
        if (a.Shape is not Plane3D first || b.Shape is not Plane3D second
            || ((Plane3D)a.Nominal.Shape!).Normal.AngleTo(-((Plane3D)b.Nominal.Shape!).Normal) > Size.MostOutOfParallel)
        {
            throw new BadInputException($"{a.Plan.Name} and {b.Plan.Name} are no slot or tab: a width is that of opposite planes.");
        }

        if (new[] { a, b }.FirstOrDefault(f => !f.IsSurface) is { } without)
        {
            throw new BadInputException(
                $"{without.Plan.Name} has no surface whose places could lie opposite to others: ask for a distance.");
        }

        return (second.Normal - first.Normal).Normalized();
    }

    /// <summary>Middles between points of a slot or tab and their opposites, 3·N coordinates, with the surface each stands for.</summary>
    /// <exception cref="BadInputException">The features are not opposite planes, or too few places have one opposite.</exception>
    public static (double[] Points, double[] Areas) Middles(FeatureResult a, FeatureResult b)
    {
        var across = Across(a, b);
        var made = new List<double>();
        var areas = new List<double>();
        foreach (var (from, to, along) in new[] { (a, b, across), (b, a, -across) })
        {
            var (sizes, points, area) = Places(from, to, (Plane3D)to.Shape, along);
            for (var i = 0; i < sizes.Length; i++)
            {
                made.AddRange((Vector3D.At(points, i) + (sizes[i] / 2 * along)).ToArray());
            }

            areas.AddRange(area);
        }

        return areas.Count >= LeastPlaces
            ? ([.. made], [.. areas])
            : throw new BadInputException($"{a.Plan.Name} and {b.Plan.Name}: too few places have one opposite to them.");
    }

    /// <summary>Extremes of the sizes seen from one side; Sigma is not a number where noise cannot be told from form.</summary>
    private sealed record Side(int Count, double Raw, double Greatest, double Least, double Sigma, NoiseBias Taken);

    private static Side From((double[] Sizes, double[] Points, double[] Areas) places, int sign)
    {
        var local = places.Sizes.Select(s => sign * s).ToArray();
        var mean = local.Average();
        if (SurfaceNoise.Of(places.Points, places.Areas, [.. local.Select(s => s - mean)], new(places.Points)) is not { } surface)
        {
            return new(local.Length, local.Max(), local.Max(), local.Min(), double.NaN, default);
        }

        var up = NoiseBias.Of(surface.Form, surface.Noise, (_, high) => high);
        var down = NoiseBias.Of(surface.Form, surface.Noise, (low, _) => -low);
        return new(local.Length, local.Max(), local.Max() - up.Bias, local.Min() + down.Bias, Math.Max(up.Sigma, down.Sigma), up);
    }

    /// <summary>
    /// At each point of the one plane the height of the other's points around its foot, along the direction from a to b.
    /// </summary>
    private static (double[] Sizes, double[] Points, double[] Areas) Places(
        FeatureResult a, FeatureResult b, Plane3D second, Vector3D across)
    {
        Vector3D Flat(Vector3D p) => p - (p.Dot(across) * across);
        var tree = new PointTree([.. Enumerable.Range(0, b.Used).SelectMany(j => Flat(Vector3D.At(b.Points, j)).ToArray())]);
        var reach = Opposite * Math.Sqrt(b.Areas.Average());
        var residuals = second.Distances(b.Points);
        var near = new List<int>();
        var (sizes, points, areas) = (new List<double>(), new List<double>(), new List<double>());
        for (var i = 0; i < a.Used; i++)
        {
            var p = Vector3D.At(a.Points, i);
            tree.Within(Flat(p), reach, near);
            if (near.Count >= LeastOpposite)
            {
                // The plane carries what the points around do not: its slope.
                sizes.Add((-second.Distance(p) / second.Normal.Dot(across))
                    + (near.Average(j => residuals[j]) * Math.Sign(second.Normal.Dot(across))));
                points.AddRange(p.ToArray());
                areas.Add(a.Areas[i]);
            }
        }

        return ([.. sizes], [.. points], [.. areas]);
    }
}
