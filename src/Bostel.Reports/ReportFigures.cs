using Bostel.Core.Features;
using Bostel.Core.Figures;
using Bostel.Core.Plans;

namespace Bostel.Reports;

/// <summary>
/// Draws the figures of a report: the same picture in the browser's preview, in an issued report and from the command line.
/// </summary>
public static class ReportFigures
{
    public const int Width = 1200;
    public const int Height = 750;

    /// <summary>A figure of an aligned scan, with its labels read there.</summary>
    public static ReportFigure Draw(FigurePlan figure, AlignedScan scan, InspectionRunner runner)
    {
        var rgb = FigureRenderer.Render(figure, scan.Mesh, scan.Transform, scan.Deviations.Values, runner.Nominal, Width, Height);
        return new(figure, runner.ReadLabels(scan, figure.Labels), PngWriter.Encode(rgb, Width, Height), Width, Height);
    }
}
