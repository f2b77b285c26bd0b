using System.Text.Json.Serialization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>Where three planes meet.</summary>
public sealed record PointOfPlanesPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "point where three planes meet";

    protected override string Takes => "three planes";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count != 3 || from.Any(f => f.Plane is null))
        {
            return null;
        }

        var planes = from.Select(f => f.Plane!).ToArray();
        var (a, b, c) = (planes[0].Normal, planes[1].Normal, planes[2].Normal);
        var volume = a.Dot(b.Cross(c));
        if (Math.Abs(volume) < Situated.Parallel)
        {
            return Made.Failed($"{Name}: its planes do not meet in one point: two of them are parallel, or all three hold one direction.");
        }

        // About a point near all of them, so that nothing is lost far from the origin (Cramer's rule).
        var near = from.Aggregate(Vector3D.Zero, (s, f) => s + (f.At / 3));
        var (da, db, dc) = (-planes[0].Distance(near), -planes[1].Distance(near), -planes[2].Distance(near));
        return Situated.Point(near + (((da * b.Cross(c)) + (db * c.Cross(a)) + (dc * a.Cross(b))) / volume));
    }
}

/// <summary>Where an axis pierces a plane.</summary>
public sealed record PiercedPointPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "point where an axis pierces a plane";

    protected override string Takes => "an axis and a plane";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count != 2 || from.FirstOrDefault(f => f.Plane is not null)?.Plane is not { } plane
            || from.FirstOrDefault(f => f.Axis is not null)?.Axis is not { } axis)
        {
            return null;
        }

        return Math.Abs(axis.Direction.Dot(plane.Normal)) > Situated.Parallel && axis.Meet(plane) is { } at
            ? Situated.Point(at)
            : Made.Failed($"{Name}: the axis runs along the plane and does not pierce it.");
    }
}

/// <summary>The middle of the shortest way between two axes: their crossing, where they cross.</summary>
public sealed record NearestPointPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "point nearest to two axes";

    protected override string Takes => "two axes";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count != 2 || from[0].Axis is not { } a || from[1].Axis is not { } b)
        {
            return null;
        }

        var across = a.Direction.Cross(b.Direction);
        if (across.Length < Situated.Parallel)
        {
            return Made.Failed($"{Name}: the axes are parallel: no place of them is the nearest.");
        }

        var gap = b.Point - a.Point;
        var onA = a.Point + (gap.Cross(b.Direction).Dot(across) / across.LengthSquared * a.Direction);
        var onB = b.Point + (gap.Cross(a.Direction).Dot(across) / across.LengthSquared * b.Direction);
        return Situated.Point(0.5 * (onA + onB));
    }
}

/// <summary>The centre of a sphere, torus, circle or slot, or the apex of a cone.</summary>
public sealed record CentrePlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "centre";

    protected override string Takes => "one sphere, torus, circle, slot or cone";

    private protected override Made? Follow(IReadOnlyList<Situated> from) =>
        Made.IfAny(from.Count == 1 && from[0].Place is { } at && from[0].Shape is not Sphere3D { Radius: 0 } ? Situated.Point(at) : null);
}

/// <summary>A point brought square onto a plane or an axis.</summary>
public sealed record ProjectedPointPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "point projected onto a plane or axis";

    protected override string Takes => "a point or centre, and then a plane or an axis";

    private protected override Made? Follow(IReadOnlyList<Situated> from) =>
        Made.IfAny(from.Count == 2 && from[0].Place is { } p && (from[1].Plane?.Project(p) ?? from[1].Axis?.Project(p)) is { } foot
            ? Situated.Point(foot)
            : null);
}

/// <summary>The middle of points.</summary>
public sealed record MidPointPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => $"middle of {From.Length} points";

    protected override string Takes => "two or more points or centres";

    private protected override Made? Follow(IReadOnlyList<Situated> from) =>
        Made.IfAny(from.Count >= 2 && from.All(f => f.Place is not null)
            ? Situated.Point(from.Aggregate(Vector3D.Zero, (s, f) => s + (f.Place!.Value / from.Count)))
            : null);
}

/// <summary>The point of a round feature that lies farthest along a direction: the crown of a sphere, torus, circle or slot.</summary>
public sealed record ExtremePointPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    /// <summary>Against the direction instead of along it.</summary>
    public bool Reverse { get; init; }

    [JsonIgnore]
    public override string What => Reverse ? "point farthest against a direction" : "point farthest along a direction";

    protected override string Takes => "a sphere, torus, circle or slot, and then an axis or plane that gives the direction";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count != 2 || (from[1].Plane?.Normal ?? from[1].Axis?.Direction) is not { } along)
        {
            return null;
        }

        var d = Reverse ? -along : along;
        switch (from[0].Shape)
        {
            case Sphere3D { Radius: > 0 } s:
                return Situated.Point(s.Center + (s.Radius * d));
            case Torus3D s:
                return InPlane(s.Axis, d) is { } u ? Situated.Point(s.Center + (s.MajorRadius * u) + (s.MinorRadius * d)) : Square();
            case Circle3D s:
                return InPlane(s.Normal, d) is { } v ? Situated.Point(s.Center + (s.Radius * v)) : Square();
            case Slot3D s:
                return InPlane(s.Normal, d) is { } w ? AtEnd(s, w) : Square();
            default:
                return null;
        }
    }

    /// <summary>The direction within the plane of a ring; null where it stands square on it, and no point is the farthest.</summary>
    private static Vector3D? InPlane(Vector3D axis, Vector3D d)
    {
        var flat = d - (d.Dot(axis) * axis);
        return flat.Length > Situated.Parallel ? flat.Normalized() : null;
    }

    /// <summary>On the round end that lies ahead; square to the sides all of one side is.</summary>
    private Made AtEnd(Slot3D slot, Vector3D d) => Math.Abs(d.Dot(slot.Direction)) > Situated.Parallel
        ? Situated.Point(slot.Center + (Math.Sign(d.Dot(slot.Direction)) * (slot.Length - slot.Width) / 2 * slot.Direction)
            + (slot.Width / 2 * d))
        : Made.Failed($"{Name}: the direction stands square to the straight sides of the slot: all of one is the farthest.");

    private Made Square() => Made.Failed($"{Name}: the direction stands square on the ring: all of it is the farthest.");
}

/// <summary>The point of a measured surface at a place of the nominal: the place brought square onto the surface that was fitted.</summary>
public sealed record SurfacePointPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    /// <summary>The place, mm; three numbers in nominal coordinates.</summary>
    public double[] At { get; init; } = [0, 0, 0];

    [JsonIgnore]
    public override string What => FormattableString.Invariant($"point of a surface at ({At[0]:0.###}, {At[1]:0.###}, {At[2]:0.###})");

    protected override string Takes => "one plane, cylinder, cone, sphere or torus";

    internal override IEnumerable<string> Faults() =>
        At.Length == 3 && At.All(double.IsFinite) ? base.Faults() : ["at: needs three numbers, mm."];

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count != 1 || from[0].Shape is not (Plane3D or Cylinder3D or Cone3D or Sphere3D { Radius: > 0 } or Torus3D))
        {
            return null;
        }

        // On an axis or in a centre no point of a round surface is the nearest: its gradient has no direction there.
        var (surface, place) = (from[0].Shape, Vector3D.At(At, 0));
        var across = surface.Gradient(place);
        return Math.Abs(across.Length - 1) < 1e-6
            ? Situated.Point(place - (surface.Distance(place) * across))
            : Made.Failed($"{Name}: no point of {from[0].Name} is nearest to its place.");
    }
}
