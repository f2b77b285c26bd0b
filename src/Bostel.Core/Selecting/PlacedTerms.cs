using Bostel.Core.Geometry;
using Bostel.Core.Segmentation;
using Bostel.Core.Spatial;

namespace Bostel.Core.Selecting;

/// <summary>What lies inside an outline drawn over a view.</summary>
public sealed record LassoTerm : PlacedTerm
{
    /// <summary>Origin of the plane it is drawn in.</summary>
    public double[] Point { get; init; } = [];

    /// <summary>The direction toward the eye.</summary>
    public double[] Normal { get; init; } = [];

    /// <summary>The direction to the right in that plane.</summary>
    public double[] Right { get; init; } = [];

    /// <summary>Corners, x and y by turns, mm from the origin along right and up.</summary>
    public double[] Path { get; init; } = [];

    /// <summary>Whether what is hidden behind is taken, too.</summary>
    public bool Through { get; init; }

    internal override string? Lacks => !IsVector(Point) || !IsVector(Normal) || !IsVector(Right) ? "point, normal and right"
        : Path.Length < 6 || Path.Length % 2 != 0 || !Path.All(double.IsFinite) ? "a path of three corners or more"
        : null;

    private protected override bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context) =>
        ViewSelection.Lasso(this, items, pose);

    private protected override PlacedTerm Moved(RigidTransform by) =>
        this with { Point = At(Point, by), Normal = Turned(Normal, by), Right = Turned(Right, by) };
}

/// <summary>What lies within a radius of a stroke.</summary>
public sealed record BrushTerm : PlacedTerm
{
    /// <summary>Points of the stroke, x y z by turns.</summary>
    public double[] Path { get; init; } = [];

    public double? Radius { get; init; }

    internal override string? Lacks =>
        Path.Length < 3 || Path.Length % 3 != 0 || !Path.All(double.IsFinite) ? "a path of points"
        : !(Radius > 0) ? "a radius above 0"
        : null;

    private protected override bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context)
    {
        var back = pose.Inverse();
        var path = Path.Chunk(3).Select(p => back.Apply(Vector3D.FromArray(p))).ToArray();
        var reach = Box3D.Of(path);
        var (radius, low, high) = (Radius!.Value, reach.Min, reach.Max);
        return items.Where(i =>
        {
            var p = items.Center(i);
            return p.X > low.X - radius && p.X < high.X + radius && p.Y > low.Y - radius && p.Y < high.Y + radius && p.Z > low.Z - radius
                && p.Z < high.Z + radius &&
                Enumerable.Range(0, Math.Max(1, path.Length - 1))
                    .Any(k => DistanceToSegment(p, path[k], path[Math.Min(k + 1, path.Length - 1)]) <= radius);
        });
    }

    private protected override PlacedTerm Moved(RigidTransform by) =>
        this with { Path = [.. Path.Chunk(3).SelectMany(p => At(p, by))] };

    private static double DistanceToSegment(Vector3D p, Vector3D a, Vector3D b)
    {
        var d = b - a;
        var t = d.LengthSquared > 0 ? Math.Clamp((p - a).Dot(d) / d.LengthSquared, 0, 1) : 0;
        return Vector3D.Distance(p, a + (t * d));
    }
}

/// <summary>What lies ahead of a plane.</summary>
public sealed record SideTerm : PlacedTerm
{
    public double[] Point { get; init; } = [];

    public double[] Normal { get; init; } = [];

    internal override string? Lacks => IsVector(Point) && IsVector(Normal) ? null : "point and normal";

    private protected override bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context)
    {
        var (point, normal) = (Vector3D.FromArray(Point), Vector3D.FromArray(Normal));
        return items.Where(i => (pose.Apply(items.Center(i)) - point).Dot(normal) > 0);
    }

    private protected override PlacedTerm Moved(RigidTransform by) =>
        this with { Point = At(Point, by), Normal = Turned(Normal, by) };
}

/// <summary>A term that spreads from the triangle nearest to a place, in a cloud from the nearest point.</summary>
public abstract record SeedTerm : PlacedTerm
{
    public double[] Point { get; init; } = [];

    internal override string? Lacks => IsVector(Point) ? null : "a point";

    private protected abstract bool[] From(int seed, SelectionItems items);

    private protected abstract bool[] OnCloud(int seed, CloudGrowth cloud);

    private protected override bool[] Named(SelectionItems items, RigidTransform pose, PreparationContext context)
    {
        var place = pose.Inverse().Apply(Vector3D.FromArray(Point));
        if (items.AreTriangles)
        {
            return From(NearestTriangle.At(items.Mesh, place), items);
        }

        var cloud = new CloudGrowth(items.Mesh);
        return OnCloud(cloud.Nearest(place), cloud);
    }

    private protected override PlacedTerm Moved(RigidTransform by) => this with { Point = At(Point, by) };
}

/// <summary>Spreads while the surface turns by no more than an angle from one triangle to the next.</summary>
public sealed record GrowTerm : SeedTerm
{
    public double? AngleDegrees { get; init; }

    internal override string? Lacks => base.Lacks is null && AngleDegrees is > 0 and <= 90 ? null : "a point and an angle of up to 90°";

    private protected override bool[] From(int seed, SelectionItems items) => GrowSelection.ByTurn(items, seed, AngleDegrees!.Value);

    private protected override bool[] OnCloud(int seed, CloudGrowth cloud) => cloud.ByTurn(seed, AngleDegrees!.Value);
}

/// <summary>Spreads over one plane, cylinder, sphere, cone or torus.</summary>
public sealed record SurfaceTerm : SeedTerm
{
    /// <summary>Half width of the band about it, mm; null: from the noise.</summary>
    public double? Distance { get; init; }

    private protected override bool[] From(int seed, SelectionItems items) => GrowSelection.SameSurface(items, seed, Distance);

    private protected override bool[] OnCloud(int seed, CloudGrowth cloud) => cloud.Surface(seed, Distance)?.Points ?? cloud.Alone(seed);
}

/// <summary>The whole connected piece.</summary>
public sealed record PieceTerm : SeedTerm
{
    private protected override bool[] From(int seed, SelectionItems items)
    {
        var (labels, _) = items.Mesh.Topology.Pieces();
        return items.Where(i => labels[i] == labels[seed]);
    }

    private protected override bool[] OnCloud(int seed, CloudGrowth cloud) => cloud.Piece(seed);
}
