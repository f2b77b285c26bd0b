using System.Globalization;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Preparation;

/// <summary>The outcome of one step: the mesh, what was done, and how far each vertex was moved where a step moves them.</summary>
public sealed record StepOutcome(TriangleMesh Mesh, StepRecord Record, float[]? Displacements = null);

/// <summary>Carries out preparing steps. The same step on the same scan gives the same bits.</summary>
public static class PrepareSteps
{
    /// <summary>Displacement beyond this many times the noise takes form away, not only noise.</summary>
    private const double NoiseMultiple = 3;

    /// <summary>Patches of more than this share of the area are more guess than measurement.</summary>
    private const double PatchShare = 0.05;

    /// <exception cref="BadInputException">The step is incomplete, its selection needs what the scan has not, or it would leave
    /// nothing.</exception>
    public static StepOutcome Apply(PrepareStep step, TriangleMesh mesh, PreparationContext context, CancellationToken cancel = default)
    {
        step.Check($"step '{step.Kind}'");
        if (mesh.TriangleCount == 0 && step.Kind is "fill" or "refill" or "reduce" or "smooth" or "clean" or "orient" or "flip" or "split")
        {
            // The same plan may meet a mesh today and a cloud tomorrow: what does not apply is left out, and the record says so.
            return LeftOut(step, mesh, "this scan is a cloud of points; mesh it first.");
        }

        var outcome = step.Kind switch
        {
            "keep-part" => KeepPart(step, mesh, context, cancel),
            "keep-largest" => Dropped(step, mesh, LoosePieces.DropAllButPart(mesh, null)),
            "drop-pieces" => Dropped(step, mesh, LoosePieces.DropBelow(mesh, step.Triangles ?? 0, step.Area ?? 0)),
            "drop" => DropSelection(step, mesh, context, cancel),
            "fill" => Fill(step, mesh, context, cancel),
            "refill" => Refill(step, mesh, context, cancel),
            "reduce" => Reduce(step, mesh, cancel),
            "smooth" => Smooth(step, mesh, context, cancel),
            "spikes" => Spikes(step, mesh),
            "clean" => Clean(step, mesh),
            "orient" => Oriented(step, mesh),
            "flip" => new(MeshRepair.Turn(mesh, _ => true), Record(step, mesh, $"All triangles turned over.")),
            "split" => Split(step, mesh),
            "thin" => Thin(step, mesh),
            _ => Ball(step, mesh, cancel),
        };
        return outcome.Mesh.VertexCount == 0
            ? throw new BadInputException($"step '{step.Kind}': nothing would remain of the scan.")
            : outcome;
    }

    private static StepRecord Record(PrepareStep step, TriangleMesh after, FormattableString said, double moved = 0, double removed = 0,
        double added = 0, string? caution = null) =>
        new(step.Kind, said.ToString(CultureInfo.InvariantCulture), after.TriangleCount, after.VertexCount, moved, removed, added, caution);

    private static StepOutcome LeftOut(PrepareStep step, TriangleMesh mesh, string why) =>
        new(mesh, Record(step, mesh, $"Left out: {why}", caution: "This step did nothing on this scan."));

    private static StepOutcome Dropped(PrepareStep step, TriangleMesh mesh, (TriangleMesh Mesh, PreparationRecord Record) result)
    {
        var (left, pieces) = (result.Mesh, result.Record);
        var triangles = mesh.TriangleCount - left.TriangleCount;
        var record = Record(
            step, left, $"{pieces.PiecesDropped} of {pieces.PiecesFound} pieces dropped, {triangles} triangles.",
            removed: pieces.AreaDropped);
        return new(left, record with { PiecesDropped = pieces.PiecesDropped });
    }

    private static StepOutcome KeepPart(PrepareStep step, TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var kept = LoosePieces.DropAllButPart(mesh, context.NominalArea);
        var outcome = Dropped(step, mesh, kept);
        return DroppedOfPart.Caution(mesh, kept.Mesh, kept.Record, context, cancel) is { } caution
            ? outcome with { Record = outcome.Record with { Caution = caution } }
            : outcome;
    }

    private static StepOutcome DropSelection(PrepareStep step, TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var selected = Selection.Resolve(mesh, step.Selection!, context, cancel);
        var count = selected.Count(s => s);
        if (count == 0)
        {
            return new(mesh, Record(step, mesh, $"The selection is empty on this scan; nothing dropped."));
        }

        var area = mesh.TriangleCount > 0 ? Enumerable.Range(0, selected.Length).Where(t => selected[t]).Sum(mesh.TriangleArea) : 0;
        var kept = mesh.TriangleCount > 0 ? mesh.KeepTriangles(t => !selected[t]) : mesh.KeepPoints(v => !selected[v]);
        return new(kept, Record(
            step, kept, $"{count} selected {(mesh.TriangleCount > 0 ? "triangles" : "points")} dropped, {area:0.#} mm².", removed: area));
    }

    private static StepOutcome Fill(PrepareStep step, TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        Vector3D[]? near = null;
        if (step.Near is { Length: > 0 })
        {
            var back = step.Frame == "scan" ? RigidTransform.Identity : context.PoseOfScan(cancel).Inverse();
            near = [.. step.Near.Chunk(3).Select(p => back.Apply(Vector3D.FromArray(p)))];
        }

        // A hole is the one meant when its centre lies within its own radius of the point.
        bool Wanted(BoundaryLoop loop) =>
            loop.Diameter <= step.MaxDiameter && (near is null || near.Any(p => Vector3D.Distance(p, loop.Center) <= 0.5 * loop.Diameter));
        var (filled, holes) = HoleFilling.Fill(mesh, Wanted, step.Curved, cancel: cancel);
        return new(filled, FillRecord(step, mesh, filled, holes, 0));
    }

    private static StepOutcome Refill(PrepareStep step, TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var selected = Selection.Resolve(mesh, step.Selection!, context, cancel);
        if (!selected.Contains(true))
        {
            return new(mesh, Record(step, mesh, $"The selection is empty on this scan; nothing refilled."));
        }

        var removed = Enumerable.Range(0, selected.Length).Where(t => selected[t]).Sum(mesh.TriangleArea);
        var border = new HashSet<(double, double, double)>();
        for (var t = 0; t < selected.Length; t++)
        {
            if (selected[t])
            {
                var (a, b, c) = mesh.Triangle(t);
                border.UnionWith([(a.X, a.Y, a.Z), (b.X, b.Y, b.Z), (c.X, c.Y, c.Z)]);
            }
        }

        // Only the loops left by what was cut out: each of their vertices belonged to it.
        var open = mesh.KeepTriangles(t => !selected[t]);
        var (filled, holes) =
            HoleFilling.Fill(open, l => l.Vertices.All(v => border.Contains((open.Vertex(v).X, open.Vertex(v).Y, open.Vertex(v).Z))),
                step.Curved, bordersToo: true, cancel: cancel);
        return new(filled, FillRecord(step, mesh, filled, holes, removed));
    }

    private static StepRecord FillRecord(
        PrepareStep step, TriangleMesh before, TriangleMesh after, IReadOnlyList<FilledHole> holes, double removed)
    {
        if (holes.Count == 0 && removed == 0)
        {
            return Record(step, after, $"No hole of that size; nothing filled.");
        }

        var added = holes.Sum(h => h.Area);
        var largest = holes.Select(h => h.Diameter).DefaultIfEmpty(0).Max();
        var share = added / Math.Max(1e-12, before.Area());
        var caution = share > PatchShare
            ? string.Create(CultureInfo.InvariantCulture, $"Patches make up {100 * share:0.#} % of the surface: much of it is guessed.")
            : largest > 0.25 * before.Bounds.Diagonal
                ? string.Create(CultureInfo.InvariantCulture, $"A hole of {largest:0.#} mm was closed: what was there is not known.")
            : null;
        var filled = holes.Count == 1 ? "1 hole" : $"{holes.Count} holes";
        return Record(
            step, after, removed > 0
                ? (FormattableString)$"{removed:0.#} mm² cut out and refilled by {holes.Count} patches of {added:0.#} mm², not measured."
                : $"{filled} filled, the largest {largest:0.##} mm across, {added:0.#} mm², not measured.",
            removed: removed, added: added, caution: caution);
    }

    private static StepOutcome Reduce(PrepareStep step, TriangleMesh mesh, CancellationToken cancel)
    {
        var reduced = step.MaxDeviation is { } deviation
            ? Reduction.Within(mesh, deviation, cancel)
            : Reduction.ToCount(mesh, step.Triangles ?? Math.Max(4, (int)(step.Share!.Value * mesh.TriangleCount)), cancel);
        var noise = mesh.Noise;
        var caution = reduced.Deviation > Math.Max(NoiseMultiple * noise, 1e-6)
            ? string.Create(
                CultureInfo.InvariantCulture, $"The reduced surface lies up to {reduced.Deviation:0.####} mm from the measured one, "
                + $"more than {NoiseMultiple:0} times the noise of {noise:0.####} mm.")
            : null;
        var (before, after, moved) = (mesh.TriangleCount, reduced.Mesh.TriangleCount, reduced.Deviation);
        return new(reduced.Mesh, Record(
            step, reduced.Mesh, $"{before} triangles reduced to {after}; the surface moved by {moved:0.####} mm at most.", moved: moved,
            caution: caution));
    }

    private static StepOutcome Smooth(PrepareStep step, TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        bool[]? chosen = null;
        if (step.Selection is { Count: > 0 } terms)
        {
            var selected = Selection.Resolve(mesh, terms, context, cancel);
            chosen = new bool[mesh.VertexCount];
            for (var h = 0; h < mesh.Indices.Length; h++)
            {
                chosen[mesh.Indices[h]] |= selected[h / 3];
            }
        }

        var noise = mesh.Noise;
        var smoothed = Smoothing.Smooth(mesh, chosen, step.Passes!.Value, step.MaxDisplacement!.Value, cancel);
        var caution = smoothed.Largest > NoiseMultiple * noise
            ? string.Create(
                CultureInfo.InvariantCulture, $"Points moved by up to {smoothed.Largest:0.####} mm, "
                + $"{smoothed.Largest / Math.Max(1e-9, noise):0.#} times the noise: form may have been smoothed away.")
            : null;
        var count = smoothed.Displacements.Count(d => d > 0);
        return new(smoothed.Mesh,
            Record(step, smoothed.Mesh, $"{count} points smoothed in {step.Passes} passes, moved by {smoothed.Largest:0.####} mm at most.",
            moved: smoothed.Largest, caution: caution), smoothed.Displacements);
    }

    private static StepOutcome Spikes(PrepareStep step, TriangleMesh mesh)
    {
        if (mesh.TriangleCount == 0)
        {
            var lone = Outliers.LonePoints(mesh, step.Sigmas!.Value);
            var kept = mesh.KeepPoints(v => !lone[v]);
            return new(kept, Record(step, kept, $"{lone.Count(l => l)} lone points removed."));
        }

        var spikes = Outliers.Spikes(mesh, step.Sigmas!.Value);
        var without = mesh.KeepTriangles(
            t => !spikes[mesh.Indices[3 * t]] && !spikes[mesh.Indices[(3 * t) + 1]] && !spikes[mesh.Indices[(3 * t) + 2]]);
        return new(without, Record(step, without, $"{spikes.Count(s => s)} spikes removed with the triangles around them.",
            removed: mesh.Area() - without.Area()));
    }

    private static StepOutcome Clean(PrepareStep step, TriangleMesh mesh)
    {
        var useless = MeshRepair.Useless(mesh);
        var kept = mesh.KeepTriangles(t => !useless[t]);
        return new(kept, Record(step, kept, $"{mesh.TriangleCount - kept.TriangleCount} triangles without area or there twice removed."));
    }

    private static StepOutcome Oriented(PrepareStep step, TriangleMesh mesh)
    {
        var (oriented, turned) = MeshRepair.OrientConsistently(mesh);
        return new(oriented, Record(step, oriented, $"{turned} triangles turned to the sense of their piece."));
    }

    private static StepOutcome Split(PrepareStep step, TriangleMesh mesh)
    {
        var (split, copies) = MeshRepair.SplitNonManifold(mesh);
        return new(split, Record(step, split, $"Edges of more than two triangles taken apart: {copies} vertices doubled, none moved."));
    }

    private static StepOutcome Thin(PrepareStep step, TriangleMesh mesh)
    {
        if (mesh.TriangleCount > 0)
        {
            return LeftOut(step, mesh, "thinning is for clouds of points; a mesh is reduced instead.");
        }

        var keep = Thinning.ToSpacing(mesh, step.Spacing!.Value);
        var kept = mesh.KeepPoints(v => keep[v]);
        return new(kept, Record(step, kept, $"{mesh.VertexCount} points thinned to {kept.VertexCount} at {step.Spacing:0.###} mm."));
    }

    private static StepOutcome Ball(PrepareStep step, TriangleMesh mesh, CancellationToken cancel)
    {
        if (mesh.TriangleCount > 0)
        {
            return new(mesh, Record(step, mesh, $"The scan has triangles already."));
        }

        var spacing = Outliers.PointSpacing(mesh, new PointTree(mesh.Coordinates));
        var radius = step.Radius ?? 1.6 * spacing;
        var normals = mesh.HasNormals ? [.. Enumerable.Range(0, mesh.VertexCount).Select(mesh.Normal)] : CloudNormals.Oriented(
            mesh.Coordinates, Math.Max(3 * spacing, 1.5 * radius));
        var meshed = BallPivoting.Mesh(mesh, normals, radius, cancel);
        var (used, all, triangles) = (meshed.VertexCount, mesh.VertexCount, meshed.TriangleCount);
        return new(meshed, Record(
            step, meshed,
            $"{used} of {all} points meshed with {triangles} triangles by a ball of {radius:0.###} mm; no point moved, holes left open."));
    }
}
