using Bostel.Core.Plans;

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
        var blocks = plan.Layout.Printed;
        var maps = runner.Maps(piece.Map, beside, plan, cancel);
        PieceExplanation? explained = null;
        IReadOnlyList<OverviewFigure> overview = [];
        IReadOnlyList<EvidenceFigure> evidence = [];
        IReadOnlyList<ReportFigure> figures = [];
        IReadOnlyList<ReportSection> sections = [];

        // What one does not need of another is made side by side; whoever waits works meanwhile.
        Parallel.Invoke(
            new ParallelOptions { CancellationToken = cancel },
            () => figures = ReportFigures.All(plan, piece.Map, runner, maps, progress, cancel),
            () => explained = runner.Explained(piece.Map, plan),
            () => overview = blocks.OfType<OverviewBlock>().Any() ? OverviewFigures.Of(plan, piece.Map, runner, piece.Rows) : [],
            () => evidence = EvidenceFigures.Of(
                blocks.OfType<EvidenceBlock>().FirstOrDefault(), plan, piece.Map, runner, piece.Rows),
            () => sections = ReportFigures.Cut(plan, piece.Map, runner));
        var areas = runner.Areas(piece.Map, plan.Compare.Lower, plan.Compare.Upper);
        return new(
            header, plan, piece.Preparation, piece.Aligned, piece.Named, piece.Compared, piece.Rows, figures, sections,
            [.. maps.Select(ReportMap.Of)], areas, explained)
        {
            Drawn = AsDrawn.Of(runner.Nominal, plan),
            Features = [.. piece.Features.Select(f => f with { Plan = f.Plan with { Name = plan.NameOf(f.Plan.Id) } })],
            Overview = overview,
            Evidence = evidence,
            Worst = EvidenceFigures.Worst(plan, piece.Map, runner, piece.Rows, evidence),
        };
    }
}
