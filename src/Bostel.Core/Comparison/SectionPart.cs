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
public sealed record SectionPart(
    bool Arc, double[] At, bool Hollow, double Nominal, double? Measured, double? U, double? Form, int Points)
{
    /// <summary>Fewer points tell neither a line nor an arc.</summary>
    private const int Fewest = 5;

    /// <summary>The nominal's outline runs over chords: they lie within so many chord errors of its lines and arcs, mm beside.</summary>
    private const double Chords = 1.5, LeastTolerance = 0.002;

    /// <summary>
    /// Points nearer to the end of a part than so many spacings, or mm, belong to the corner as well; but a short part keeps this share of
    /// its length at each end out, no more.
    /// </summary>
    private const double EndSpacings = 3, LeastEnd = 0.5, EndShare = 0.2;

    internal static IReadOnlyList<SectionPart> Of(
        IReadOnlyList<SectionOutline> reference, IReadOnlyList<OutlineDeviation> scan, Vector3D normal, NominalModel nominal,
        double spacing, SheetFrame frame)
    {
        var tolerance = LeastTolerance + (Chords * nominal.ChordError);
        var margin = Math.Max(LeastEnd, EndSpacings * spacing);
        var found = new List<SectionPart>();
        for (var (o, first) = (0, 0); o < reference.Count; first += reference[o].Count, o++)
        {
            foreach (var part in OutlineParts.Split(reference[o], normal, tolerance))
            {
                var length = Length(reference[o], part);
                var points = Belonging(scan, reference[o], part, first, Math.Min(margin, EndShare * length));
                var middle = reference[o].Point((part.From + (part.Count / 2)) % reference[o].Count);
                found.Add(Measure(part, length, frame.Flat(middle.ToArray()), points, normal));
            }
        }

        return found;
    }

    private static double Length(SectionOutline outline, OutlinePart part) => Enumerable.Range(1, part.Count - 1).Sum(k =>
        Vector3D.Distance(outline.Point((part.From + k) % outline.Count), outline.Point((part.From + k - 1) % outline.Count)));

    /// <summary>Points of the scan whose foot lies on the part, away from its ends; 3·N coordinates.</summary>
    private static double[] Belonging(
        IReadOnlyList<OutlineDeviation> scan, SectionOutline outline, OutlinePart part, int first, double margin)
    {
        var (start, end) = (outline.Point(part.From), outline.Point((part.From + part.Count - 1) % outline.Count));
        var whole = part.Count > outline.Count;
        var points = new List<double>();
        foreach (var d in scan)
        {
            for (var i = 0; i < d.Values.Length; i++)
            {
                var at = d.Segments[i] - first;
                if (at < 0 || at >= outline.Count || ((at - part.From + outline.Count) % outline.Count) >= part.Count - 1)
                {
                    continue;
                }

                var foot = Vector3D.At(d.Feet, i);
                if (whole || (Vector3D.Distance(foot, start) > margin && Vector3D.Distance(foot, end) > margin))
                {
                    points.AddRange(d.Outline.Point(i).ToArray());
                }
            }
        }

        return [.. points];
    }

    private static SectionPart Measure(OutlinePart part, double length, double[] at, double[] points, Vector3D normal)
    {
        var made = new SectionPart(
            part.Radius is not null, at, part.Internal, part.Radius ?? length, null, null, null, points.Length / 3);
        if (made.Points < Fewest || LeastSquares.Try(made.Arc ? "circle" : "line", points, new() { Normal = normal }).Fit is not { } fit)
        {
            return made;
        }

        return made with
        {
            Measured = (fit.Shape as Circle3D)?.Radius,
            U = made.Arc && FitUncertainty.Of(fit, points) is { } sure ? sure.CoverageFactor * sure.Radius : null,
            Form = fit.Form,
        };
    }
}
