using System.Text.Json.Serialization;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>
/// The circle through points, by least squares: a pitch circle through centres, or through where the axes of bores pierce a plane.
/// </summary>
public sealed record CircleThroughPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => $"circle through {From.Length} places";

    protected override string Takes => "three or more points or centres, or three or more axes and the plane they pierce";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (Situated.Places(from) is not { Length: >= 3 } places)
        {
            return null;
        }

        var (circle, why) = Through(places, from.FirstOrDefault(f => f.Plane is not null)?.Plane);
        return circle is null ? Made.Failed($"{Name}: {why}") : circle;
    }

    /// <summary>The circle through places by least squares, in or along a plane where one is given, or why there is none.</summary>
    internal static (Circle3D? Circle, string? Why) Through(Vector3D[] places, Plane3D? plane)
    {
        var attempt = LeastSquares.Circle([.. places.SelectMany(p => p.ToArray())], plane is null ? null : new() { Normal = plane.Normal });
        if (attempt.Fit?.Shape is not Circle3D circle)
        {
            return (null, $"{char.ToLowerInvariant(attempt.Why![0])}{attempt.Why[1..]}");
        }

        var side = plane?.Normal ?? (places[1] - places[0]).Cross(places[2] - places[0]);
        return (circle.Normal.Dot(side) < 0 ? circle with { Normal = -circle.Normal } : circle, null);
    }
}

/// <summary>The circle in which a plane cuts a cylinder, cone or sphere; of a cylinder or cone the one square to its axis there.</summary>
public sealed record SectionCirclePlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "circle where a plane cuts a round feature";

    protected override string Takes => "a cylinder, cone or sphere, and then a plane";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count != 2 || from[1].Plane is not { } plane)
        {
            return null;
        }

        switch (from[0].Shape)
        {
            case Sphere3D { Radius: > 0 } s:
                var height = plane.Distance(s.Center);
                return Math.Abs(height) < s.Radius
                    ? new Circle3D(plane.Project(s.Center), plane.Normal, Math.Sqrt((s.Radius * s.Radius) - (height * height)))
                    : Made.Failed($"{Name}: the plane misses the sphere.");
            case Cylinder3D s when Pierced(s.AxisLine, plane) is { } at:
                return new Circle3D(at, s.Axis, s.Radius);
            case Cone3D s when Pierced(new(s.Apex, s.Axis), plane) is { } at:
                var radius = (at - s.Apex).Dot(s.Axis) * Math.Tan(s.HalfAngle);
                return radius > 0
                    ? new Circle3D(at, s.Axis, radius)
                    : Made.Failed($"{Name}: the plane lies beyond the apex of the cone.");
            case Cylinder3D or Cone3D:
                return Made.Failed($"{Name}: the plane runs along the axis and cuts no circle.");
            default:
                return null;
        }
    }

    private static Vector3D? Pierced(Line3D axis, Plane3D plane) =>
        Math.Abs(axis.Direction.Dot(plane.Normal)) > Situated.Parallel ? axis.Meet(plane) : null;
}

/// <summary>The circle of a given diameter on a cone: where a gauge ring would sit.</summary>
public sealed record GaugeCirclePlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    /// <summary>Of the gauge, mm.</summary>
    public double Diameter { get; init; } = 10;

    [JsonIgnore]
    public override string What => FormattableString.Invariant($"circle of ⌀{Diameter:0.####} on a cone");

    protected override string Takes => "one cone";

    internal override IEnumerable<string> Faults() =>
        Diameter > 0 && double.IsFinite(Diameter) ? base.Faults() : ["diameter: must be above 0 mm."];

    private protected override Made? Follow(IReadOnlyList<Situated> from) => Made.IfAny(from.Count == 1 && from[0].Shape is Cone3D s
        ? new Circle3D(s.Apex + (Diameter / 2 / Math.Tan(s.HalfAngle) * s.Axis), s.Axis, Diameter / 2)
        : null);
}
