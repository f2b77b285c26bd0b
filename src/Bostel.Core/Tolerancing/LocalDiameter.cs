using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Local diameters of a cylinder (ISO 14405-1, two-point size), and its envelope requirement. A scan has no two points exactly opposite:
/// the surface around each is told by the mean of the points in a small cell, a sector of a cross-section.
/// </summary>
internal static class LocalDiameter
{
    /// <summary>Cells have so many points at the least, and so many sectors; half as many diameters lie in a cross-section.</summary>
    private const int PointsOfCell = 8, Sectors = 24, MostSections = 16, LeastDiameters = 12;

    /// <exception cref="BadInputException">It is no cylinder, or too few places have one opposite.</exception>
    public static Evaluated TwoPoint(FeatureResult f)
    {
        var local = Of(f);
        return new(local.Greatest, local.Sigma is { } sigma ? Contribution.Of([new("noise in the extreme places", sigma)]) : null,
            Invariant($"two-point sizes at {local.Count} places, each of the mean of the points around it{local.Less}"), [f])
        {
            Raw = local.Raw,
            Least = local.Least,
            Device = new(1, local.Greatest, 0),
            Remark = Said(local),
        };
    }

    /// <summary>
    /// Taylor's principle: the largest inscribed cylinder of a hole, or the smallest circumscribed one of a shaft, on the one side,
    /// two-point sizes on the other.
    /// </summary>
    /// <exception cref="BadInputException">It is no cylinder, or too few places have one opposite.</exception>
    public static Evaluated Envelope(FeatureResult f)
    {
        var local = Of(f);
        var cylinder = (Cylinder3D)f.Shape;
        var hole = f.Nominal.Internal;
        var criterion = hole ? Criterion.MaximumInscribed : Criterion.MinimumCircumscribed;
        var known = new Known { Start = cylinder };
        var fit = ExtremalFit.Cylinder(f.Points, criterion, known);
        var sure = ExtremalUncertainty.Of("cylinder", fit, f.Points, f.Areas, known);
        var mating = 2 * ((Cylinder3D)(sure?.Freed(fit.Shape) ?? fit.Shape)).Radius;
        return new(hole ? local.Greatest : mating,
            sure is null || local.Sigma is not { } sigma ? null

                // It rests on a few points, and they are known no better than single ones.
                : Contribution.Of([new("noise in the extreme places", Math.Max(Math.Max(sigma, local.OfPoint), 2 * sure.Radius))]),
            (hole ? "largest inscribed" : "smallest circumscribed") + Invariant($" cylinder, two-point sizes at {local.Count} places"), [f])
        {
            Raw = hole ? local.Raw : 2 * ((Cylinder3D)fit.Shape).Radius,
            Least = hole ? mating : local.Least,
            Device = new(1, mating, 0),
            Remark = Said(local) + Invariant($", envelope {mating:0.000} mm"),
        };
    }

    /// <summary>Freed of noise, the least may come out above the greatest by some of its uncertainty.</summary>
    private static string Said(Local local) => Invariant(
        $"local sizes from {Math.Min(local.Least, local.Greatest):0.000} to {Math.Max(local.Least, local.Greatest):0.000} mm");

    /// <summary>Extremes of the local sizes, freed of what noise adds.</summary>
    /// <param name="Sigma">Standard uncertainty; null where noise cannot be told from form.</param>
    /// <param name="OfPoint">Noise of a single point.</param>
    private sealed record Local(int Count, double Raw, double Greatest, double Least, double? Sigma, double OfPoint, string Less);

    private static Local Of(FeatureResult f)
    {
        if (f.Shape is not Cylinder3D cylinder || !f.IsSurface)
        {
            throw new BadInputException($"{f.Plan.Name}: local diameters belong to a cylinder's surface, not to a {f.Nominal.Kind}.");
        }

        var (sizes, points) = Sizes(f, cylinder);
        if (sizes.Length < LeastDiameters)
        {
            throw new BadInputException($"{f.Plan.Name}: only {sizes.Length} places have one opposite to them: too few local sizes.");
        }

        if (SurfaceNoise.Of(f.Points, f.Areas, f.Residuals, new(f.Points)) is not { Noise: var noise })
        {
            return new(sizes.Length, sizes.Max(), sizes.Max(), sizes.Min(), null, 0, "");
        }

        // What noise is left in the mean of two cells makes the greatest of many too great, and the least too small.
        var independent = points * noise.Independent / f.Residuals.Length;
        var sigma = noise.Sigma * Math.Sqrt(2 / Math.Max(1, independent));
        var mean = sizes.Average();
        double[] form = [.. sizes.Select(s => s - mean)];
        var left = new PointNoise(sigma, sizes.Length, 1, false);
        var up = NoiseBias.Of(form, left, (_, high) => high);
        var down = NoiseBias.Of(form, left, (low, _) => -low);
        return new(sizes.Length, sizes.Max(), sizes.Max() - up.Bias, sizes.Min() + down.Bias, Math.Max(up.Sigma, down.Sigma), noise.Sigma,
            Words.Less(up));
    }

    /// <summary>Diameters through opposite cells of each cross-section, and how many points a cell has on average.</summary>
    private static (double[] Sizes, double PointsOfCell) Sizes(FeatureResult f, Cylinder3D c)
    {
        var (u, v) = (c.Axis.Perpendicular(), c.Axis.Cross(c.Axis.Perpendicular()));
        var residuals = c.Distances(f.Points);
        var at = f.Points.Chunk(3).Select(p => Vector3D.FromArray(p) - c.Point)
            .Select(d => (Height: d.Dot(c.Axis), Angle: Math.Atan2(d.Dot(v), d.Dot(u)))).ToArray();
        var (low, high) = (at.Min(a => a.Height), at.Max(a => a.Height));
        var sections = Math.Clamp(residuals.Length / (Sectors * PointsOfCell), 1, MostSections);
        var cells = Enumerable.Range(0, residuals.Length).GroupBy(i => (
            Section: Math.Min(sections - 1, (int)(sections * (at[i].Height - low) / Math.Max(1e-12, high - low))),
            Sector: Math.Min(Sectors - 1, (int)(Sectors * (at[i].Angle + Math.PI) / (2 * Math.PI)))))
            .Where(g => g.Count() >= PointsOfCell / 2)
            .ToDictionary(g => g.Key, g => (Mean: g.Average(i => residuals[i]), Count: g.Count()));
        var pairs = cells.Where(p => p.Key.Sector < Sectors / 2 && cells.ContainsKey((p.Key.Section, p.Key.Sector + (Sectors / 2))))
            .Select(p => p.Value.Mean + cells[(p.Key.Section, p.Key.Sector + (Sectors / 2))].Mean);
        return ([.. pairs.Select(p => (2 * c.Radius) + p)], cells.Values.Select(v => (double)v.Count).DefaultIfEmpty(0).Average());
    }
}
