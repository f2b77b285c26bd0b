using System.Text.Json.Serialization;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>The axis through points: through two, or by least squares through more.</summary>
public sealed record AxisThroughPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => $"axis through {From.Length} points";

    protected override string Takes => "two or more points or centres";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count < 2 || from.Any(f => f.Place is null))
        {
            return null;
        }

        var places = from.Select(f => f.Place!.Value).ToArray();
        var along = places[^1] - places[0];
        if (LeastSquares.Line([.. places.SelectMany(p => p.ToArray())]).Fit?.Shape is not Line3D line || !(along.Length > 0))
        {
            return Made.Failed($"{Name}: its points lie in one place.");
        }

        return line.Direction.Dot(along) < 0 ? line with { Direction = -line.Direction } : line;
    }
}

/// <summary>Where two planes meet.</summary>
public sealed record AxisOfPlanesPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "line where two planes meet";

    protected override string Takes => "two planes";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count != 2 || from[0].Plane is not { } a || from[1].Plane is not { } b)
        {
            return null;
        }

        var along = a.Normal.Cross(b.Normal);
        if (along.Length < Situated.Parallel)
        {
            return Made.Failed($"{Name}: the planes are parallel and do not meet.");
        }

        // The point of the line nearest to where the planes were measured.
        var near = 0.5 * (from[0].At + from[1].At);
        var at = near + (((a.Distance(near) * along.Cross(b.Normal)) - (b.Distance(near) * along.Cross(a.Normal))) / along.LengthSquared);
        return new Line3D(at, along.Normalized());
    }
}

/// <summary>The middle of axes that run the same way.</summary>
public sealed record MidAxisPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => $"middle of {From.Length} axes";

    protected override string Takes => "two or more axes";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count < 2 || from.Any(f => f.Axis is null))
        {
            return null;
        }

        var along = Situated.Alike([.. from.Select(f => f.Axis!.Direction)]).Aggregate((a, b) => a + b);
        if (along.Length < Situated.Parallel * from.Count)
        {
            return Made.Failed($"{Name}: its axes run against each other.");
        }

        // Where the axes pierce the plane across the mean direction, midway between where they were measured.
        var across = new Plane3D(from.Aggregate(Vector3D.Zero, (s, f) => s + (f.At / from.Count)), along.Normalized());
        var met = from.Select(f => f.Axis!.Meet(across)).ToArray();
        return met.All(p => p is not null)
            ? new Line3D(met.Aggregate(Vector3D.Zero, (s, p) => s + (p!.Value / from.Count)), across.Normal)
            : Made.Failed($"{Name}: its axes stand square to each other.");
    }
}

/// <summary>The axis through a point, along an axis or square to a plane.</summary>
public sealed record AxisAlongPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "axis through a point along a direction";

    protected override string Takes => "a point or centre, and then an axis or plane that gives the direction";

    private protected override Made? Follow(IReadOnlyList<Situated> from) =>
        Made.IfAny(from.Count == 2 && from[0].Place is { } at && (from[1].Plane?.Normal ?? from[1].Axis?.Direction) is { } along
            ? new Line3D(at, along)
            : null);
}
