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
