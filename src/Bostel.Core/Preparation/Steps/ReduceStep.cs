using System.Globalization;
using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>Reduces the number of triangles: to a number, to a share, or as far as a deviation allows.</summary>
public sealed record ReduceStep : PrepareStep
{
    /// <summary>A closed surface has four triangles at the least.</summary>
    private const int Least = 4;

    public int? Triangles { get; init; }

    /// <summary>The share of triangles to keep, above 0 and below 1.</summary>
    public double? Share { get; init; }

    public double? MaxDeviation { get; init; }

    private protected override string? Lacks =>
        Triangles >= Least || Share is > 0 and < 1 || MaxDeviation > 0 ? null : "triangles, a share between 0 and 1, or maxDeviation";

    private protected override bool NeedsTriangles => true;

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        var reduced = MaxDeviation is { } deviation
            ? Reduction.Within(mesh, deviation, cancel)
            : Reduction.ToCount(mesh, Triangles ?? Math.Max(Least, (int)(Share!.Value * mesh.TriangleCount)), cancel);
        var noise = mesh.Noise;
        var caution = reduced.Deviation > Math.Max(NoiseMultiple * noise, 1e-6)
            ? string.Create(
                CultureInfo.InvariantCulture, $"The reduced surface lies up to {reduced.Deviation:0.####} mm from the measured one, "
                + $"more than {NoiseMultiple:0} times the noise of {noise:0.####} mm.")
            : null;
        var (before, after, moved) = (mesh.TriangleCount, reduced.Mesh.TriangleCount, reduced.Deviation);
        return new(reduced.Mesh, Record(
            reduced.Mesh, $"{before} triangles reduced to {after}; the surface moved by {moved:0.####} mm at most.", moved: moved,
            caution: caution));
    }
}
