using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Plans;

/// <summary>All features of the nominal that are like one picked face: the holes of a pattern, the faces of a kind and size.</summary>
public static class FeaturesAlike
{
    /// <summary>Sizes differ by no more than this, mm: CAD writes them to more digits, a mesh nominal to fewer.</summary>
    private const double SameSize = 1e-3;

    /// <summary>Of a radius of a pattern; mm.</summary>
    private const double SameCircle = 1e-2;

    /// <summary>
    /// Features of the same kind, side and size as the face's own, its axis or normal along the same line: those that the plan has not,
    /// numbered round their common circle from the direction of x where they lie on one, else along x and then y.
    /// </summary>
    /// <param name="edgeOf">Their edges on sides turned as this one, instead of their surfaces.</param>
    /// <exception cref="BadInputException">The nominal has no such face.</exception>
    public static IReadOnlyList<FeaturePlan> Of(NominalModel nominal, InspectionPlan plan, int face, int? edgeOf = null)
    {
        var model = nominal.Face(face);
        var all = NominalFeatures.Find(nominal);
        var own = all.First(s => s.Faces.Contains(model.Id));
        var known = plan.Features.Where(f => f.EdgeOf is null == edgeOf is null).Select(f => f.Faces.ToHashSet()).ToList();
        var alike = all.Where(s => s.Kind == own.Kind && IsAlike(nominal.Face(s.Faces[0]), nominal.Face(own.Faces[0]))
            && !known.Any(f => f.SetEquals(s.Faces))).ToList();
        var made = new List<FeaturePlan>();
        var borders = edgeOf is null ? null : FaceBorders.Of(nominal);
        foreach (var surface in Ordered(alike, s => PlaceOf(nominal, s)))
        {
            var now = plan with { Features = [.. plan.Features, .. made] };
            var feature = borders is null
                ? Proposals.Named(surface, nominal.Face(surface.Faces[0]), now.Features, made.Count + 1)
                : EdgeAlike(nominal, now, borders, surface, edgeOf!.Value, made.Count + 1);
            made.AddRange(feature is null ? [] : [feature]);
        }

        return made;
    }

    /// <summary>The edge of a surface on the side turned the same way as another; null when it has none.</summary>
    private static FeaturePlan? EdgeAlike(
        NominalModel nominal, InspectionPlan plan, FaceBorders borders, NominalFeature surface, int side, int number)
    {
        var normal = (nominal.Face(side).Shape as Plane3D)?.Normal;
        return EdgeNominal.SidesOf(surface.Faces, nominal, borders)
            .Where(f => normal is { } n && ((Plane3D)nominal.Face(f).Shape!).Normal.Dot(n) > 0)
            .Select(f => EdgeOffers.Edge(nominal, plan, surface.Faces, f, number)).FirstOrDefault(e => e is not null);
    }

    private static bool IsAlike(NominalFace a, NominalFace b) => (a.Shape, b.Shape) switch
    {
        (Cylinder3D x, Cylinder3D y) => Same(x.Radius, y.Radius) && Same(a.End - a.Start, b.End - b.Start) && Along(x.Axis, y.Axis),
        (Cone3D x, Cone3D y) => Math.Abs(x.HalfAngle - y.HalfAngle) < 1e-4 && Same(a.End, b.End) && Along(x.Axis, y.Axis),
        (Sphere3D x, Sphere3D y) => Same(x.Radius, y.Radius),
        (Torus3D x, Torus3D y) => Same(x.MajorRadius, y.MajorRadius) && Same(x.MinorRadius, y.MinorRadius) && Along(x.Axis, y.Axis),
        (Plane3D x, Plane3D y) => Math.Abs(a.Area - b.Area) < 1e-3 * a.Area && Along(x.Normal, y.Normal),
        _ => false,
    };

    private static bool Same(double a, double b) => Math.Abs(a - b) < SameSize;

    private static bool Along(Vector3D a, Vector3D b) => a.LineAngleTo(b) < 1e-4;

    private static Vector3D PlaceOf(NominalModel nominal, NominalFeature s)
    {
        var extent = Constructed.ExtentOf(nominal.Face(s.Faces[0]));
        return extent.Aggregate(Vector3D.Zero, (sum, p) => sum + p) / extent.Count;
    }

    private static List<NominalFeature> Ordered(List<NominalFeature> all, Func<NominalFeature, Vector3D> placeOf)
    {
        var places = all.ToDictionary(s => s, placeOf);
        var middle = places.Values.Aggregate(Vector3D.Zero, (sum, p) => sum + (p / Math.Max(1, places.Count)));
        var radii = places.Values.Select(p => (p - middle).Length).ToArray();
        var onCircle = all.Count > 2 && radii.Max() - radii.Min() < SameCircle;

        // Seen along the direction that the places spread least in, from its positive end.
        var across = onCircle ? Across(places.Values, middle) : Vector3D.UnitZ;
        var x = Math.Abs(across.X) < 0.9 ? Vector3D.UnitX : Vector3D.UnitY;
        var (u, v) = ((x - (x.Dot(across) * across)).Normalized(), across.Cross((x - (x.Dot(across) * across)).Normalized()));
        double Angle(Vector3D p) => (Math.Atan2((p - middle).Dot(v), (p - middle).Dot(u)) + (2 * Math.PI) + 1e-9) % (2 * Math.PI);
        return onCircle
            ? [.. all.OrderBy(s => Angle(places[s]))]
            : [.. all.OrderBy(s => Math.Round(places[s].X, 3)).ThenBy(s => Math.Round(places[s].Y, 3)).ThenBy(s => places[s].Z)];
    }

    private static Vector3D Across(IEnumerable<Vector3D> places, Vector3D middle)
    {
        var normal = Fitting.PointSums.Scatter([.. places.SelectMany(p => p.ToArray())], middle).Vectors[0];
        var largest = Math.Abs(normal.Z) >= Math.Max(Math.Abs(normal.X), Math.Abs(normal.Y)) ? normal.Z
            : Math.Abs(normal.Y) >= Math.Abs(normal.X) ? normal.Y : normal.X;
        return largest < 0 ? -normal : normal;
    }
}
