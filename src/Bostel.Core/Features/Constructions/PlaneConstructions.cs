using System.Text.Json.Serialization;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>The plane through points: through three, or by least squares through more.</summary>
public sealed record PlaneThroughPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => $"plane through {From.Length} points";

    protected override string Takes => "three or more points or centres";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count < 3 || from.Any(f => f.Place is null))
        {
            return null;
        }

        var places = from.Select(f => f.Place!.Value).ToArray();
        var side = (places[1] - places[0]).Cross(places[2] - places[0]);
        var extent = places.Max(p => (p - places[0]).Length);
        if (LeastSquares.Plane([.. places.SelectMany(p => p.ToArray())]).Fit?.Shape is not Plane3D plane
            || AcrossLeast(places) < Situated.Parallel * extent)
        {
            return Made.Failed($"{Name}: its points lie on a line.");
        }

        return plane.Normal.Dot(side) < 0 ? plane with { Normal = -plane.Normal } : plane;
    }

    /// <summary>How far points lie from the line that fits them best.</summary>
    private static double AcrossLeast(Vector3D[] places) =>
        LeastSquares.Line([.. places.SelectMany(p => p.ToArray())]).Fit?.Residuals.Max() ?? 0;
}

/// <summary>The middle of planes: between parallel ones the plane midway, of two that meet the bisecting one.</summary>
public sealed record MidPlanePlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => $"middle of {From.Length} planes";

    protected override string Takes => "two or more planes";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count < 2 || from.Any(f => f.Plane is null))
        {
            return null;
        }

        var normals = Situated.Alike([.. from.Select(f => f.Plane!.Normal)]).ToArray();
        var normal = normals.Aggregate((a, b) => a + b).Normalized();
        var middle = from.Aggregate(Vector3D.Zero, (s, f) => s + (f.Plane!.Project(f.At) / from.Count));

        // Two planes that meet are bisected through their line; seen along it they are mirrored in the plane.
        if (from.Count == 2 && normals[0].Cross(normals[1]).Length > Situated.Parallel)
        {
            var line = (Line3D)new AxisOfPlanesPlan(Id, Name).Make(from).OrThrow();
            return new Plane3D(line.Project(middle), normal);
        }

        return new Plane3D(middle, normal);
    }
}

/// <summary>A plane moved along its normal.</summary>
public sealed record OffsetPlanePlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    /// <summary>How far out of the material, mm.</summary>
    public double Distance { get; init; } = 10;

    [JsonIgnore]
    public override string What => FormattableString.Invariant($"plane moved by {Distance:0.####} mm");

    protected override string Takes => "one plane";

    internal override IEnumerable<string> Faults() =>
        double.IsFinite(Distance) ? base.Faults() : ["distance: a number of mm is needed."];

    private protected override Made? Follow(IReadOnlyList<Situated> from) => Made.IfAny(from.Count == 1 && from[0].Plane is { } plane
        ? plane with { Point = plane.Project(from[0].At) + (Distance * plane.Normal) }
        : null);
}

/// <summary>The plane that holds an axis and a point beside it.</summary>
public sealed record PlaneOfAxisPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "plane through an axis and a point";

    protected override string Takes => "an axis, and then a point or centre beside it";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count != 2 || from[0].Axis is not { } axis || from[1].Place is not { } p)
        {
            return null;
        }

        var normal = axis.Direction.Cross(p - axis.Project(p));
        return normal.Length > Situated.Parallel
            ? new Plane3D(axis.Project(p), normal.Normalized())
            : Made.Failed($"{Name}: the point lies on the axis: the plane may turn about it.");
    }
}

/// <summary>The plane square to an axis, through a point.</summary>
public sealed record PlaneAcrossPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => "plane across an axis";

    protected override string Takes => "an axis, and then a point or centre";

    private protected override Made? Follow(IReadOnlyList<Situated> from) =>
        Made.IfAny(from.Count == 2 && from[0].Axis is { } axis && from[1].Place is { } p ? new Plane3D(p, axis.Direction) : null);
}

/// <summary>
/// The plane in which pairs of points mirror each other, by least squares: first and second, third and fourth, and so on.
/// </summary>
public sealed record MirrorPlanePlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    [JsonIgnore]
    public override string What => From.Length == 2 ? "mirror plane of a pair" : $"mirror plane of {From.Length / 2} pairs";

    protected override string Takes => "points or centres in pairs, each beside its mirror image";

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (from.Count < 2 || from.Count % 2 != 0 || from.Any(f => f.Place is null))
        {
            return null;
        }

        var pairs = from.Chunk(2).Select(p => (A: p[0].Place!.Value, B: p[1].Place!.Value)).ToArray();
        var ways = Situated.Alike([.. pairs.Select(p => p.B - p.A)]).ToArray();
        if (ways.Any(w => !(w.Length > 0)))
        {
            return Made.Failed($"{Name}: the two points of a pair lie in one place.");
        }

        // Σ|(B − A) − ((B − A)·n)n|² is least for the direction of most scatter of the ways; longer ways tell it better.
        var normal = PointSums.Scatter([.. ways.SelectMany(w => w.ToArray())], Vector3D.Zero).Vectors[2];
        return new Plane3D(
            pairs.Aggregate(Vector3D.Zero, (s, p) => s + ((p.A + p.B) / from.Count)), normal.Dot(ways[0]) < 0 ? -normal : normal);
    }
}
