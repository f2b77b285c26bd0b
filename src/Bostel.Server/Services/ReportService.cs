using System.Text;
using Bostel.Core;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Data.Register;
using Bostel.Reports;
using Bostel.Reports.Viewer;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>Draws figures, issues reports and withdraws them. An issued report's files and hashes never change again.</summary>
public sealed class ReportService(BostelContext context, StationService stations, PdfWriter pdf, DraftReports drafts,
    PublicAddress address, RegisterSigner signer)
{
    private const int MostWhy = 1000;

    /// <summary>
    /// Issues a report of today's outcomes. The number is drawn, the files are stored and the report entered in one transaction: what fails
    /// or is cancelled leaves no gap in the numbers and no file behind.
    /// </summary>
    /// <exception cref="BadInputException">Something is out of date.</exception>
    /// <exception cref="ConflictException">The same was issued already, or something changed meanwhile.</exception>
    public async Task<Report> IssueAsync(Workpiece w, Guid? job, string who, IProgress<RunProgress> progress,
        Func<Task<bool>>? stillMine = null, CancellationToken cancel = default)
    {
        var run = await RequireReadyAsync(w, cancel);
        progress.Report(new(0.1, "Drawing the figures"));
        pdf.Warm();
        var drawn = await DrawnAsync(w, run, new Drawing(progress), cancel);
        var (scan, _, _) = await stations.AlignedAsync(w.Keys.Map, cancel);
        var map = await Task.Run(() => ViewerData.Of(scan, w.Plan), cancel);
        progress.Report(new(0.65, "Printing"));
        return await context.InTransactionAsync(async () =>
        {
            if (job is not null && await context.Reports.SingleOrDefaultAsync(r => r.JobId == job, cancel) is { } before)
            {
                return before;
            }

            // One report at a time: the row of the counter is held until the number is used.
            var next = (await context.Counters.FromSql($"""SELECT * FROM "Counters" WHERE "Name" = {Counter.Reports} FOR UPDATE""")
                .ToListAsync(cancel)).Single();
            var number = FormattableString.Invariant($"BR-{next.Next}");
            await context.Database.ExecuteSqlAsync($"""SELECT 1 FROM "Reports" WHERE "PieceId" = {w.Piece.Id} FOR UPDATE""", cancel);
            var earlier = await context.Reports.Where(r => r.PieceId == w.Piece.Id).OrderBy(r => r.IssuedAt).ToListAsync(cancel);
            string[] replaces = [.. earlier.Select(r => r.WithdrawnAt is null ? r.Number : $"{r.Number} (withdrawn)")];

            // Issued once more from the same it would be the same report, unless the first one was withdrawn.
            string[] withdrawn = [.. earlier.Where(r => r.WithdrawnAt is not null).Select(r => r.Number)];
            var header = Header(w, number, who, replaces) with { Address = address.Of(number) };
            var key = w.Keys.Report([.. drawn.Figures.Select(f => f.Figure)], w.Plan,
                new
                {
                    header.Part,
                    header.PartName,
                    header.Revision,
                    header.Piece,
                    header.NominalFile,
                    header.ScanFile,
                    Replaces = withdrawn
                });
            if (earlier.FirstOrDefault(r => r.Key == key) is { } same)
            {
                throw new ConflictException(
                    $"{same.Number} was issued from exactly this already: neither scan, nominal, plan nor figures have changed since.");
            }

            var model = drawn with { Header = header };
            var report = new Report
            {
                Id = Guid.NewGuid(),
                Number = number,
                PieceId = w.Piece.Id,
                RunId = run.Id,
                Key = key,
                JobId = job,
                PlanNumber = w.PlanNumber,
                Verdict = run.Verdict,
                IssuedBy = who,
                IssuedAt = header.Date,
                PdfSha = await BlobStore.AddAsync(context, await pdf.PdfAsync(model), cancel),
                CsvSha = await BlobStore.AddAsync(context, TableWriters.Csv(model), cancel),
                XlsxSha = await BlobStore.AddAsync(context, TableWriters.Xlsx(model), cancel),
                HtmlSha = await BlobStore.AddAsync(context, Encoding.UTF8.GetBytes(await PdfWriter.HtmlAsync(model, map)), cancel),
                NotePdfSha = await BlobStore.AddAsync(context, await pdf.NotePdfAsync(model), cancel),
                NoteSha = await BlobStore.AddAsync(context, Encoding.UTF8.GetBytes(ManufacturingNote.Of(model).Text()), cancel),
                QifSha = await BlobStore.AddAsync(context, QifWriter.Write(model), cancel),
                JsonSha = await BlobStore.AddAsync(context, TableWriters.ToJson(model), cancel),
                NeedsCountersignature = w.Plan.Layout.Countersigned,
            };
            next.Next++;
            context.Reports.Add(report);
            await RegisterChain.AppendAsync(context, signer, RegisterEvent.Issued, report, w.Piece, who, null, cancel);
            foreach (var old in earlier.Where(r => r is { WithdrawnAt: null, SupersededBy: null }))
            {
                old.SupersededBy = number;
                await RegisterChain.AppendAsync(context, signer, RegisterEvent.Superseded, old, w.Piece, who, number, cancel);
            }

            await DeliveryService.QueueAsync(context, report, w.Plan.Layout.Copies ?? [], cancel);
            context.Record(who, "issued a report", w.Subject, $"{number}, PDF SHA-256 {report.PdfSha}");
            await RequireUnchangedAsync(w, stillMine, cancel);
            return report;
        }, cancel);
    }

    /// <summary>What would be issued now, as HTML; what was drawn for it once serves every layout.</summary>
    /// <exception cref="BadInputException">Something is out of date.</exception>
    public async Task<string> DraftAsync(Workpiece w, string who, CancellationToken cancel)
    {
        var run = await RequireInDateAsync(w, cancel);
        var drawn = await drafts.GetAsync(
            w.Keys.Report(
                w.Plan.Figures, w.Plan with { Report = null },
                new { w.Piece.Id, names = w.Plan.FeatureIds.Select(w.Plan.NameOf) }),
            () => DrawnAsync(w with { Plan = w.Plan with { Report = Everything } }, run, null, cancel), cancel);
        return await PdfWriter.HtmlAsync(drawn with { Plan = w.Plan, Header = Header(w, "draft", who, []) });
    }

    /// <summary>A layout for which everything is drawn that any other may show.</summary>
    private static readonly ReportPlan Everything = new() { Blocks = [new OverviewBlock(), new EvidenceBlock { NotProven = true }] };

    private static ReportHeader Header(Workpiece w, string number, string who, IReadOnlyList<string> replaces) => new(
        number, w.Piece.Part!.Number, w.Piece.Part.Name, w.Piece.Part.Revision, w.Piece.Serial, $"revision {w.PlanNumber}", who,
        DateTimeOffset.FromUnixTimeSeconds(DateTimeOffset.UtcNow.ToUnixTimeSeconds()),
        w.Nominal.FileName, w.Piece.FileName, w.Piece.Unit, replaces);

    private async Task<ReportModel> DrawnAsync(Workpiece w, Run run, IProgress<double>? progress, CancellationToken cancel)
    {
        var (scan, _, runner) = await stations.AlignedAsync(w.Keys.Map, cancel);
        var beside = await stations.BesideAsync(w, w.Plan.Compare.Maps, cancel);
        var prepared = await OutcomeAsync<PreparedOutcome>(w.Keys.Prepared, cancel);
        var shown = await ShownRecord.LoadAsync(context, w.Piece, w.Keys, cancel);
        var piece = new JudgedPiece(
            prepared.Record, await OutcomeAsync<AlignedOutcome>(w.Keys.Aligned, cancel), await stations.NamedAsync(w, cancel),
            await OutcomeAsync<ComparedOutcome>(w.Keys.Compared, cancel), scan, shown.FeaturesStale ? [] : shown.Features,
            [.. run.Characteristics.OrderBy(c => c.No).Select(CharacteristicRows.ResultOf)]);
        return await Task.Run(() => ReportMaker.Of(Header(w, "", "", []), w.Plan, piece, runner, beside, progress, cancel), cancel);
    }

    /// <exception cref="BadInputException">The reason is missing or too long.</exception>
    /// <exception cref="ConflictException">It is withdrawn already.</exception>
    public async Task<Report> WithdrawAsync(Guid id, string why, string who, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(why) || why.Length > MostWhy)
        {
            throw new BadInputException($"why: withdrawing a report needs a reason of at most {MostWhy} characters.");
        }

        return await context.InTransactionAsync(async () =>
        {
            var report = await HeldAsync(id, cancel);
            if (report.WithdrawnAt is not null)
            {
                throw new ConflictException($"{report.Number} was withdrawn already by {report.WithdrawnBy}.");
            }

            (report.WithdrawnAt, report.WithdrawnBy, report.WithdrawnWhy) = (DateTimeOffset.UtcNow, who, why.Trim());
            await RegisterChain.AppendAsync(
                context, signer, RegisterEvent.Withdrawn, report, report.Piece!, who, report.WithdrawnWhy, cancel);
            context.Record(who, "withdrew a report", $"{report.Piece!.Part!.Number} piece {report.Piece.Serial}",
                $"{report.Number}: {report.WithdrawnWhy}");
            return report;
        }, cancel);
    }

    /// <summary>A second person stands for a report.</summary>
    /// <exception cref="ConflictException">It was issued by the same person, is countersigned already, or holds no more.</exception>
    public async Task<Report> CountersignAsync(Guid id, string who, CancellationToken cancel) =>
        await context.InTransactionAsync(async () =>
        {
            var report = await HeldAsync(id, cancel);
            if (report.IssuedBy == who)
            {
                throw new ConflictException($"{report.Number} was issued by {who}: somebody else must countersign it.");
            }

            if (report.WithdrawnAt is not null || report.SupersededBy is not null || report.CountersignedAt is not null)
            {
                throw new ConflictException(report.CountersignedAt is not null
                    ? $"{report.Number} was countersigned already by {report.CountersignedBy}."
                    : $"{report.Number} holds no more.");
            }

            (report.CountersignedAt, report.CountersignedBy) = (DateTimeOffset.UtcNow, who);
            await RegisterChain.AppendAsync(context, signer, RegisterEvent.Countersigned, report, report.Piece!, who, null, cancel);
            await DeliveryService.QueueAsync(context, report, await CopiesOfAsync(report, cancel), cancel);
            context.Record(who, "countersigned a report", $"{report.Piece!.Part!.Number} piece {report.Piece.Serial}", report.Number);
            return report;
        }, cancel);

    /// <summary>The copies that the plan asked for under which a report was issued.</summary>
    private async Task<IReadOnlyList<CopyPlan>> CopiesOfAsync(Report report, CancellationToken cancel)
    {
        var revision = await context.PlanRevisions.AsNoTracking().SingleAsync(
            r => r.Number == report.PlanNumber && context.Plans.Any(p => p.Id == r.PlanId && p.PartId == report.Piece!.PartId), cancel);
        return InspectionPlan.Parse(revision.Body).Layout.Copies ?? [];
    }

    /// <summary>A report that nobody else changes until the transaction ends.</summary>
    private async Task<Report> HeldAsync(Guid id, CancellationToken cancel)
    {
        await context.Database.ExecuteSqlAsync($"""SELECT 1 FROM "Reports" WHERE "Id" = {id} FOR UPDATE""", cancel);
        return await context.Reports.Include(r => r.Piece).ThenInclude(p => p!.Part).SingleOrDefaultAsync(r => r.Id == id, cancel)
            ?? throw new NotFoundException("There is no such report.");
    }

    /// <summary>Enters reports that were issued before the register was chained.</summary>
    public Task EnterEarlierAsync(CancellationToken cancel) => context.InTransactionAsync(async () =>
    {
        await RegisterChain.LockAsync(context, cancel);
        var entered = await context.RegisterEntries.Select(e => e.Report).ToListAsync(cancel);
        foreach (var report in await context.Reports.Include(r => r.Piece).ThenInclude(p => p!.Part)
            .Where(r => !entered.Contains(r.Number)).OrderBy(r => r.IssuedAt).ToListAsync(cancel))
        {
            await RegisterChain.AppendAsync(context, signer, RegisterEvent.Issued, report, report.Piece!, report.IssuedBy, null, cancel);
            if (report.WithdrawnAt is not null)
            {
                await RegisterChain.AppendAsync(context, signer, RegisterEvent.Withdrawn, report, report.Piece!, report.WithdrawnBy!,
                    report.WithdrawnWhy, cancel);
            }
        }
    }, cancel);

    /// <summary>The run that would be issued.</summary>
    /// <exception cref="BadInputException">Something is out of date.</exception>
    /// <exception cref="ConflictException">The plan is not released.</exception>
    public async Task<Run> RequireReadyAsync(Workpiece w, CancellationToken cancel)
    {
        var run = await RequireInDateAsync(w, cancel);
        if (!await PlanService.IsReleasedAsync(context, w.Piece.PartId, cancel))
        {
            throw new ConflictException(
                $"Plan {w.PlanNumber} of {w.Piece.Part!.Number} is not released: an approver must release it before "
                    + "its pieces are issued.");
        }

        return run;
    }

    private async Task<Run> RequireInDateAsync(Workpiece w, CancellationToken cancel)
    {
        var keys = w.Keys;
        var run = await context.Runs.AsNoTracking().Include(r => r.Characteristics)
            .SingleOrDefaultAsync(r => r.PieceId == w.Piece.Id && r.Key == keys.Evaluated, cancel);
        var needed = new[] { keys.Prepared, keys.Aligned, keys.Map, keys.Compared }.Distinct().ToArray();
        if (run is null || await context.Outcomes.CountAsync(o => needed.Contains(o.Key), cancel) < needed.Length)
        {
            throw new BadInputException(w.Piece.RunId is null
                ? $"Piece {w.Piece.Serial} is not evaluated yet; there is nothing to issue."
                : $"Piece {w.Piece.Serial} is out of date: the plan (now revision {w.PlanNumber}), the nominal or the scan changed since "
                    + "it was evaluated. Run the plan again before issuing.");
        }

        return run;
    }

    /// <summary>Nothing of what the report rests on changed while it was made, and nothing can until it is entered.</summary>
    private async Task RequireUnchangedAsync(Workpiece w, Func<Task<bool>>? stillMine, CancellationToken cancel)
    {
        await Transactions.RequireAsync(stillMine);
        await context.Database.ExecuteSqlAsync($"""SELECT 1 FROM "Plans" WHERE "PartId" = {w.Piece.PartId} FOR SHARE""", cancel);
        await context.Database.ExecuteSqlAsync($"""SELECT 1 FROM "Parts" WHERE "Id" = {w.Piece.PartId} FOR SHARE""", cancel);
        await context.Database.ExecuteSqlAsync($"""SELECT 1 FROM "Pieces" WHERE "Id" = {w.Piece.Id} FOR SHARE""", cancel);
        var now = await stations.OpenAsync(w.Piece.Id, cancel);
        if (now.Keys.Evaluated != w.Keys.Evaluated || now.Keys.Compared != w.Keys.Compared || now.PlanNumber != w.PlanNumber
            || now.Nominal.Id != w.Nominal.Id)
        {
            throw new ConflictException($"Something of piece {w.Piece.Serial} was changed while its report was made; it was not issued.");
        }
    }

    private async Task<T> OutcomeAsync<T>(string key, CancellationToken cancel) =>
        StoredJson.Read<T>(await context.Outcomes.Where(o => o.Key == key).Select(o => o.Body).SingleAsync(cancel));

    /// <summary>Drawing the figures goes from a tenth of the work to six tenths.</summary>
    private sealed class Drawing(IProgress<RunProgress> whole) : IProgress<double>
    {
        public void Report(double value) => whole.Report(new(0.1 + (0.5 * value), "Drawing the figures"));
    }
}
