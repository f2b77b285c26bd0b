using System.Globalization;
using System.Text;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;

namespace Bostel.Reports;

/// <summary>
/// What stands over a figure so that it can be read alone: a scale bar, the ramp with its limits, the share of each value.
/// </summary>
public static class FigureFrame
{
    private const double RampWidth = 16, Margin = 24;
    private const int Steps = 48;
    private const string Ink = "#1E2A32";

    /// <summary>A bar of a round length at the lower edge.</summary>
    /// <param name="height">Of the picture, px; its span in mm is the camera's.</param>
    /// <param name="from">Where it begins, px from the left.</param>
    public static string ScaleBar(FigurePlan figure, double height, double from = Margin)
    {
        var perMm = height / figure.Camera.Span;
        var mm = RoundNumber.AtMost(180 / perMm);
        var (x, y, length) = (from, height - Margin, mm * perMm);
        return FormattableString.Invariant(
            $"<path d=\"M{x:0.#} {y - 8:0.#}V{y:0.#}H{x + length:0.#}V{y - 8:0.#}\" fill=\"none\" stroke=\"{Ink}\" stroke-width=\"2\"/>")
            + Text(x, y - 14, FormattableString.Invariant($"{mm:0.###} mm"), "start");
    }

    /// <summary>The ramp at the right side, with the limits, 0, and how much of the surface has each value.</summary>
    /// <param name="histogram">Shares over the range of the ramp and a quarter of it to both sides; empty: none.</param>
    public static string Ramp(ColourScale scale, IReadOnlyList<double> histogram, string unit, double width, double height)
    {
        var (top, bottom) = (0.2 * height, 0.8 * height);
        var x = width - Margin - RampWidth - 74;
        var (low, high) = Range(scale);
        double Y(double v) => bottom - ((bottom - top) * (v - low) / (high - low));
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture,
            $"<rect x=\"{x - 70:0.#}\" y=\"{top - 30:0.#}\" width=\"{RampWidth + 156:0.#}\" height=\"{bottom - top + 52:0.#}\" ");
        svg.Append("fill=\"#ffffff\" fill-opacity=\"0.85\"/>");
        for (var i = 0; i < Steps; i++)
        {
            var (a, b) = (low + ((high - low) * i / Steps), low + ((high - low) * (i + 1) / Steps));
            var (r, g, blue) = scale.Color((a + b) / 2);
            svg.Append(CultureInfo.InvariantCulture, $"<rect x=\"{x:0.#}\" y=\"{Y(b):0.##}\" width=\"{RampWidth}\" ");
            svg.Append(CultureInfo.InvariantCulture, $"height=\"{Y(a) - Y(b) + 0.4:0.##}\" fill=\"rgb({r:0},{g:0},{blue:0})\"/>");
        }

        var most = histogram.DefaultIfEmpty(0).Max();
        for (var i = 0; i < histogram.Count && most > 0; i++)
        {
            var (a, b) = (low + ((high - low) * i / histogram.Count), low + ((high - low) * (i + 1) / histogram.Count));
            var length = 56 * histogram[i] / most;
            svg.Append(CultureInfo.InvariantCulture, $"<rect x=\"{x - 6 - length:0.#}\" y=\"{Y(b):0.##}\" width=\"{length:0.#}\" ");
            svg.Append(CultureInfo.InvariantCulture, $"height=\"{Math.Max(0.5, Y(a) - Y(b)):0.##}\" fill=\"#8A949C\"/>");
        }

        foreach (var (value, binds) in ((double, bool)[])[(scale.Lower, scale.LowerBinds), (scale.Upper, scale.UpperBinds)])
        {
            var sign = binds ? 2.4 : 0.8;
            svg.Append(CultureInfo.InvariantCulture, $"<line x1=\"{x - 6:0.#}\" x2=\"{x + RampWidth + 6:0.#}\" y1=\"{Y(value):0.#}\" ");
            svg.Append(CultureInfo.InvariantCulture, $"y2=\"{Y(value):0.#}\" stroke=\"{Ink}\" stroke-width=\"{sign}\"/>");
            svg.Append(Text(x + RampWidth + 10, Y(value) + 6, Number(value, scale), "start"));
        }

        if (scale is { Lower: < 0, Upper: > 0 })
        {
            svg.Append(Text(x + RampWidth + 10, Y(0) + 6, "0", "start"));
        }

        return svg.Append(Text(x + RampWidth, top - 12, unit, "end")).ToString();
    }

    /// <summary>What the ramp of a figure shows: its range and a quarter of it to both sides.</summary>
    public static (double Low, double High) Range(ColourScale scale)
    {
        var more = 0.25 * (scale.Upper - scale.Lower);
        return (scale.Lower - more, scale.Upper + more);
    }

    /// <summary>How much of the surface has each value; what lies farther out counts at the ends.</summary>
    public static double[] Histogram(ColourScale scale, IReadOnlyList<double> values, IReadOnlyList<double> areas, int bins = 60)
    {
        var (low, high) = Range(scale);
        var found = new double[bins];
        for (var i = 0; i < values.Count; i++)
        {
            if (double.IsFinite(values[i]))
            {
                found[Math.Clamp((int)(bins * (values[i] - low) / (high - low)), 0, bins - 1)] += areas[i];
            }
        }

        return found;
    }

    private static string Number(double value, ColourScale scale) =>
        scale.Lower < 0 ? Wording.Signed(value, 3) : Wording.Number(value, 3);

    private static string Text(double x, double y, string text, string anchor) => FormattableString.Invariant(
        $"<text x=\"{x:0.#}\" y=\"{y:0.#}\" font-family=\"Mono\" font-size=\"17\" text-anchor=\"{anchor}\" fill=\"{Ink}\">")
        + System.Net.WebUtility.HtmlEncode(text) + "</text>";
}
