using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>One cross-section of a surface: which of its points, the angle of each about the axis, and how it lies.</summary>
/// <param name="Place">Height along the axis, or distance from it; mm.</param>
/// <param name="Center">Of a cross-section, on the axis; null: a ring around it.</param>
/// <param name="Values">Distance from the axis, or height along it, at each point, as at the middle of the ring; mm.</param>
internal sealed record Ring(int[] Points, double[] Angles, double Place, Vector3D? Center, double[] Values)
{
    /// <summary>Where it lies, for people.</summary>
    public string Words => Center is { } c
        ? FormattableString.Invariant($"widest about ({c.X:0.#}, {c.Y:0.#}, {c.Z:0.#})")
        : FormattableString.Invariant($"widest {Place:0.#} mm from the axis");

    /// <summary>Width between the two nearest concentric circles that hold it; its values are distances from an axis.</summary>
    public double Zone() => ExtremalFit.Fit("circle", Criterion.MinimumZone, Flat(), InPlane).Form;

    /// <summary>What its values are about the circle that fits them best.</summary>
    public double[] Centred() => LeastSquares.Fit("circle", Flat(), InPlane).Residuals;

    private static Known InPlane => new() { Normal = Vector3D.UnitZ };

    private double[] Flat() => [.. Values.SelectMany((r, i) => new[] { r * Math.Cos(Angles[i]), r * Math.Sin(Angles[i]), 0 })];
}

/// <summary>
/// Cross-sections of a round surface square to an axis, or rings of a face around one. A scan has no points in a plane: a ring holds those
/// of a thin slice, each brought to the slice's middle along the associated surface, so that neither a lean nor a taper widens the ring.
/// </summary>
internal static class Rings
{
    /// <summary>Points tell a ring; more rings find a worse one, and have fewer.</summary>
    private const int PointsOfRing = 60, Most = 16;

    /// <summary>Of a ring less than this share of its sectors seen tells no form round it.</summary>
    private const double LeastSeen = 0.5;
    private const int Sectors = 24;

    /// <param name="points">3·N coordinates in the axis' frame.</param>
    /// <param name="surface">Associated with them: a cylinder, cone or sphere.</param>
    /// <exception cref="BadInputException">The points allow no ring.</exception>
    public static IReadOnlyList<Ring> Across(FeatureResult f, double[] points, Shape surface, Line3D axis) =>
        Of(f, points, axis, true, (height, _) => height, (_, radius) => radius,
            (p, place) => RadiusAt(surface, axis, p, place) - RadiusAt(surface, axis, p, (p - axis.Point).Dot(axis.Direction)));

    /// <summary>Rings of a face around an axis: heights along it.</summary>
    /// <exception cref="BadInputException">The points allow no ring.</exception>
    public static IReadOnlyList<Ring> Around(FeatureResult f, double[] points, Plane3D face, Line3D axis) =>
        Of(f, points, axis, false, (_, radius) => radius, (height, _) => height, (p, place) =>
        {
            var out_ = p - axis.Project(p);
            var along = face.Normal.Dot(axis.Direction);
            return out_.Length == 0 || along == 0 ? 0 : -(place - out_.Length) * face.Normal.Dot(out_.Normalized()) / along;
        });

    private static IReadOnlyList<Ring> Of(
        FeatureResult f, double[] points, Line3D axis, bool across, Func<double, double, double> placeOf,
        Func<double, double, double> valueOf, Func<Vector3D, double, double> toMiddle)
    {
        var (u, v) = (axis.Direction.Perpendicular(), axis.Direction.Cross(axis.Direction.Perpendicular()));
        var local = points.Chunk(3).Select(Vector3D.FromArray).Select(p =>
        {
            var d = p - axis.Point;
            var height = d.Dot(axis.Direction);
            return (Point: p, Height: height, Radius: (d - (height * axis.Direction)).Length, Angle: Math.Atan2(d.Dot(v), d.Dot(u)));
        }).ToArray();
        var places = local.Select(l => placeOf(l.Height, l.Radius)).ToArray();
        var count = Math.Clamp(local.Length / PointsOfRing, 1, Most);
        var (low, high) = (places.Min(), places.Max());
        var rings = Enumerable.Range(0, local.Length)
            .GroupBy(i => Math.Min(count - 1, (int)(count * (places[i] - low) / Math.Max(1e-12, high - low)))).OrderBy(g => g.Key)
            .Select(g => g.ToArray()).Where(r => Seen(r.Select(i => local[i].Angle)) >= LeastSeen).Select(r =>
            {
                var place = r.Average(i => places[i]);
                return new Ring(r, [.. r.Select(i => local[i].Angle)], place, across ? axis.Point + (place * axis.Direction) : null,
                    [.. r.Select(i => valueOf(local[i].Height, local[i].Radius) + toMiddle(local[i].Point, place))]);
            }).ToList();
        return rings.Count > 0
            ? rings
            : throw new BadInputException($"{f.Plan.Name}: its points go less than half round: no cross-section can be told.");
    }

    /// <summary>Share of the sectors that have points.</summary>
    private static double Seen(IEnumerable<double> angles) =>
        (double)angles.Select(a => Math.Min(Sectors - 1, (int)(Sectors * (a + Math.PI) / (2 * Math.PI)))).Distinct().Count() / Sectors;

    /// <summary>Distance of the surface from an axis, in the direction of a point and at a height: to first order in its lean.</summary>
    private static double RadiusAt(Shape surface, Line3D axis, Vector3D p, double height)
    {
        var at = axis.Point + (height * axis.Direction);
        var out_ = (p - axis.Project(p)).Normalized();
        return surface switch
        {
            Cylinder3D c => c.Radius + Off(c.Axis, c.Point),
            Cone3D c => (Math.Tan(c.HalfAngle) * (at - c.Apex).Dot(c.Axis)) + Off(c.Axis, c.Apex),
            Sphere3D s => Math.Sqrt(Math.Max(0, (s.Radius * s.Radius) - Math.Pow((at - s.Center).Dot(axis.Direction), 2)))
                + (s.Center - axis.Project(s.Center)).Dot(out_),
            _ => 0,
        };

        // How far the surface's own axis lies off at this height.
        double Off(Vector3D direction, Vector3D point) =>
            (point + ((at - point).Dot(axis.Direction) / direction.Dot(axis.Direction) * direction) - at).Dot(out_);
    }
}
