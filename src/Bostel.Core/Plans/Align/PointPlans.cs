using System.Text.Json.Serialization;
using Bostel.Core.Alignment;
using Bostel.Core.Geometry;

namespace Bostel.Core.Plans;

/// <summary>A place where the part is held: point and direction in nominal coordinates, mm.</summary>
public sealed record ReferencePointPlan(string Name, double[] Point, double[] Direction, double Weight = 1, double Offset = 0);

/// <summary>A point of the scan as delivered (mm) and where it belongs on the nominal.</summary>
public sealed record PointPairPlan(double[] Scan, double[] Nominal, double Weight = 1);

/// <summary>By the places where the part is held.</summary>
public sealed record ReferencePointsPlan : StartedPlan
{
    public IReadOnlyList<ReferencePointPlan> Points { get; init; } = [];

    /// <summary>Farthest a surface may lie from its reference point before, mm.</summary>
    public double SearchDistance { get; init; } = 5;

    [JsonIgnore]
    public override string Words => $"set from {Counted(Points.Count, "reference point")}" + Aside;

    internal override string? HeldBy(Motion motion, AlignmentResult result) => Counted(Points.Count, "reference point");

    internal override IEnumerable<string> Faults(IReadOnlySet<string> datums)
    {
        if (!Points.All(p => IsVector(p.Point) && IsVector(p.Direction)))
        {
            yield return "points: a point and its direction are three numbers each.";
        }

        if (!(SearchDistance > 0))
        {
            yield return "searchDistance: must be above 0 mm.";
        }

        foreach (var fault in base.Faults(datums))
        {
            yield return fault;
        }
    }

    private protected override AlignmentResult From(AlignmentResult first, AlignmentTask task)
    {
        var points = Points.Select(
            p => new ReferencePoint(p.Name, Vector3D.FromArray(p.Point), Vector3D.FromArray(p.Direction), p.Weight, p.Offset)).ToList();
        return task.Stepped(ReferencePoints.Fit(new(task.Scan), points, first.Transform, SearchDistance));
    }
}

/// <summary>By points of the scan and where they belong.</summary>
public sealed record PointPairsPlan : AlignPlan
{
    public IReadOnlyList<PointPairPlan> Pairs { get; init; } = [];

    [JsonIgnore]
    public override string Words => $"set from {Counted(Pairs.Count, "point pair")}";

    internal override string? HeldBy(Motion motion, AlignmentResult result) => Counted(Pairs.Count, "point pair");

    internal override AlignmentResult Run(AlignmentTask task)
    {
        var pairs = Pairs.Select(p => new PointPair(Vector3D.FromArray(p.Scan), Vector3D.FromArray(p.Nominal), p.Weight)).ToList();
        var (pose, residuals) = PointPairs.Fit(pairs);
        return task.Assess(pose) with
        {
            Steps = [.. residuals.Select((r, i) => new AlignmentStep($"pair {i + 1}", 0, 0, r, ""))],
        };
    }

    internal override IEnumerable<string> Faults(IReadOnlySet<string> datums)
    {
        if (!Pairs.All(p => IsVector(p.Scan) && IsVector(p.Nominal)))
        {
            yield return "pairs: both points are three numbers each.";
        }
    }
}

/// <summary>A given pose, taken as it is.</summary>
public sealed record AsGivenPlan : AlignPlan
{
    /// <summary>Scan to nominal, 16 numbers row by row.</summary>
    public double[] Start { get; init; } = [];

    [JsonIgnore]
    public override string Words => "a given transform, taken as it is";

    internal override string? HeldBy(Motion motion, AlignmentResult result) => "as given";

    internal override AlignmentResult Run(AlignmentTask task) => task.Assess(RigidTransform.FromArray(Start));

    internal override IEnumerable<string> Faults(IReadOnlySet<string> datums)
    {
        _ = RigidTransform.FromArray(Start);
        return [];
    }
}
