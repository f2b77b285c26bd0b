using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Plans;

/// <summary>What came of a map of the plan on one piece: it, or why there is none.</summary>
public sealed record MadeMap(MapPlan Plan, PieceMap? Map, string? Failure);

/// <summary>A map of one piece.</summary>
/// <param name="Mesh">What it lies on, and by which motion that lies on the nominal.</param>
/// <param name="Values">
/// One a vertex, in the map's unit: NaN for no data, and <see cref="NominalToScan.NotAsked"/> on faces that the map is not made on.
/// </param>
/// <param name="Areas">Weights of the vertices.</param>
/// <param name="Remarks">What a reader must know.</param>
public sealed record PieceMap(
    MapPlan Plan, TriangleMesh Mesh, RigidTransform Transform, double[] Values, double[] Areas, DeviationStatistics Statistics,
    IReadOnlyList<string> Remarks)
{
    /// <summary>How its values are coloured: up to its limits, and to the middle 99 % of its values where it has none.</summary>
    public ColourScale Scale(RampPlan ramp)
    {
        double Rank(string share, double else_) => Statistics.Percentiles.TryGetValue(share, out var v) ? v : else_;
        var lower = Plan.Lower ?? Math.Min(Rank("0.5", Statistics.Min), Plan.Upper ?? double.PositiveInfinity);
        var upper = Plan.Upper ?? Math.Max(Rank("99.5", Statistics.Max), lower);
        var apart = upper > lower ? 0 : Math.Max(1e-6, 1e-6 * Math.Abs(lower));
        return new(lower - (Plan.Lower is null ? apart : 0), upper + (Plan.Upper is null || Plan.Lower is not null ? apart : 0), ramp)
        {
            LowerBinds = Plan.Lower is not null,
            UpperBinds = Plan.Upper is not null,
        };
    }

    /// <param name="faceOf">Face of the nominal at a vertex, −1: none.</param>
    /// <param name="of">The plan that the map is of, for its words.</param>
    /// <exception cref="BadInputException">The map has no value anywhere.</exception>
    internal static PieceMap Of(
        MapPlan plan, TriangleMesh mesh, RigidTransform transform, double[] values, double[] areas, Func<int, int> faceOf,
        InspectionPlan of)
    {
        if (plan.Faces.Length > 0)
        {
            var faces = plan.Faces.ToHashSet();
            values = [.. values.Select((value, v) => faces.Contains(faceOf(v)) ? value : NominalToScan.NotAsked)];
        }

        var statistics = Counted(plan, values, areas);
        return statistics.Count > 0
            ? new(plan, mesh, transform, values, areas, statistics, plan.Remark(statistics.NoData) is { } remark ? [remark] : [])
            : throw new BadInputException($"It has no value anywhere on this piece: {plan.Words(of)}.");
    }

    /// <summary>The same map under another name and other limits.</summary>
    public PieceMap With(MapPlan plan)
    {
        plan.Check("map");
        return this with { Plan = plan, Statistics = Counted(plan, Values, Areas) };
    }

    private static DeviationStatistics Counted(MapPlan plan, double[] values, double[] areas)
    {
        int[]? asked = values.Contains(NominalToScan.NotAsked)
            ? [.. Enumerable.Range(0, values.Length).Where(v => values[v] != NominalToScan.NotAsked)]
            : null;
        return DeviationStatistics.Of(
            values, areas, plan.Lower ?? double.NegativeInfinity, plan.Upper ?? double.PositiveInfinity, asked);
    }
}
