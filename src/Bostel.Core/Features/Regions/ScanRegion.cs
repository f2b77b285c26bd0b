using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>
/// A surface that was picked on a scan, where the nominal has no face for it. It is kept in nominal coordinates and found again on the next
/// piece: grown from the scan about the same place over what lies on such a surface.
/// </summary>
/// <param name="At">Where it was picked, mm; three numbers.</param>
/// <param name="Kind">plane, cylinder, cone, sphere or torus.</param>
/// <param name="Numbers">The surface that counts as nominal, as <see cref="NominalModelStore.Numbers"/> gives it.</param>
/// <param name="Area">Of what was picked, mm².</param>
/// <param name="Center">Its middle; three numbers.</param>
/// <param name="Extent">Where it begins and ends along its axis, and the angle it goes round, mm and rad; zeros without an axis.</param>
/// <param name="Internal">Whether the material lies outside, as of a bore.</param>
public sealed record ScanRegion(
    double[] At, string Kind, double[] Numbers, double Area, double[] Center, double[] Extent, bool Internal)
{
    internal bool IsPossible => Is(At, 3) && Is(Center, 3) && Is(Extent, 3) && Area > 0 && double.IsFinite(Area)
        && Numbers.All(double.IsFinite) && NominalModelStore.FromNumbers(Kind, Numbers) is { } shape
        && !(NominalFaceBuilder.DirectionOf(shape) is { } along && Math.Abs(along.Length - 1) > 1e-6)
        && shape is Plane3D or Cylinder3D { Radius: > 0 } or Cone3D { HalfAngle: > 0 and < Math.PI / 2 } or Sphere3D { Radius: > 0 }
            or Torus3D { MajorRadius: > 0, MinorRadius: > 0 };

    /// <summary>The region as a face of the nominal would be.</summary>
    internal NominalFace Face => new(-1, Kind, Area, Internal, Extent[0], Extent[1], Extent[2], Vector3D.FromArray(Center))
    {
        Shape = NominalModelStore.FromNumbers(Kind, Numbers),
    };

    internal static ScanRegion Of(NominalFace face, Vector3D at) => new(
        at.ToArray(), face.Kind, NominalModelStore.Numbers(face.Shape)!, face.Area, face.Center.ToArray(),
        [face.Start, face.End, face.Sweep], face.Internal);

    private static bool Is(double[] numbers, int count) => numbers.Length == count && numbers.All(double.IsFinite);
}
