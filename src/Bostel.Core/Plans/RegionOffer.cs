using Bostel.Core.Features;
using Bostel.Core.Geometry;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>What can be measured at a place of a scan, where the nominal has no face for it.</summary>
public static class RegionOffer
{
    /// <summary>A feature under an id and a name that the plan has not yet.</summary>
    /// <param name="at">A place of the scan in nominal coordinates.</param>
    /// <exception cref="BadInputException">The scan is not there, or no surface is told.</exception>
    public static FeaturePlan At(AlignedScan scan, Vector3D at, InspectionPlan plan)
    {
        var ids = plan.FeatureIds.ToHashSet();
        var n = Enumerable.Range(1, ids.Count + 1).First(i => !ids.Contains($"region-{i}"));
        var picked = RegionExtraction.Pick(scan, at, $"region-{n}", $"Region {n}");
        return picked with { Name = Invariant($"{Words(picked.Region!.Face.Shape!, picked.Region.Internal)} on the scan {n}") };
    }

    private static string Words(Shape shape, bool isInternal) => shape switch
    {
        Cylinder3D s => Invariant($"{(isInternal ? "Bore" : "Boss")} ⌀{2 * s.Radius:0.##}"),
        Sphere3D s => Invariant($"Sphere ⌀{2 * s.Radius:0.##}"),
        Cone3D s => Invariant($"Cone {2 * s.HalfAngle * 180 / Math.PI:0.##}°"),
        Torus3D => "Torus",
        _ => "Plane",
    };
}
