using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>A place that was picked, in nominal coordinates, mm.</summary>
/// <param name="Point">On the scan.</param>
/// <param name="Nominal">Beneath it on the nominal; null where none is.</param>
/// <param name="Face">Of the nominal, beneath it; null where none is.</param>
public sealed record PickedPlace(double[] Point, double[]? Nominal, int? Face)
{
    internal Plane3D? PlaneOf(NominalModel model) => Face is { } face ? model.Face(face).Shape as Plane3D : null;
}

/// <summary>How far two picked places are apart. Of single points: their noise is in it, and no uncertainty is told.</summary>
/// <param name="Straight">On the scan, mm.</param>
/// <param name="Along">The same along x, y and z, from the first to the second.</param>
/// <param name="OnNominal">Between the places beneath them on the nominal; null where one has none.</param>
/// <param name="ToPlane">From the first on the scan square to the nominal's plane on which the second lies; null where it lies on none,
/// or both on one face.</param>
/// <param name="AngleDegrees">Between the planes on which they lie, 0 to 90; null where one lies on none, or both on one face.</param>
public sealed record PlaceDistance(double Straight, double[] Along, double? OnNominal, double? ToPlane, double? AngleDegrees)
{
    /// <exception cref="BadInputException">A place is not three finite numbers, or there is no such face.</exception>
    public static PlaceDistance Between(PickedPlace a, PickedPlace b, NominalModel nominal)
    {
        var (from, to) = (At(a.Point), At(b.Point));
        var apart = a.Face != b.Face;
        var (planeA, planeB) = (a.PlaneOf(nominal), b.PlaneOf(nominal));
        return new(
            Vector3D.Distance(from, to), (to - from).ToArray(),
            a.Nominal is { } below && b.Nominal is { } beneath ? Vector3D.Distance(At(below), At(beneath)) : null,
            apart && planeB is not null ? Math.Abs(planeB.Distance(from)) : null,
            apart && planeA is not null && planeB is not null ? planeA.Normal.LineAngleTo(planeB.Normal) * 180 / Math.PI : null);
    }

    private static Vector3D At(double[] place) => place is { Length: 3 } && place.All(double.IsFinite)
        ? Vector3D.FromArray(place)
        : throw new BadInputException("point: a place is three finite numbers.");
}
