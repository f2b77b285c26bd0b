using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>Removes points that stand out from their surroundings; of a cloud, those that lie alone.</summary>
public sealed record SpikesStep : PrepareStep
{
    /// <summary>How many times the noise they stand out.</summary>
    public double? Sigmas { get; init; }

    private protected override string? Lacks => Sigmas >= 1 ? null : "sigmas of 1 or more";

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        if (mesh.TriangleCount == 0)
        {
            var lone = Outliers.LonePoints(mesh, Sigmas!.Value);
            var kept = mesh.KeepPoints(v => !lone[v]);
            return new(kept, Record(kept, $"{lone.Count(l => l)} lone points removed."));
        }

        var spikes = Outliers.Spikes(mesh, Sigmas!.Value);
        var without = mesh.KeepTriangles(
            t => !spikes[mesh.Indices[3 * t]] && !spikes[mesh.Indices[(3 * t) + 1]] && !spikes[mesh.Indices[(3 * t) + 2]]);
        return new(without, Record(without, $"{spikes.Count(s => s)} spikes removed with the triangles around them.",
            removed: mesh.Area() - without.Area()));
    }
}

/// <summary>Removes triangles without area and those there twice.</summary>
public sealed record CleanStep : PrepareStep
{
    private protected override bool NeedsTriangles => true;

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var useless = MeshRepair.Useless(mesh);
        var kept = mesh.KeepTriangles(t => !useless[t]);
        return new(kept, Record(kept, $"{mesh.TriangleCount - kept.TriangleCount} triangles without area or there twice removed."));
    }
}

/// <summary>Turns triangles to the sense of their piece.</summary>
public sealed record OrientStep : PrepareStep
{
    private protected override bool NeedsTriangles => true;

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var (oriented, turned) = MeshRepair.OrientConsistently(mesh);
        return new(oriented, Record(oriented, $"{turned} triangles turned to the sense of their piece."));
    }
}

/// <summary>Turns all triangles over.</summary>
public sealed record FlipStep : PrepareStep
{
    private protected override bool NeedsTriangles => true;

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel) =>
        new(MeshRepair.Turn(mesh, _ => true), Record(mesh, $"All triangles turned over."));
}

/// <summary>Takes edges of more than two triangles apart.</summary>
public sealed record SplitStep : PrepareStep
{
    private protected override bool NeedsTriangles => true;

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var (split, copies) = MeshRepair.SplitNonManifold(mesh);
        return new(split, Record(split, $"Edges of more than two triangles taken apart: {copies} vertices doubled, none moved."));
    }
}
