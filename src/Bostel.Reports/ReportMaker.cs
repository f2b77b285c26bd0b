using Bostel.Core.Features;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>
/// Draws everything that a report shows of a judged piece: the same for the browser's draft, when issued, by the command line.
/// </summary>
public static class ReportMaker
{
    /// <param name="progress">Of the figures, from 0 to 1.</param>
    public static ReportModel Of(
        ReportHeader header, InspectionPlan plan, JudgedPiece piece, InspectionRunner runner, BesideScan beside,
        IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        // What one does not need of another is made side by side.
        var explained = Task.Run(() => runner.Explained(piece.Map, plan), cancel);
        var blocks = plan.Layout.Printed;
        var overview = Task.Run(() => blocks.OfType<OverviewBlock>().Any()
            ? OverviewFigures.Of(plan, piece.Map, runner, piece.Rows)
            : [], cancel);
        var evidence = Task.Run(() => EvidenceFigures.Of(
            blocks.OfType<EvidenceBlock>().FirstOrDefault(), plan, piece.Map, runner, piece.Rows), cancel);
        var sections = Task.Run(() => ReportFigures.Cut(plan, piece.Map, runner), cancel);
        var maps = runner.Maps(piece.Map, beside, plan, cancel);
        var figures = ReportFigures.All(plan, piece.Map, runner, maps, progress, cancel);
        var areas = runner.Areas(piece.Map, plan.Compare.Lower, plan.Compare.Upper);
        return new(
            header, plan, piece.Preparation, piece.Aligned, piece.Named, piece.Compared, piece.Rows, figures,
            sections.GetAwaiter().GetResult(), maps, areas, explained.GetAwaiter().GetResult())
        {
            Drawn = AsDrawn.Of(runner.Nominal, plan),
            Overview = overview.GetAwaiter().GetResult(),
            Evidence = evidence.GetAwaiter().GetResult(),
        };
    }
}
