using System.Globalization;
using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>Smooths what is selected, or everything without a selection, and says how far points were moved.</summary>
public sealed record SmoothStep : SelectingStep
{
    private const int MostPasses = 100;

    public int? Passes { get; init; }

    /// <summary>No vertex is moved farther.</summary>
    public double? MaxDisplacement { get; init; }

    private protected override string? Lacks => !(Passes is >= 1 and <= MostPasses) ? $"passes from 1 to {MostPasses}"
        : !(MaxDisplacement > 0) ? "maxDisplacement above 0"
        : null;

    private protected override bool NeedsTriangles => true;

    private protected override StepOutcome Do(TriangleMesh mesh, PreparationContext context, CancellationToken cancel)
    {
        bool[]? chosen = null;
        if (Selection is { Count: > 0 })
        {
            var selected = Selected(mesh, context, cancel);
            chosen = new bool[mesh.VertexCount];
            for (var h = 0; h < mesh.Indices.Length; h++)
            {
                chosen[mesh.Indices[h]] |= selected[h / 3];
            }
        }

        var noise = mesh.Noise;
        var smoothed = Smoothing.Smooth(mesh, chosen, Passes!.Value, MaxDisplacement!.Value, cancel);
        var caution = smoothed.Largest > NoiseMultiple * noise
            ? string.Create(
                CultureInfo.InvariantCulture, $"Points moved by up to {smoothed.Largest:0.####} mm, "
                + $"{smoothed.Largest / Math.Max(1e-9, noise):0.#} times the noise: form may have been smoothed away.")
            : null;
        var count = smoothed.Displacements.Count(d => d > 0);
        return new(smoothed.Mesh,
            Record(smoothed.Mesh, $"{count} points smoothed in {Passes} passes, moved by {smoothed.Largest:0.####} mm at most.",
            moved: smoothed.Largest, caution: caution), smoothed.Displacements);
    }
}
