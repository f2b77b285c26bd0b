using System.Text.Json.Serialization;
using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Plans;

/// <summary>How the thickness of a wall is taken.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ThicknessBy>))]
public enum ThicknessBy
{
    /// <summary>Diameter of the largest sphere inside that touches the place.</summary>
    [JsonStringEnumMemberName("sphere")]
    Sphere,

    /// <summary>Along the inward normal to the opposite wall.</summary>
    [JsonStringEnumMemberName("ray")]
    Ray,
}

/// <summary>Wall thickness of the scan.</summary>
public sealed record ThicknessMap : MapPlan
{
    private const double UsualLimit = 50;

    public ThicknessBy By { get; init; }

    /// <summary>Thicker walls are not looked for, mm.</summary>
    public double Limit { get; init; } = UsualLimit;

    public override string Words(InspectionPlan plan) =>
        (By == ThicknessBy.Ray ? "wall thickness along the normal" : "wall thickness by the sphere within")
        + FormattableString.Invariant($", up to {Limit:0.###} mm");

    internal override double[] Values(MapTask task)
    {
        var mesh = task.Scan.Mesh;
        if (mesh.TriangleCount == 0)
        {
            throw new BadInputException("Wall thickness needs triangles, and this is a cloud of points.");
        }

        var tree = new TriangleTree(mesh);
        return By == ThicknessBy.Ray
            ? WallThickness.ByRay(mesh, tree, Limit, task.Progress, task.Cancel)
            : WallThickness.BySphere(mesh, tree, Limit, task.Progress, task.Cancel);
    }

    internal override string? Remark(double noData) => noData > 0.001
        ? FormattableString.Invariant($"{100 * noData:0.0} % of the surface has no opposite wall within {Limit:0.###} mm: it is thicker ")
            + "there, or the scan is open."
        : null;

    private protected override IEnumerable<string> Faults() => LengthFaults("limit", Limit);
}

/// <summary>How far surfaces lean back from a pull direction.</summary>
public sealed record DraftMap : MapPlan
{
    /// <summary>The way the mould half is pulled off.</summary>
    public double[] Pull { get; init; } = [0, 0, 1];

    /// <summary>Normals are averaged within it; null: within three spacings of the points.</summary>
    public double? Radius { get; init; }

    [JsonIgnore]
    public override string Unit => "°";

    public override string Words(InspectionPlan plan) => $"draft against the pull {Numbers(Pull)}, negative where undercut";

    internal override double[] Values(MapTask task) => SurfaceShape.Draft(
        task.Scan.Mesh, task.Scan.Transform.Inverse().Rotate(Vector3D.FromArray(Pull)), Radius ?? task.UsualRadius, task.Progress,
        task.Cancel);

    private protected override IEnumerable<string> Faults() =>
        [.. DirectionFaults("pull", Pull), .. LengthFaults("radius", Radius)];
}

/// <summary>How the scan is curved.</summary>
public sealed record CurvatureMap : MapPlan
{
    public CurvatureKind Of { get; init; }

    /// <summary>The surface is fitted within it; null: within three spacings of the points.</summary>
    public double? Radius { get; init; }

    [JsonIgnore]
    public override string Unit => Of == CurvatureKind.Radius ? "mm" : "1/mm";

    public override string Words(InspectionPlan plan) => Of switch
    {
        CurvatureKind.Mean => "mean curvature",
        CurvatureKind.Greatest => "greatest curvature",
        _ => "least radius of curvature",
    } + ", positive where the material bulges";

    internal override double[] Values(MapTask task) => SurfaceShape.Curvature(
        task.Scan.Mesh, Of, Radius ?? task.UsualRadius, task.Runner.Nominal.Mesh.Bounds.Diagonal, task.Progress, task.Cancel);

    internal override string? Remark(double noData) => Of == CurvatureKind.Radius && noData > 0.001
        ? "Where the radius is larger than the part, nothing is shown: it is as good as flat."
        : null;

    private protected override IEnumerable<string> Faults() => LengthFaults("radius", Radius);
}

/// <summary>How far apart the points of the scan lie.</summary>
public sealed record SpacingMap : MapPlan
{
    public override string Words(InspectionPlan plan) => "spacing of the points";

    internal override double[] Values(MapTask task) => PointDensity.Spacing(task.Scan.Mesh, task.Progress, task.Cancel);
}

/// <summary>How far preparing moved the surface.</summary>
public sealed record MovedMap : MapPlan
{
    public override string Words(InspectionPlan plan) => "distance from the scan as it was received";

    internal override double[] Values(MapTask task) =>
        PointDensity.Moved(task.Scan.Mesh, task.Beside.Received(), task.Progress, task.Cancel);
}
