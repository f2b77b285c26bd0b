using System.Globalization;
using System.Text.Json.Serialization;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>Closes holes up to a diameter. What is filled counts as not measured.</summary>
public sealed record FillStep : PrepareStep
{
    public double? MaxDiameter { get; init; }

    /// <summary>Only the holes whose centre lies near these points (x y z by turns), of those up to the diameter.</summary>
    public double[]? Near { get; init; }

    /// <summary>What the points are given in.</summary>
    public Frame Frame { get; init; }

    /// <summary>Follow the curvature; flat otherwise.</summary>
    public bool Curved { get; init; } = true;

    [JsonIgnore]
    public override bool IsTiedToScan => Near is not null && Frame == Frame.Scan;

    public override PrepareStep Anchored(RigidTransform toNominal) => this with
    {
        Near = Near is null || Frame == Frame.Nominal
            ? Near
            : [.. Near.Chunk(3).SelectMany(p => toNominal.Apply(Vector3D.FromArray(p)).ToArray())],
        Frame = Frame.Nominal,
    };

    private protected override string? Lacks => !(MaxDiameter > 0) ? "maxDiameter above 0"
        : Near is not null && (Near.Length % 3 != 0 || !Near.All(double.IsFinite)) ? "near as points of three numbers"
        : null;

    private protected override bool NeedsTriangles => true;

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        Vector3D[]? near = null;
        if (Near is { Length: > 0 })
        {
            var back = Frame == Frame.Scan ? RigidTransform.Identity : context.PoseOfScan(cancel).Inverse();
            near = [.. Near.Chunk(3).Select(p => back.Apply(Vector3D.FromArray(p)))];
        }

        // A hole is the one meant when its centre lies within its own radius of the point.
        bool Wanted(BoundaryLoop loop) =>
            loop.Diameter <= MaxDiameter && (near is null || near.Any(p => Vector3D.Distance(p, loop.Center) <= 0.5 * loop.Diameter));
        var (filled, holes) = HoleFilling.Fill(mesh, Wanted, Curved, cancel: cancel);
        if (holes.Count == 0)
        {
            return new(filled, Record(filled, $"No hole of that size; nothing filled."));
        }

        var patches = new Patches(mesh, holes);
        var count = holes.Count == 1 ? "1 hole" : $"{holes.Count} holes";
        return new(filled, Record(
            filled, $"{count} filled, the largest {patches.Largest:0.##} mm across, {patches.Area:0.#} mm², not measured.",
            added: patches.Area, caution: patches.Caution));
    }
}

/// <summary>Cuts out what is selected and closes the gap by a patch, which counts as not measured.</summary>
public sealed record RefillStep : SelectingStep
{
    /// <summary>Follow the curvature; flat otherwise.</summary>
    public bool Curved { get; init; } = true;

    private protected override bool NeedsTriangles => true;

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var selected = Selected(mesh, context, cancel);
        if (!selected.Contains(true))
        {
            return new(mesh, Record(mesh, $"The selection is empty on this scan; nothing refilled."));
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
                Curved, bordersToo: true, cancel: cancel);
        var patches = new Patches(mesh, holes);
        return new(filled, Record(
            filled, $"{removed:0.#} mm² cut out and refilled by {holes.Count} patches of {patches.Area:0.#} mm², not measured.",
            removed: removed, added: patches.Area, caution: patches.Caution));
    }
}

/// <summary>What patches come to.</summary>
internal sealed class Patches(TriangleMesh before, IReadOnlyList<FilledHole> holes)
{
    /// <summary>Patches of more than this share of the area are more guess than measurement.</summary>
    private const double MostShare = 0.05;

    /// <summary>A hole wider than this share of the part's diagonal is no gap in the scan.</summary>
    private const double WideHole = 0.25;

    public double Area { get; } = holes.Sum(h => h.Area);

    public double Largest { get; } = holes.Select(h => h.Diameter).DefaultIfEmpty(0).Max();

    /// <summary>What of them may mislead, if anything.</summary>
    public string? Caution
    {
        get
        {
            var share = Area / Math.Max(1e-12, before.Area());
            if (share > MostShare)
            {
                return string.Create(
                    CultureInfo.InvariantCulture, $"Patches make up {100 * share:0.#} % of the surface: much of it is guessed.");
            }

            return Largest > WideHole * before.Bounds.Diagonal
                ? string.Create(CultureInfo.InvariantCulture, $"A hole of {Largest:0.#} mm was closed: what was there is not known.")
                : null;
        }
    }
}
