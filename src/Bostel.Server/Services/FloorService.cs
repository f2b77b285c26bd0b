using Bostel.Core.Figures;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Server.Endpoints;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>Which pieces a list of the floor shows.</summary>
public enum PieceList
{
    All,

    /// <summary>Not judged yet.</summary>
    Waiting,

    Judged,

    /// <summary>Judged, and the report not issued.</summary>
    Draft,

    /// <summary>Cannot be read, or judged other than conforming without a report.</summary>
    Look,
}

/// <summary>What the floor shows: parts with their last verdicts, and pieces in pages.</summary>
public sealed class FloorService(BostelContext context, PlanService plans, MeshCache cache, StationService stations)
{
    /// <summary>Pieces in one answer.</summary>
    public const int Page = 40;

    /// <summary>Verdicts a part shows in a row.</summary>
    private const int Recent = 16;

    private const int PictureWidth = 176;
    private const int PictureHeight = 132;

    public async Task<FloorView> FloorAsync(CancellationToken cancel)
    {
        var parts = await context.Parts.AsNoTracking().OrderBy(p => p.Number).Select(p => new
        {
            Part = p,
            Recent = context.Pieces.Where(x => x.PartId == p.Id && x.Run != null).OrderByDescending(x => x.CreatedAt).Take(Recent)
                .Select(x => new RecentVerdict(x.Serial, x.Id, x.Run!.Verdict)).ToList(),
        }).ToListAsync(cancel);
        var heads = await HeadsAsync(cancel);
        var counts = (await context.Pieces.AsNoTracking()
            .GroupBy(p => new { p.PartId, Verdict = p.Run == null ? null : (Verdict?)p.Run.Verdict })
            .Select(g => new { g.Key.PartId, g.Key.Verdict, Count = g.Count() }).ToListAsync(cancel)).ToLookup(c => c.PartId);
        int Count(Guid part, params Verdict?[] verdicts) => counts[part].Where(c => verdicts.Contains(c.Verdict)).Sum(c => c.Count);
        return new([.. parts.Select(r => new PartSummary(
            r.Part.Id, r.Part.Number, r.Part.Name, r.Part.Revision, r.Part.NominalId, Count(r.Part.Id, (Verdict?)null),
            Count(r.Part.Id, Verdict.Conforming), Count(r.Part.Id, Verdict.NonConforming),
            Count(r.Part.Id, Verdict.NotProven, Verdict.NotMeasured), heads[r.Part.Id].Number,
            plans.Parsed(heads[r.Part.Id]).Characteristics.Count, [.. Enumerable.Reverse(r.Recent)]))]);
    }

    /// <summary>One page of pieces, the newest first.</summary>
    /// <param name="search">In the serial number or the part's number; null: all.</param>
    public async Task<PiecePage> PiecesAsync(PieceList list, string? search, Guid? part, int skip, CancellationToken cancel)
    {
        var found = context.Pieces.AsNoTracking().Where(p => part == null || p.PartId == part);
        foreach (var pattern in WordSearch.Patterns(search))
        {
            found = found.Where(p => EF.Functions.ILike(p.Serial, pattern, WordSearch.Escape)
                || EF.Functions.ILike(p.Part!.Number, pattern, WordSearch.Escape));
        }

        var unissued = found.Where(p => p.RunId != null && !context.Reports.Any(r => r.RunId == p.RunId && r.WithdrawnAt == null));
        found = list switch
        {
            PieceList.Waiting => found.Where(p => p.RunId == null),
            PieceList.Judged => found.Where(p => p.RunId != null),
            PieceList.Draft => unissued,
            PieceList.Look => found.Where(
                p => p.Problem != null || unissued.Any(u => u.Id == p.Id && u.Run!.Verdict != Verdict.Conforming)),
            _ => found,
        };
        var total = await found.CountAsync(cancel);
        var page = await found.Include(p => p.Run).Include(p => p.Part).ThenInclude(p => p!.Nominal).OrderByDescending(p => p.CreatedAt)
            .ThenBy(p => p.Id).Skip(skip).Take(Page).ToListAsync(cancel);
        var ids = page.Select(p => p.Id).ToList();
        var reports = (await context.Reports.AsNoTracking().Where(r => r.WithdrawnAt == null && ids.Contains(r.PieceId))
            .OrderBy(r => r.IssuedAt).Select(r => new { r.PieceId, r.RunId, r.Number }).ToListAsync(cancel))
            .GroupBy(r => r.PieceId).ToDictionary(g => g.Key, g => g.Last());
        var work = (await context.Jobs.AsNoTracking().Where(j => ids.Contains(j.SubjectId)
            && (j.State == JobState.Queued || j.State == JobState.Running)).ToListAsync(cancel)).ToDictionary(j => j.SubjectId);
        var heads = await HeadsAsync(cancel);
        bool InDate(Piece p) => p.Part!.Nominal is { } nominal && p.Run!.Key == cache.Small(
            $"evaluated/{Workpiece.SourceOf(p)}/{nominal.Id}/{heads[p.PartId].Id}",
            () => OutcomeKeys.Of(Workpiece.SourceOf(p), Workpiece.SourceOf(nominal), plans.Parsed(heads[p.PartId])).Evaluated);
        PieceState StateOf(Piece p) => p.Run is null ? PieceState.Waiting : !InDate(p) ? PieceState.OutOfDate
            : reports.TryGetValue(p.Id, out var report) && report.RunId == p.RunId ? PieceState.Issued : PieceState.Evaluated;
        return new(total, [.. page.Select(p => new PieceSummary(
            p.Id, p.PartId, p.Part!.Number, p.Serial, StateOf(p), p.Run?.Verdict, p.Vertices, p.Triangles, p.CreatedAt, p.Problem,
            reports.GetValueOrDefault(p.Id)?.Number, p.Run?.PlanNumber, p.Run?.Key,
            work.TryGetValue(p.Id, out var job) ? Views.Of(job) : null))]);
    }

    /// <summary>A small picture of a part as its nominal is, PNG.</summary>
    public async Task<byte[]> PictureOfNominalAsync(Guid nominalId, CancellationToken cancel)
    {
        var sha = await context.Nominals.Where(n => n.Id == nominalId).Select(n => n.ModelSha).SingleOrDefaultAsync(cancel)
            ?? throw new NotFoundException("There is no such nominal.");
        return await cache.PictureAsync(sha, async () =>
        {
            var model = (await cache.RunnerAsync(sha, cancel)).Nominal;
            return Drawn(FigurePlan.Overview(model, -1, 1), new(), model.Mesh, RigidTransform.Identity, null, model);
        }, cancel);
    }

    /// <summary>A small picture of a compared piece in its colours, PNG.</summary>
    public async Task<byte[]> PictureOfPieceAsync(Guid pieceId, CancellationToken cancel)
    {
        var w = await stations.OpenAsync(pieceId, cancel);
        var key = await stations.MapKeyAsync(w, cancel);
        var (lower, upper, ramp) = (w.Plan.Compare.Lower, w.Plan.Compare.Upper, w.Plan.Compare.Ramp);
        return await cache.PictureAsync($"{key}/{lower}/{upper}/{ramp}", async () =>
        {
            var (scan, _, runner) = await stations.AlignedAsync(key, cancel);
            var figure = FigurePlan.Overview(runner.Nominal, lower, upper);
            return Drawn(figure, ramp, scan.Mesh, scan.Transform, scan.Deviations.Values, runner.Nominal);
        }, cancel);
    }

    /// <summary>
    /// A small picture of a piece in another pose that fits it, coloured by how its deviations differ from those in the pose taken, PNG.
    /// </summary>
    /// <exception cref="NotFoundException">There is no such pose.</exception>
    public async Task<byte[]> PictureOfAlternativeAsync(Guid pieceId, int index, CancellationToken cancel)
    {
        var w = await stations.OpenAsync(pieceId, cancel);
        var (aligned, scan, runner) = await stations.ShownAlignmentAsync(w, cancel);
        var result = aligned.Outcome.Result;
        if (index < 0 || index >= result.Alternatives.Count)
        {
            throw new NotFoundException("There is no such pose of this piece.");
        }

        var pose = result.Alternatives[index].Transform;
        var (lower, upper, ramp) = (w.Plan.Compare.Lower, w.Plan.Compare.Upper, w.Plan.Compare.Ramp);
        return await cache.PictureAsync($"{aligned.Key}/{index}/{lower}/{upper}/{ramp}", () => Task.Run(() =>
        {
            var taken = runner.Compare(scan, result.Transform, w.Plan, null, cancel).Values;
            var other = runner.Compare(scan, pose, w.Plan, null, cancel).Values;
            double[] differ = [.. other.Zip(taken, (o, t) => o - t)];
            return Drawn(FigurePlan.Overview(runner.Nominal, lower, upper), ramp, scan.Mesh, pose, differ, runner.Nominal);
        }, cancel), cancel);
    }

    private static byte[] Drawn(
        FigurePlan figure, RampPlan ramp, TriangleMesh mesh, RigidTransform pose, double[]? deviations, NominalModel nominal) =>
        PngWriter.Encode(
            FigureRenderer.Render(
                figure, mesh, pose, deviations, new(figure.Lower, figure.Upper, ramp), nominal, PictureWidth, PictureHeight),
            PictureWidth, PictureHeight);

    private async Task<Dictionary<Guid, PlanRevision>> HeadsAsync(CancellationToken cancel) =>
        (await context.PlanRevisions.AsNoTracking()
            .Join(context.Plans, r => r.PlanId, p => p.Id, (r, p) => new { Revision = r, p.Head, p.PartId })
            .Where(r => r.Revision.Number == r.Head).ToListAsync(cancel)).ToDictionary(r => r.PartId, r => r.Revision);
}
