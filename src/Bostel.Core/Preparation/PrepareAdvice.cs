using System.Globalization;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>Something about the data that matters for a measurement, in plain words, with the step that would mend it.</summary>
/// <param name="Text">One sentence.</param>
/// <param name="Matters">Whether it would bias a measurement if left.</param>
/// <param name="Step">The one-click mend; null where none is known.</param>
public sealed record Advice(string Text, bool Matters, PrepareStep? Step);

/// <summary>Reads a data sheet as an inspector would.</summary>
public static class PrepareAdvice
{
    /// <summary>What to look at, most important first.</summary>
    /// <param name="sheet">Of the scan as it stands.</param>
    /// <param name="pieces">Its pieces, with the part marked.</param>
    public static IReadOnlyList<Advice> For(MeshSheet sheet, IReadOnlyList<ConnectedPiece> pieces)
    {
        var all = new List<Advice>();
        void Say(bool when, FormattableString text, bool matters, PrepareStep? step)
        {
            if (when)
            {
                all.Add(new(text.ToString(CultureInfo.InvariantCulture), matters, step));
            }
        }

        Say(sheet.Triangles == 0, $"A cloud of {sheet.Vertices} points without triangles: it can be measured as it is, or meshed.", false,
            new MeshStep());
        Say(sheet.InsideOut, $"The surface is inside out: every deviation would have the wrong sign.", true, new FlipStep());
        Say(sheet.FlippedEdges > 0,
            $"{Few(sheet.FlippedEdges, "edge")} where the triangles disagree which side is out: signs would be wrong there.", true,
            new OrientStep());
        var loose = pieces.Where(p => !p.IsPart).ToList();
        Say(loose.Count > 0,
            $"{Few(loose.Count, "loose piece")} besides the part, {loose.Sum(p => p.Area):0} mm²: table, fixture or stray data.", true,
            new KeepPartStep());
        Say(sheet.NonManifoldEdges > 0, $"{Few(sheet.NonManifoldEdges, "edge")} of three triangles or more: the surface branches there.",
            true, new SplitStep());
        Say(sheet.Degenerate + sheet.Duplicate > 0, $"{Few(sheet.Degenerate, "triangle")} without area and {sheet.Duplicate} there twice.",
            false, new CleanStep());
        var wide = sheet.Holes.Where(h => h.Diameter >= 10).ToList();
        var small = sheet.HoleCount - wide.Count;
        var (borders, widest) =
            (Few(wide.Count, "hole or open border", "holes or open borders"), wide.Select(h => h.Diameter).DefaultIfEmpty().Max());
        Say(wide.Count > 0,
            $"{borders} over 10 mm, the largest {widest:0.#} mm: nothing was measured there, and a patch would be a guess.", false, null);
        Say(
            small > 0, $"{Few(small, "hole")} under 10 mm: harmless to deviations, in the way of volume and wall thickness.", false,
            new FillStep
            {
                MaxDiameter = small > 0 ? Math.Ceiling(
                10 * sheet.Holes.Where(h => h.Diameter < 10).Select(h => h.Diameter).DefaultIfEmpty(10).Max()) / 10 : null
            });
        Say(sheet.EdgeSpread > 8,
            $"Uneven density: edges differ {sheet.EdgeSpread:0.#} times. Statistics are weighted by area, so this does not bias them.",
            false, null);
        return all;
    }

    private static string Few(int n, string one, string? many = null) =>
        n == 1 ? $"1 {one}" : string.Create(CultureInfo.InvariantCulture, $"{n} {many ?? one + "s"}");
}
