using System.Text.Json.Serialization;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>
/// A line or an arc of a section: found on the nominal's outline, fitted by least squares to the scan's points that belong to it. Places
/// are those of the sheet, mm; U is the expanded uncertainty (95 %) from scatter and number of points.
/// </summary>
/// <param name="At">A place in its middle on the nominal, two numbers.</param>
/// <param name="Hollow">An arc whose centre lies out of the material.</param>
/// <param name="Nominal">Radius of an arc, length of a line.</param>
/// <param name="Measured">Radius of an arc; null: too few points, or a line.</param>
/// <param name="Form">Greatest less least residual; null: too few points.</param>
/// <param name="Face">Of the nominal, that it lies on.</param>
/// <param name="Coverage">Share of its length that has points.</param>
/// <param name="Ideal">What it is on the nominal.</param>
/// <param name="Run">Its points on the nominal, 2·N coordinates on the sheet.</param>
public sealed record SectionPart(
    bool Arc, double[] At, bool Hollow, double Nominal, double? Measured, double? U, double? Form, int Points, int Face, double Coverage,
    SectionShape Ideal, double[] Run)
{
    /// <summary>What the scan shows it to be; null: too few points.</summary>
    public SectionShape? Found { get; init; }

    /// <summary>What was found, off by each of its independent errors of one standard deviation.</summary>
    [JsonIgnore]
    public IReadOnlyList<SectionShape> Variations { get; init; } = [];

    /// <summary>Degrees of freedom that tell the errors.</summary>
    [JsonIgnore]
    public double Freedom { get; init; }

    /// <summary>A share of length is told in so many pieces at the most.</summary>
    private const int Pieces = 24;

    /// <summary>Fewer points tell neither a line nor an arc.</summary>
    private const int Fewest = 5;

    /// <summary>
    /// Points nearer to the end of a part than so many spacings, or mm, belong to the corner as well; but a short part keeps this share of
    /// its length at each end out, no more.
    /// </summary>
    private const double EndSpacings = 3, LeastEnd = 0.5, EndShare = 0.2;

    internal static IReadOnlyList<SectionPart> Of(
        IReadOnlyList<SectionOutline> reference, IReadOnlyList<OutlineDeviation> scan, Vector3D normal, NominalModel nominal,
        double spacing, SheetFrame frame)
    {
        var margin = Math.Max(LeastEnd, EndSpacings * spacing);
        var surfaces = NominalRun.Surfaces(nominal);
        var found = new List<SectionPart>();
        for (var (o, first) = (0, 0); o < reference.Count; first += reference[o].Count, o++)
        {
            var outline = reference[o];
            foreach (var run in NominalRun.Of(outline, normal, nominal, surfaces))
            {
                var along = run.Along(outline);
                var (points, coverage) = Belonging(scan, outline, run, along, first, Math.Min(margin, EndShare * along[^1]), spacing);
                var ideal = SectionShape.Of(run.Shape, frame);
                found.Add(Measure(
                    new(ideal.Radius is not null, frame.Flat(Middle(outline, run, along).ToArray()), run.Hollow, ideal.Radius ?? along[^1],
                        null, null, null, points.Length / 3, run.Face, coverage, ideal,
                        frame.Flat([.. Enumerable.Range(0, run.Count).SelectMany(k => run.Point(outline, k).ToArray())])),
                    points, normal, frame));
            }
        }

        return found;
    }

    /// <summary>Half way along.</summary>
    private static Vector3D Middle(SectionOutline outline, NominalRun run, double[] along)
    {
        var k = Math.Max(1, Array.FindIndex(along, a => a >= along[^1] / 2));
        var share = ((along[^1] / 2) - along[k - 1]) / Math.Max(1e-12, along[k] - along[k - 1]);
        return run.Point(outline, k - 1) + (share * (run.Point(outline, k) - run.Point(outline, k - 1)));
    }

    /// <summary>
    /// Points of the scan whose foot lies on the run, away from its ends, 3·N coordinates; and of what share of its length they tell.
    /// </summary>
    private static (double[] Points, double Coverage) Belonging(
        IReadOnlyList<OutlineDeviation> scan, SectionOutline outline, NominalRun run, double[] along, int first, double margin,
        double spacing)
    {
        margin = run.Count > outline.Count ? 0 : margin;
        var inside = along[^1] - (2 * margin);
        var seen = new bool[Math.Clamp((int)(inside / (2 * Math.Max(spacing, 1e-6))), 1, Pieces)];
        var points = new List<double>();
        foreach (var d in scan)
        {
            for (var i = 0; i < d.Values.Length; i++)
            {
                var at = d.Segments[i] - first;
                var from = (at - run.From + outline.Count) % outline.Count;
                if (at < 0 || at >= outline.Count || from >= run.Count - 1)
                {
                    continue;
                }

                var place = along[from] + Vector3D.Distance(Vector3D.At(d.Feet, i), outline.Point(at)) - margin;
                if (place >= 0 && place <= inside)
                {
                    points.AddRange(d.Outline.Point(i).ToArray());
                    seen[Math.Min(seen.Length - 1, (int)(seen.Length * place / inside))] = true;
                }
            }
        }

        return ([.. points], (double)seen.Count(s => s) / seen.Length);
    }

    private static SectionPart Measure(SectionPart made, double[] points, Vector3D normal, SheetFrame frame)
    {
        if (made.Points < Fewest || LeastSquares.Try(made.Arc ? "circle" : "line", points, new() { Normal = normal }).Fit is not { } fit)
        {
            return made;
        }

        var sure = FitUncertainty.Of(fit, points);
        var found = SectionShape.Of(fit.Shape, frame);
        return made with
        {
            Measured = found.Radius,
            U = made.Arc && sure is not null ? sure.CoverageFactor * sure.Radius : null,
            Form = fit.Form,
            Found = found,
            Variations = sure is null ? []
                : made.Arc ? [.. sure.Shapes.Select(s => SectionShape.Of(s, frame))]
                : [found.Shifted(sure.Position), found.Turned(sure.Direction)],
            Freedom = sure?.Freedom ?? 1,
        };
    }
}
