using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Figures;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Data;
using Bostel.Reports;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>Draws figures and issues reports. An issued report's files, hashes and run never change again.</summary>
public sealed class ReportService(BostelContext context, StationService stations, BlobStore blobs, PdfWriter pdf)
{
    public const int FigureWidth = 1200;
    public const int FigureHeight = 750;

    public async Task<byte[]> DrawAsync(Workpiece w, FigureState state, CancellationToken cancel)
    {
        var (scan, _) = await stations.AlignedAsync(w, cancel);
        var rgb = FigureRenderer.Render(state, scan.Mesh, scan.Transform, scan.Deviations.Values, w.Runner.Nominal, FigureWidth, FigureHeight);
        return PngWriter.Encode(rgb, FigureWidth, FigureHeight);
    }

    /// <exception cref="BadInputException">Nothing to issue, or the outcome is out of date.</exception>
    public async Task<Report> IssueAsync(Workpiece w, string who, IProgress<RunProgress> progress, CancellationToken cancel)
    {
        var run = w.Piece.Run;
        if (run is not { Verdict: not null, Alignment: not null, Preparation: not null, Statistics: not null })
        {
            throw new BadInputException($"Piece {w.Piece.Serial} is not evaluated yet; there is nothing to issue.");
        }

        if (StationService.Stale(w))
        {
            throw new BadInputException($"Piece {w.Piece.Serial} was evaluated by plan revision {run.PlanNumber} in {run.Unit}; the plan is now at {w.PlanNumber}. Run the plan again before issuing.");
        }

        progress.Report(new(0.1, "Drawing the figures"));
        var states = await context.Figures.Where(f => f.PieceId == w.Piece.Id).OrderBy(f => f.Order).Select(f => f.State).ToListAsync(cancel);
        var plan = InspectionPlan.Parse(run.PlanBody);
        var figures = states.Count == 0
            ? [FigureState.Overview(w.Runner.Nominal, plan.Compare.Lower, plan.Compare.Upper)]
            : states.Select(s => JsonSerializer.Deserialize<FigureState>(s, StationService.Json)!).ToList();
        var drawn = new List<ReportFigure>();
        foreach (var state in figures)
        {
            drawn.Add(new(state, await DrawAsync(w, state, cancel), FigureWidth, FigureHeight));
            progress.Report(new(0.1 + (0.5 * drawn.Count / figures.Count), "Drawing the figures"));
        }

        var sequence = (await context.Database.SqlQuery<long>($"SELECT nextval('report_number') AS \"Value\"").ToListAsync(cancel)).Single();
        var number = FormattableString.Invariant($"BR-{sequence}");
        var now = DateTimeOffset.UtcNow;
        var model = new ReportModel(
            new(number, w.Piece.Part!.Number, w.Piece.Part.Name, w.Piece.Part.Revision, w.Piece.Serial, $"revision {run.PlanNumber}", who, now, w.Nominal.FileName, w.Piece.FileName, run.Unit),
            plan, JsonSerializer.Deserialize<PreparationRecord>(run.Preparation, StationService.Json)!, JsonSerializer.Deserialize<AlignmentResult>(run.Alignment, StationService.Json)!,
            JsonSerializer.Deserialize<DeviationStatistics>(run.Statistics, StationService.Json)!, await RowsAsync(run.Id, cancel), drawn);
        progress.Report(new(0.65, "Printing"));
        var report = new Report
        {
            Id = Guid.NewGuid(),
            Number = number,
            PieceId = w.Piece.Id,
            RunId = run.Id,
            PlanNumber = run.PlanNumber,
            Verdict = run.Verdict.Value,
            IssuedBy = who,
            IssuedAt = now,
            PdfSha = await blobs.SaveAsync(await pdf.PdfAsync(model), cancel),
            CsvSha = await blobs.SaveAsync(TableWriters.Csv(model), cancel),
            XlsxSha = await blobs.SaveAsync(TableWriters.Xlsx(model), cancel),
        };
        run.Frozen = true;
        context.Reports.Add(report);
        context.Record(who, "issued a report", $"{w.Piece.Part.Number} piece {w.Piece.Serial}", $"{number}, PDF SHA-256 {report.PdfSha}");
        await context.SaveChangesAsync(cancel);
        return report;
    }

    private async Task<List<Core.Tolerancing.CharacteristicResult>> RowsAsync(Guid run, CancellationToken cancel) =>
        [.. (await context.Characteristics.AsNoTracking().Where(c => c.RunId == run).OrderBy(c => c.No).ToListAsync(cancel)).Select(StationService.ResultOf)];
}
