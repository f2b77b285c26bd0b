using Bostel.Core.Meshes;
using Bostel.Core.Selecting;
using Bostel.Core.Spatial;

namespace Bostel.Core.Preparation;

/// <summary>Thins a cloud to a spacing.</summary>
public sealed record ThinStep : PrepareStep
{
    public double? Spacing { get; init; }

    private protected override string? Lacks => Spacing > 0 ? null : "spacing above 0";

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        if (mesh.TriangleCount > 0)
        {
            return LeftOut(mesh, "thinning is for clouds of points; a mesh is reduced instead.");
        }

        var keep = Thinning.ToSpacing(mesh, Spacing!.Value);
        var kept = mesh.KeepPoints(v => keep[v]);
        return new(kept, Record(kept, $"{mesh.VertexCount} points thinned to {kept.VertexCount} at {Spacing:0.###} mm."));
    }
}

/// <summary>Meshes a cloud by a ball rolled over it.</summary>
public sealed record MeshStep : PrepareStep
{
    /// <summary>Radius of the ball over the spacing of the points: it must not fall through between them.</summary>
    private const double BallOverSpacing = 1.6;

    /// <summary>Of the ball; null: from the spacing of the points.</summary>
    public double? Radius { get; init; }

    private protected override string? Lacks => Radius is null or > 0 ? null : "radius above 0";

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        if (mesh.TriangleCount > 0)
        {
            return new(mesh, Record(mesh, $"The scan has triangles already."));
        }

        var spacing = PointSpacing.Median(mesh.Coordinates, new PointTree(mesh.Coordinates));
        var radius = Radius ?? BallOverSpacing * spacing;
        var normals = mesh.HasNormals ? [.. Enumerable.Range(0, mesh.VertexCount).Select(mesh.Normal)] : CloudNormals.Oriented(
            mesh.Coordinates, Math.Max(3 * spacing, 1.5 * radius));
        var meshed = BallPivoting.Mesh(mesh, normals, radius, cancel);
        var (used, all, triangles) = (meshed.VertexCount, mesh.VertexCount, meshed.TriangleCount);
        return new(meshed, Record(
            meshed,
            $"{used} of {all} points meshed with {triangles} triangles by a ball of {radius:0.###} mm; no point moved, holes left open."));
    }
}
