using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Comparison;

/// <summary>
/// A straight or round part of an outline: its points, from and to (around the end of a closed outline), and the fitted line or circle.
/// </summary>
/// <param name="Kind">line or arc.</param>
/// <param name="Internal">An arc whose centre lies out of the material: a hollow.</param>
public sealed record OutlinePart(string Kind, int From, int Count, FitResult Fit, bool Internal)
{
    public double? Radius => (Fit.Shape as Circle3D)?.Radius;

    public Vector3D? Direction => (Fit.Shape as Line3D)?.Direction;
}

/// <summary>
/// Takes an outline apart into straight lines and arcs, each as long as its points stay within a tolerance of the fitted line or circle
/// (greedy longest parts first from a corner, then the borders between neighbours settled by which of the two is nearer). Corner radii are
/// the arcs between lines.
/// </summary>
public static class OutlineParts
{
    private const int Fewest = 4;

    /// <summary>An arc must reach this much farther than a line to be taken: any line is also a flat arc.</summary>
    private const double ArcGain = 1.3;

    /// <param name="outline">A section's outline.</param>
    /// <param name="normal">Of the section plane.</param>
    /// <param name="tolerance">Largest distance of a point from its part, mm: a few times the noise.</param>
    public static IReadOnlyList<OutlinePart> Split(SectionOutline outline, Vector3D normal, double tolerance)
    {
        if (!(tolerance > 0))
        {
            throw new BadInputException("tolerance: must be above 0 mm.");
        }

        var n = normal.Normalized();
        if (outline.Count < Fewest)
        {
            return [];
        }

        if (!outline.Closed)
        {
            return Split(outline, 0, n, tolerance);
        }

        // The sharpest turn may lie within an arc: where the first part from there ends, a part begins for certain.
        var sharpest = SharpestAt(outline);
        var first = Split(outline, sharpest, n, tolerance);
        return first.Count < 2 ? first : Split(outline, (first[0].From + first[0].Count - 1) % outline.Count, n, tolerance);
    }

    private static List<OutlinePart> Split(SectionOutline outline, int start, Vector3D n, double tolerance)
    {
        var ordered = new Ordered(outline, start);
        var ranges = new List<(int From, int To, bool Arc)>();
        for (var i = 0; i < ordered.Count - 1;)
        {
            var line = Longest(ordered, i, n, tolerance, arc: false);
            var round = Longest(ordered, i, n, tolerance, arc: true);
            var arc = round - i > (ArcGain * (line - i)) + 1;
            var end = arc ? round : line;
            ranges.Add((i, end, arc));
            i = Math.Max(end, i + 1);
        }

        Settle(ordered, ranges, n);
        return [.. ranges.Where(r => r.To - r.From + 1 >= Fewest).Select(r => Part(ordered, outline, start, r, n)).OfType<OutlinePart>()];
    }

    /// <summary>Distance of two lines, or of centres, within the plane; the angle between two lines in rad.</summary>
    public static (double Distance, double Angle) Between(OutlinePart a, OutlinePart b)
    {
        var (p, q) = (Place(a), Place(b));
        var angle = a.Direction is { } d && b.Direction is { } e ? d.LineAngleTo(e) : 0;
        return (a.Fit.Shape, b.Fit.Shape) switch
        {
            (Line3D l, Line3D) => (l.Distance(q), angle),
            (Line3D l, _) => (l.Distance(q), 0),
            (_, Line3D l) => (l.Distance(p), 0),
            _ => (Vector3D.Distance(p, q), 0),
        };

        static Vector3D Place(OutlinePart part) => part.Fit.Shape is Circle3D c ? c.Center : part.Fit.Reference;
    }

    /// <summary>Points of an outline from a start on, the first repeated at the end of a closed one.</summary>
    private sealed class Ordered(SectionOutline outline, int start)
    {
        public int Count => outline.Count + (outline.Closed ? 1 : 0);

        public Vector3D this[int i] => outline.Point((start + i) % outline.Count);

        public double[] Points(int from, int to)
        {
            var points = new double[3 * (to - from + 1)];
            for (var i = from; i <= to; i++)
            {
                (points[3 * (i - from)], points[(3 * (i - from)) + 1], points[(3 * (i - from)) + 2]) = this[i];
            }

            return points;
        }
    }

    /// <summary>The last point of the longest part from a point on: doubled while it fits, then halved.</summary>
    private static int Longest(Ordered points, int from, Vector3D normal, double tolerance, bool arc)
    {
        var last = points.Count - 1;
        bool Fits(int to) => to - from < Fewest - 1
            || Fit(points, from, to, normal, arc) is { } fit && fit.Residuals.All(r => Math.Abs(r) <= tolerance);
        var (good, step) = (Math.Min(last, from + 1), 2);
        while (good < last && Fits(Math.Min(last, good + step)))
        {
            good = Math.Min(last, good + step);
            step *= 2;
        }

        for (; step >= 1; step /= 2)
        {
            while (good + step <= last && step < points.Count && Fits(good + step))
            {
                good += step;
            }
        }

        return good;
    }

    /// <summary>Null when they do not determine it: points on a straight line are no circle.</summary>
    private static FitResult? Fit(Ordered points, int from, int to, Vector3D normal, bool arc) =>
        LeastSquares.Try(arc ? "circle" : "line", points.Points(from, to), new() { Normal = normal }).Fit;

    /// <summary>Moves each border between two parts to where the sum of squares of both is least, a part's own length at most.</summary>
    private static void Settle(Ordered points, List<(int From, int To, bool Arc)> ranges, Vector3D normal)
    {
        for (var k = 0; k + 1 < ranges.Count; k++)
        {
            var (a, b) = (ranges[k], ranges[k + 1]);
            if (Fit(points, a.From, a.To, normal, a.Arc) is not { } first || b.To - b.From < Fewest
                || Fit(points, b.From, b.To, normal, b.Arc) is not { } second)
            {
                continue;
            }

            // Greedy parts reach a little into the next: give points back while the next is nearer to them.
            var border = a.To;
            while (border - a.From > Fewest
                && Math.Abs(second.Shape.Distance(points[border - 1])) < Math.Abs(first.Shape.Distance(points[border - 1])))
            {
                border--;
            }

            ranges[k] = a with { To = border };
            ranges[k + 1] = b with { From = border };
        }
    }

    private static OutlinePart? Part(Ordered points, SectionOutline outline, int start, (int From, int To, bool Arc) range, Vector3D normal)
    {
        // Points at the very ends belong to the corner as much as to the part.
        var trim = Math.Min((range.To - range.From) / 10, 3);
        if (Fit(points, range.From + trim, range.To - trim, normal, range.Arc) is not { } fit)
        {
            return null;
        }

        var middle = (start + ((range.From + range.To) / 2)) % outline.Count;
        var hollow = fit.Shape is Circle3D circle && SectionDeviation.OutwardAt(outline, middle, normal)
            .Dot(circle.Center - outline.Point(middle)) > 0;
        return new(range.Arc ? "arc" : "line", (start + range.From) % outline.Count, range.To - range.From + 1, fit, hollow);
    }

    /// <summary>Where a closed outline turns most over a few points.</summary>
    private static int SharpestAt(SectionOutline outline)
    {
        var reach = Math.Max(1, outline.Count / 100);
        Vector3D At(int i) => outline.Point(((i % outline.Count) + outline.Count) % outline.Count);
        double Turn(int i) => (At(i + reach) - At(i)).AngleTo(At(i) - At(i - reach));
        return Enumerable.Range(0, outline.Count).MaxBy(Turn);
    }
}
