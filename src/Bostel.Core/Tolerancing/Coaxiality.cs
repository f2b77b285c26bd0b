using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Coaxiality and concentricity (ISO 1101, 18.15): twice the greatest distance of an axis or a centre from the datum axis.
/// </summary>
internal static class Coaxiality
{
    /// <summary>The nominal axis may lie so far off that of the datum, mm: rounding.</summary>
    private const double Beside = 1e-3;

    public static Evaluated Of(FeatureResult f, DatumSystem system, bool straight, double? projectedBy = null)
    {
        if (system.First.IsPlane || system.Features[0].NominalAxis is not { } axis)
        {
            throw new BadInputException($"Datum {system.FirstLabel} gives no axis that something could be coaxial with.");
        }

        if (f.NominalAxis is { } own && (own.Direction.LineAngleTo(axis.Direction) > Beside || axis.Distance(own.Point) > Beside))
        {
            throw new BadInputException(FormattableString.Invariant(
                $"{f.Plan.Name} lies {axis.Distance(own.Point):0.###} mm beside the axis of datum {system.FirstLabel} on the nominal: ")
                + "ask for its position.");
        }

        var moved = f.Moved(system.Transform);
        var places = AxisPlaces.Of(moved, straight, projectedBy, system);
        var (value, raw, budget) = new LineZone(v => v - (v.Dot(axis.Direction) * axis.Direction), LineZone.Doubled)
            .Of(moved, places, RigidTransform.Identity, [.. places.Places.Select(_ => axis.Point)], system);
        return new(value, budget, $"{places.Words}, cylindrical zone about {system.Words}", [f])
        {
            Raw = raw,
            Device = new(0, 0, 1),
            Datums = system.Features,
        };
    }
}
