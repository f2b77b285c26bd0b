using System.Globalization;
using System.Text;
using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;

namespace Bostel.Reports;

/// <summary>
/// A section square on and true to scale, as SVG: the nominal's outlines, the scan's, and strokes of deviation drawn so many times as long
/// from where each point belongs. Strokes beyond a limit end in a bar, so that this does not rest on their colour.
/// </summary>
public static class SectionDrawing
{
    private const double Width = 1200, Least = 360, Most = 900, Margin = 70;

    /// <summary>Strokes stand so many pixels apart.</summary>
    private const double Apart = 7;

    private const double BoxWidth = 92, BoxHeight = 26;

    /// <summary>Radius of the ring round a characteristic's number.</summary>
    private const double Ring = 15;

    private const string Ink = "#1E2A32", Indigo = "#33427A";

    /// <summary>How many times as long strokes are drawn: as the plan says, else so that the longest is well seen.</summary>
    public static double Exaggeration(SectionSheet sheet, SectionPlan plan) => plan.Exaggeration ?? sheet.Strokes;

    /// <param name="scale">Colours of the strokes.</param>
    public static string Svg(ReportSection section, ColourScale scale)
    {
        var sheet = section.Sheet;
        var at = Placing.Of(sheet);
        var times = Exaggeration(sheet, section.Plan);
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {Width} {at.Height:0.#}\" ");
        svg.Append("font-family=\"Mono, monospace\" font-size=\"17\" fill=\"none\">");
        foreach (var outline in sheet.Nominal)
        {
            svg.Append(Path(outline.Points, outline.Closed, at, Indigo, 1.4));
        }

        foreach (var outline in sheet.Scan)
        {
            svg.Append(Strokes(outline, at, times, scale));
            svg.Append(outline.Joined ? Path(outline.Points, outline.Closed, at, Ink, 1) : Dots(outline.Points, at));
        }

        return svg.Append(string.Concat(section.Marks.Select(m => Mark(m, at)))).Append(Labels(sheet, at, times)).Append(ScaleBar(at))
            .Append("</svg>").ToString();
    }

    private readonly record struct Placing(double Left, double Top, double Scale, double Height)
    {
        public static Placing Of(SectionSheet sheet)
        {
            var points = sheet.Nominal.SelectMany(o => o.Points.Chunk(2)).ToList();
            var (left, right) = (points.Min(p => p[0]), points.Max(p => p[0]));
            var (low, top) = (points.Min(p => p[1]), points.Max(p => p[1]));
            var (wide, high) = (Math.Max(right - left, 1e-6), Math.Max(top - low, 1e-6));
            var scale = Math.Min((Width - (2 * Margin)) / wide, (Most - (2 * Margin)) / high);
            var height = Math.Max(Least, (high * scale) + (2 * Margin));
            return new(left - (((Width / scale) - wide) / 2), top + (((height / scale) - high) / 2), scale, height);
        }

        public double X(double x) => Scale * (x - Left);

        public double Y(double y) => Scale * (Top - y);
    }

    private static string Path(double[] points, bool closed, Placing at, string colour, double width)
    {
        var path = new StringBuilder();
        for (var i = 0; i < points.Length; i += 2)
        {
            path.Append(CultureInfo.InvariantCulture, $"{(i == 0 ? 'M' : 'L')}{at.X(points[i]):0.##} {at.Y(points[i + 1]):0.##}");
        }

        return Invariant($"<path d=\"{path}{(closed ? "Z" : "")}\" stroke=\"{colour}\" stroke-width=\"{width}\"/>");
    }

    private static string Dots(double[] points, Placing at)
    {
        var path = new StringBuilder();
        for (var i = 0; i < points.Length; i += 2)
        {
            path.Append(CultureInfo.InvariantCulture, $"M{at.X(points[i]):0.##} {at.Y(points[i + 1]):0.##}h0");
        }

        return Invariant($"<path d=\"{path}\" stroke=\"{Ink}\" stroke-width=\"2\" stroke-linecap=\"round\"/>");
    }

    private static string Strokes(ScanOutline outline, Placing at, double times, ColourScale scale)
    {
        var strokes = new StringBuilder();
        var (lastX, lastY) = (double.NegativeInfinity, double.NegativeInfinity);
        for (var i = 0; i < outline.Values.Length; i++)
        {
            var (x, y) = (at.X(outline.Feet[2 * i]), at.Y(outline.Feet[(2 * i) + 1]));
            if (outline.Values[i] is not { } value || Math.Pow(x - lastX, 2) + Math.Pow(y - lastY, 2) < Apart * Apart)
            {
                continue;
            }

            (lastX, lastY) = (x, y);
            var (toX, toY) = End(outline, i, at, times);
            var (r, g, b) = scale.Color(value);
            var colour = Invariant($"#{(int)r:x2}{(int)g:x2}{(int)b:x2}");
            var bar = scale.Beyond(value) != 0 ? Bar(x, y, toX, toY) : "";
            strokes.Append(Invariant($"<path d=\"M{x:0.##} {y:0.##}L{toX:0.##} {toY:0.##}{bar}\" "));
            strokes.Append(Invariant($"stroke=\"{colour}\" stroke-width=\"3\"/>"));
        }

        return strokes.ToString();
    }

    private static (double X, double Y) End(ScanOutline outline, int i, Placing at, double times)
    {
        double Along(int k) => outline.Feet[(2 * i) + k] + (times * (outline.Points[(2 * i) + k] - outline.Feet[(2 * i) + k]));
        return (at.X(Along(0)), at.Y(Along(1)));
    }

    private static string Bar(double x, double y, double toX, double toY)
    {
        var length = Math.Max(1e-9, Math.Sqrt(Math.Pow(toX - x, 2) + Math.Pow(toY - y, 2)));
        var (acrossX, acrossY) = (-5 * (toY - y) / length, 5 * (toX - x) / length);
        return Invariant($"M{toX - acrossX:0.##} {toY - acrossY:0.##}L{toX + acrossX:0.##} {toY + acrossY:0.##}");
    }

    /// <summary>A characteristic's number in a ring, beside its only part or between its two, with a line to each.</summary>
    private static string Mark(SectionMark mark, Placing at)
    {
        var (x, y) = (at.X(mark.Parts.Average(p => p[0])), at.Y(mark.Parts.Average(p => p[1])));
        (x, y) = mark.Parts.Count == 1 ? (x + (2 * Ring), y - (2 * Ring)) : (x, y);
        var lines = string.Concat(mark.Parts.Select(p => Invariant($"M{x:0.##} {y:0.##}L{at.X(p[0]):0.##} {at.Y(p[1]):0.##}")));
        return Invariant($"<path d=\"{lines}\" stroke=\"{Indigo}\" stroke-dasharray=\"6 3\"/>")
            + Invariant($"<circle cx=\"{x:0.##}\" cy=\"{y:0.##}\" r=\"{Ring}\" fill=\"#fff\" stroke=\"{Indigo}\"/>")
            + Invariant($"<text x=\"{x:0.##}\" y=\"{y + 6:0.##}\" text-anchor=\"middle\" fill=\"{Indigo}\">{mark.No}</text>");
    }

    /// <summary>The least and the greatest deviation.</summary>
    private static IEnumerable<(int Index, ScanOutline Outline)> Extremes(SectionSheet sheet)
    {
        var all = sheet.Scan.SelectMany(o => Enumerable.Range(0, o.Values.Length).Where(i => o.Values[i] is not null)
            .Select(i => (i, o))).ToList();
        return all.Count == 0 ? [] : new[] { all.MinBy(p => p.o.Values[p.i]), all.MaxBy(p => p.o.Values[p.i]) }.Distinct();
    }

    /// <summary>Labels of both, where they cover the least of the outlines and not each other.</summary>
    private static string Labels(SectionSheet sheet, Placing at, double times)
    {
        var points = sheet.Scan.SelectMany(o => o.Points.Chunk(2)).Select(p => (X: at.X(p[0]), Y: at.Y(p[1]))).ToList();
        var taken = new List<(double X, double Y)>();
        var labels = new StringBuilder();
        foreach (var (index, outline) in Extremes(sheet))
        {
            var (x, y) = End(outline, index, at, times);
            var box = (from far in (double[])[70, 110, 160]
                       from turn in Enumerable.Range(0, 16)
                       let angle = turn * Math.PI / 8
                       select (X: Math.Clamp(x + (far * Math.Cos(angle)) - (BoxWidth / 2), 4, Width - BoxWidth - 4),
                           Y: Math.Clamp(y + (far * Math.Sin(angle)) - (BoxHeight / 2), 4, at.Height - BoxHeight - 4)))
                .MinBy(b => points.Count(p => Meets(b, p, 2, 2)) + (taken.Any(t => Meets(b, t, BoxWidth, BoxHeight)) ? points.Count : 0));
            taken.Add(box);
            labels.Append(Label(outline.Values[index]!.Value, (x, y), box));
        }

        return labels.ToString();

        static bool Meets((double X, double Y) box, (double X, double Y) other, double width, double height) =>
            other.X < box.X + BoxWidth && box.X < other.X + width && other.Y < box.Y + BoxHeight && box.Y < other.Y + height;
    }

    private static string Label(double value, (double X, double Y) end, (double X, double Y) box)
    {
        var text = (value < 0 ? "−" : "+") + Wording.Number(Math.Abs(value), 3);
        var (nearX, nearY) = (Math.Clamp(end.X, box.X, box.X + BoxWidth), Math.Clamp(end.Y, box.Y, box.Y + BoxHeight));
        return Invariant($"<path d=\"M{end.X:0.##} {end.Y:0.##}L{nearX:0.##} {nearY:0.##}\" stroke=\"{Ink}\"/>")
            + Invariant($"<rect x=\"{box.X:0.##}\" y=\"{box.Y:0.##}\" width=\"{BoxWidth}\" height=\"{BoxHeight}\" rx=\"3\" ")
            + Invariant($"fill=\"#fff\" stroke=\"{Ink}\"/><text x=\"{box.X + (BoxWidth / 2):0.##}\" y=\"{box.Y + 19:0.##}\" ")
            + Invariant($"text-anchor=\"middle\" fill=\"{Ink}\">{text}</text>");
    }

    private static string ScaleBar(Placing at)
    {
        var length = RoundNumber.AtMost(200 / at.Scale);
        var y = at.Height - 16;
        return Invariant($"<path d=\"M20 {y - 6:0.#}V{y:0.#}H{20 + (length * at.Scale):0.##}V{y - 6:0.#}\" stroke=\"{Ink}\"/>")
            + Invariant($"<text x=\"20\" y=\"{y - 12:0.#}\" fill=\"{Ink}\">{length} mm</text>");
    }

    private static string Invariant(FormattableString text) => FormattableString.Invariant(text);
}
