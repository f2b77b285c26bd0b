using System.Globalization;
using System.Text;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>
/// A value in its tolerance as a bar, as the ledger draws it (web/src/ledger/zone.ts): the zone, the guard bands shaded, the value as a dot
/// with its uncertainty.
/// </summary>
public static class ZoneDrawing
{
    private const double Width = 120, Height = 14, Side = 3;

    /// <param name="guardFactor">Width of the guard bands over U.</param>
    /// <returns>SVG; nothing where there is no value or no upper limit.</returns>
    public static string Svg(CharacteristicResult row, double guardFactor)
    {
        if (row.Measured is not { } value || row.UpperLimit is not { } high)
        {
            return "";
        }

        var low = row.LowerLimit ?? 0;
        var zone = Math.Max(high - low, 1e-9);
        double X(double v) => Side + ((Width - (2 * Side))
            * Math.Clamp(row.LowerLimit is null ? 0.7 * (v - low) / zone : 0.2 + (0.6 * (v - low) / zone), 0, 1));
        var u = row.Uncertainty ?? 0;
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"zone\" viewBox=\"0 0 {Width} {Height}\" aria-hidden=\"true\">");
        Bar(low, high, "#EBEEF6", "#B9BED0");
        Bar(Math.Max(low, high - (guardFactor * u)), high, "#D9C9A3", "none");
        if (row.LowerLimit is not null)
        {
            Bar(low, Math.Min(high, low + (guardFactor * u)), "#D9C9A3", "none");
        }

        svg.Append(CultureInfo.InvariantCulture,
            $"<line x1=\"{X(value - u):0.#}\" x2=\"{X(value + u):0.#}\" y1=\"7\" y2=\"7\" stroke=\"#1E2A32\" stroke-width=\"1.2\"/>");
        return svg.Append(CultureInfo.InvariantCulture, $"<circle cx=\"{X(value):0.#}\" cy=\"7\" r=\"3\" fill=\"")
            .Append(row.Verdict == Verdict.NonConforming ? "#A3292F" : "#1E2A32").Append("\"/></svg>").ToString();

        void Bar(double from, double to, string fill, string stroke) => svg.Append(CultureInfo.InvariantCulture,
            $"<rect x=\"{X(from):0.#}\" y=\"3.5\" width=\"{Math.Max(0, X(to) - X(from)):0.#}\" height=\"7\" fill=\"{fill}\" ")
            .Append(CultureInfo.InvariantCulture, $"stroke=\"{stroke}\"/>");
    }
}
