using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Plans;

/// <summary>Features as they would be measured on a perfect part, and how far they reach.</summary>
internal static class PerfectFeature
{
    /// <summary>A feature of the plan, measured or constructed, on a perfect part.</summary>
    public static FeatureResult Of(NominalModel nominal, InspectionPlan plan, string id)
    {
        if (plan.Features.FirstOrDefault(f => f.Id == id) is { } feature)
        {
            return Of(nominal, feature);
        }

        var nominals = new PlanNominals(plan, nominal);
        var face = nominals[id];
        double[] points = [.. nominals.ExtentOf(id).SelectMany(p => p.ToArray())];
        return new(new(id, plan.NameOf(id), []), face, face.Shape!, points, [])
        {
            Construction = plan.Constructions.First(c => c.Id == id),
        };
    }

    /// <summary>The feature as it would be measured on a perfect part.</summary>
    public static FeatureResult Of(NominalModel nominal, FeaturePlan feature)
    {
        if (feature.EdgeOf is not null)
        {
            var edge = FeatureExtraction.Whole(feature, nominal);
            return new(feature, edge, edge.Shape!, [.. Constructed.ExtentOf(edge).SelectMany(p => p.ToArray())], []);
        }

        if (feature.Region is { } region)
        {
            return new(feature, region.Face, region.Face.Shape!, [.. Constructed.ExtentOf(region.Face).SelectMany(p => p.ToArray())], []);
        }

        var own = feature.Faces.ToHashSet();
        var points = new List<double>();
        for (var t = 0; t < nominal.FaceOfTriangle.Length; t++)
        {
            if (own.Contains(nominal.FaceOfTriangle[t]))
            {
                var (a, b, c) = nominal.Mesh.Triangle(t);
                points.AddRange([a.X, a.Y, a.Z, b.X, b.Y, b.Z, c.X, c.Y, c.Z]);
            }
        }

        var face = nominal.Face(feature.Faces[0]);
        return new(feature, face, face.Shape!, [.. points], new double[points.Count / 3]);
    }

    /// <summary>Its longer side: of a plane, of what is round along its axis; mm.</summary>
    public static double LongerSide(FeatureResult f)
    {
        var points = Enumerable.Range(0, f.Points.Length / 3).Select(i => Vector3D.At(f.Points, i));
        switch (f.Nominal.Shape)
        {
            case Plane3D plane:
                var (u, v) = (plane.Normal.Perpendicular(), plane.Normal.Cross(plane.Normal.Perpendicular()));
                return SmallestRectangle.Around(points.Select(p => (p.Dot(u), p.Dot(v)))).Long;
            case Cone3D cone:
                return Along(cone.Axis) / Math.Cos(cone.HalfAngle);
            case Cylinder3D cylinder:
                return Along(cylinder.Axis);
            default:
                return Box3D.Of(points).Diagonal;
        }

        double Along(Vector3D axis)
        {
            double[] at = [.. points.Select(p => p.Dot(axis))];
            return at.Length == 0 ? 0 : at.Max() - at.Min();
        }
    }
}
