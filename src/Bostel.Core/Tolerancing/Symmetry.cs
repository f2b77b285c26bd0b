using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Symmetry (ISO 1101, 18.16): twice the greatest distance of an extracted median surface, an axis or a centre from the datum plane.
/// </summary>
internal static class Symmetry
{
    /// <summary>The nominal middle may lie so far off the datum plane, mm: rounding.</summary>
    private const double Beside = 1e-3;

    /// <param name="features">One with an axis, a centre or a constructed plane; or two opposite faces, whose middle counts.</param>
    public static Evaluated Of(IReadOnlyList<FeatureResult> features, DatumSystem system, bool straight, double? projectedBy = null)
    {
        if (!system.First.IsPlane || system.Features[0].Nominal.Shape is not Plane3D plane)
        {
            throw new BadInputException($"Datum {system.FirstLabel} gives no plane that something could be symmetrical about.");
        }

        return features.Count == 2
            ? OfMiddle(features[0], features[1], plane, system)
            : OfOne(features[0], plane, system, straight, projectedBy);
    }

    /// <summary>The middles between opposite points; on each the noise of one point, halved.</summary>
    private static Evaluated OfMiddle(FeatureResult a, FeatureResult b, Plane3D plane, DatumSystem system)
    {
        Near((a.Nominal.Center + b.Nominal.Center) / 2, plane, a, system);
        var (points, areas) = TwoPointSize.Middles(a.Moved(system.Transform), b.Moved(system.Transform));
        var heights = plane.Distances(points);
        var mean = heights.Average();
        var surface = SurfaceNoise.Of(points, areas, [.. heights.Select(h => h - mean)], new(points));
        double[] form = [.. surface?.Form.Select(h => h + mean) ?? heights];
        return Extreme.Of(Extreme.Doubled(heights.Min(), heights.Max()), form, surface?.Noise, Extreme.Doubled,
            system.Contributions(points, _ => plane.Normal, Extreme.Doubled),
            $"middles of {heights.Length} pairs of opposite points, zone between planes about {system.Words}", [a, b])
        with
        { Device = new(0, 0, 1), Datums = system.Features };
    }

    private static Evaluated OfOne(FeatureResult f, Plane3D plane, DatumSystem system, bool straight, double? projectedBy)
    {
        if (f is { Shape: Plane3D, Construction: null })
        {
            throw new BadInputException($"{f.Plan.Name}: one face has no middle; name the face opposite to it as well.");
        }

        Near(f.NominalAxis?.Point ?? f.Nominal.Center, plane, f, system);
        var moved = f.Moved(system.Transform);
        var places = AxisPlaces.Of(moved, straight, projectedBy, system);
        var (value, raw, budget) = new LineZone(v => v.Dot(plane.Normal) * plane.Normal, LineZone.Doubled)
            .Of(moved, places, RigidTransform.Identity, [.. places.Places.Select(_ => plane.Point)], system);
        return new(value, budget, $"{places.Words}, zone between planes about {system.Words}", [f])
        {
            Raw = raw,
            Device = new(0, 0, 1),
            Datums = system.Features,
        };
    }

    private static void Near(Vector3D middle, Plane3D plane, FeatureResult f, DatumSystem system)
    {
        if (Math.Abs(plane.Distance(middle)) is var off && off > Beside)
        {
            throw new BadInputException(FormattableString.Invariant(
                $"{f.Plan.Name} lies {off:0.###} mm beside datum {system.FirstLabel} on the nominal: it is not symmetrical about it."));
        }
    }
}
