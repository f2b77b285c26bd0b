using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>Drops all connected pieces that are not the part.</summary>
public sealed record KeepPartStep : PrepareStep
{
    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var kept = LoosePieces.DropAllButPart(mesh, context.NominalArea);
        var outcome = Dropped(mesh, kept);
        return DroppedOfPart.Caution(mesh, kept.Mesh, kept.Record, context, cancel) is { } caution
            ? outcome with { Record = outcome.Record with { Caution = caution } }
            : outcome;
    }
}

/// <summary>Drops all connected pieces but the largest.</summary>
public sealed record KeepLargestStep : PrepareStep
{
    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel) =>
        Dropped(mesh, LoosePieces.DropAllButPart(mesh, null));
}

/// <summary>Drops connected pieces with fewer triangles or less area than given.</summary>
public sealed record DropPiecesStep : PrepareStep
{
    public int? Triangles { get; init; }
    public double? Area { get; init; }

    private protected override string? Lacks => Triangles > 0 || Area > 0 ? null : "triangles or area above 0";

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel) =>
        Dropped(mesh, LoosePieces.DropBelow(mesh, Triangles ?? 0, Area ?? 0));
}

/// <summary>Drops what is selected.</summary>
public sealed record DropStep : SelectingStep
{
    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var selected = Selected(mesh, context, cancel);
        var count = selected.Count(s => s);
        if (count == 0)
        {
            return new(mesh, Record(mesh, $"The selection is empty on this scan; nothing dropped."));
        }

        var triangles = mesh.TriangleCount > 0;
        var area = triangles ? Enumerable.Range(0, selected.Length).Where(t => selected[t]).Sum(mesh.TriangleArea) : 0;
        var kept = triangles ? mesh.KeepTriangles(t => !selected[t]) : mesh.KeepPoints(v => !selected[v]);
        return new(kept, triangles
            ? Record(kept, $"{count} selected triangles dropped, {area:0.#} mm².", removed: area)
            : Record(kept, $"{count} selected points dropped."));
    }
}
