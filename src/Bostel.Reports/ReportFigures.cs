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

    /// <summary>A figure takes 165 mm of a page: printed in so many times as many pixels it has 300 to the inch.</summary>
    public const double Print = 1.64;

    /// <summary>
    /// The figures of a report in order: those that the plan keeps, or the whole part from one side; then the same of every map that none
    /// of them shows. A map that could not be made has none.
    /// </summary>
    /// <param name="maps">Of the plan, made of this scan.</param>
    public static IReadOnlyList<ReportFigure> All(
        InspectionPlan plan, AlignedScan scan, InspectionRunner runner, IReadOnlyList<MadeMap> maps, IProgress<double>? progress = null,
        CancellationToken cancel = default)
    {
        var overview = FigurePlan.Overview(runner.Nominal, plan.Compare.Lower, plan.Compare.Upper);
        List<FigurePlan> figures =
        [
            .. plan.Figures.Count > 0 ? plan.Figures : [overview],
            .. maps.Where(m => plan.Figures.All(f => f.Map != m.Plan.Name))
                .Select(m => overview with { Map = m.Plan.Name, Caption = "Whole part." }),
        ];
        figures.RemoveAll(f => f.Map is not null && maps.First(m => m.Plan.Name == f.Map).Map is null);
        var (drawn, done) = (new ReportFigure[figures.Count], 0);
        Parallel.For(0, figures.Count, new() { CancellationToken = cancel }, i =>
        {
            drawn[i] = Draw(figures[i], plan, scan, runner, maps.FirstOrDefault(m => m.Plan.Name == figures[i].Map)?.Map, Print);
            progress?.Report((double)Interlocked.Increment(ref done) / figures.Count);
        });
        return drawn;
    }

    /// <summary>A figure of an aligned scan, with its labels read there.</summary>
    /// <param name="map">What it shows; null: the deviation.</param>
    /// <param name="dots">Pixels of the picture in one of the page that labels are laid out on.</param>
    public static ReportFigure Draw(
        FigurePlan figure, InspectionPlan plan, AlignedScan scan, InspectionRunner runner, PieceMap? map, double dots = 1)
    {
        var scale = map?.Scale(plan.Compare.Ramp) ?? new ColourScale(figure.Lower, figure.Upper, plan.Compare.Ramp);
        var (mesh, pose) = map is null ? (scan.Mesh, scan.Transform) : (map.Mesh, map.Transform);
        var values = map?.Values ?? scan.Deviations.Values;
        var (wide, high) = ((int)(dots * Width), (int)(dots * Height));
        var rgb = FigureRenderer.Render(figure, mesh, pose, values, scale, runner.Nominal, wide, high);
        var histogram = figure.ShowDeviation
            ? FigureFrame.Histogram(scale, values, map?.Areas ?? InspectionRunner.WeightsOf(scan.Mesh))
            : [];
        var labels = map is null ? runner.ReadLabels(scan, figure.Labels) : runner.ReadLabels(map, figure.Labels);
        return new(
            figure, labels, PngWriter.Encode(rgb, wide, high), Width, Height, scale, runner.Nominal.Mesh.Bounds, map?.Plan, histogram);
    }

    /// <summary>All sections of a plan, cut on an aligned scan.</summary>
    public static IReadOnlyList<ReportSection> Cut(InspectionPlan plan, AlignedScan scan, InspectionRunner runner) =>
        [.. plan.Compare.Sections.Select(s => (Plan: s, Sheet: runner.Section(s, scan, plan)))
            .Select(s => new ReportSection(s.Plan, s.Sheet, SectionMark.Of(plan, s.Plan, s.Sheet)))];
}
