using System.Text.Json.Serialization;
using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Plans;

/// <summary>From the nominal to the scan: what is missing, or was not measured, shows only this way.</summary>
public sealed record FromNominalMap : MapPlan
{
    public override string Words(InspectionPlan plan) => "deviation from the nominal to the scan";

    [JsonIgnore]
    public override bool OnNominal => true;

    internal override double[] Values(MapTask task) => NominalToScan.Compute(
        task.Runner.Surface, task.Scan.Mesh, task.Scan.Transform, task.Scan.Beside.Spacing, task.Runner.SearchLimits(task.Plan),
        task.Progress, task.Cancel);

    internal override string? Remark(double noData) => noData > 0.0005
        ? FormattableString.Invariant($"{100 * noData:0.0} % of the nominal was not measured, or is missing.")
        : null;
}

/// <summary>Deviation along one direction.</summary>
public sealed record AlongDirectionMap : MapPlan
{
    public double[] Direction { get; init; } = [0, 0, 1];

    public override string Words(InspectionPlan plan) => $"deviation along {Numbers(Direction)}";

    internal override double[] Values(MapTask task) => DirectedDeviation.AlongDirection(
        task.Scan.Mesh, task.Scan.Transform, task.Runner.Nominal, task.Runner.Tree, task.Runner.SearchLimits(task.Plan),
        Vector3D.FromArray(Direction), task.Progress, task.Cancel);

    private protected override IEnumerable<string> Faults() => DirectionFaults("direction", Direction);
}

/// <summary>Deviation along the way out from an axis.</summary>
public sealed record RadialMap : MapPlan
{
    /// <summary>A point of the axis.</summary>
    public double[] Point { get; init; } = [0, 0, 0];

    public double[] Axis { get; init; } = [0, 0, 1];

    public override string Words(InspectionPlan plan) => $"deviation radially from the axis through {Numbers(Point)} along {Numbers(Axis)}";

    internal override double[] Values(MapTask task) => DirectedDeviation.Radially(
        task.Scan.Mesh, task.Scan.Transform, task.Runner.Nominal, task.Runner.Tree, task.Runner.SearchLimits(task.Plan),
        new(Vector3D.FromArray(Point), Vector3D.FromArray(Axis)), task.Progress, task.Cancel);

    private protected override IEnumerable<string> Faults() =>
        Point is { Length: 3 } && Point.All(double.IsFinite)
            ? DirectionFaults("axis", Axis)
            : ["point: is three numbers."];
}

/// <summary>Deviation from another piece of the part, as that lies on the nominal.</summary>
public sealed record OtherPieceMap : MapPlan
{
    /// <summary>Its serial number.</summary>
    public string Piece { get; init; } = "";

    public override string Words(InspectionPlan plan) => $"deviation from piece {Piece}";

    internal override double[] Values(MapTask task)
    {
        var other = task.Beside.Other(Piece);
        if (other.Mesh.TriangleCount == 0)
        {
            throw new BadInputException($"Piece {Piece} is a cloud of points: there is no surface to be off.");
        }

        var measured = other.Mesh.KeepTriangles(t => t < other.Mesh.MeasuredTriangleCount);
        var surface = NominalModel.OfSurface(measured.Transformed(other.Transform));
        var options = task.Runner.SearchLimits(task.Plan) with { BorderIsNoData = true };
        return Deviation.Compute(task.Scan.Mesh, task.Scan.Transform, surface, new(surface.Mesh), options, task.Progress, task.Cancel)
            .Values;
    }

    private protected override IEnumerable<string> Faults() => Piece.Length > 0 ? [] : ["piece: the serial number is missing."];
}

/// <summary>Residuals of a measured feature at the points it was fitted to.</summary>
public sealed record FeatureResidualsMap : MapPlan
{
    /// <summary>Id of a feature that the plan measures.</summary>
    public string Feature { get; init; } = "";

    public override string Words(InspectionPlan plan) => $"distance of the points of {plan.NameOf(Feature)} from its fit";

    internal override IReadOnlyList<string> NamedFeatures => [Feature];

    internal override double[] Values(MapTask task)
    {
        var values = new double[task.Scan.Mesh.VertexCount];
        Array.Fill(values, NominalToScan.NotAsked);
        var found = task.Runner.FeaturesOf(task.Plan, task.Scan)[Feature];
        if (found.Vertices.Length != found.Residuals.Length)
        {
            throw new BadInputException($"feature: {task.Plan.NameOf(Feature)} is not fitted to points of the scan itself.");
        }

        for (var i = 0; i < found.Vertices.Length; i++)
        {
            values[found.Vertices[i]] = found.Residuals[i];
        }

        return values;
    }

    private protected override IEnumerable<string> Faults() => Feature.Length > 0 ? [] : ["feature: is missing."];
}

/// <summary>What is left of the deviation once parts of what explains it are taken out.</summary>
public sealed record RemainingMap : MapPlan
{
    /// <summary>What is taken out.</summary>
    public IReadOnlyList<ExplainedPart> Without { get; init; } = [ExplainedPart.Pose, ExplainedPart.Size, ExplainedPart.Bend];

    public override string Words(InspectionPlan plan) =>
        "deviation that is left without " + string.Join(", ", Without.Order().Select(PieceExplanation.Name));

    internal override double[] Values(MapTask task)
    {
        var (scan, runner) = (task.Scan, task.Runner);
        return runner.Explain(scan, task.Plan).Remaining(scan.Mesh, scan.Transform, scan.Deviations, runner.Nominal, [.. Without]);
    }

    private protected override IEnumerable<string> Faults() =>
        Without.Count == 0 || Without.Distinct().Count() < Without.Count ? ["without: names what is taken out, each once."] : [];
}
