using System.Runtime.InteropServices;
using System.Security.Claims;
using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Features;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Reports;
using Bostel.Server.Jobs;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

public static class PieceEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/pieces", CreateAsync).WithName("createPiece").Needs(Role.Inspector);
        api.MapGet("/pieces/{id:guid}", GetAsync).WithName("piece").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/jobs", StartAsync).WithName("startJob").Needs(Role.Inspector);
        api.MapGet("/pieces/{id:guid}/deviation",
            async (Guid id, string key, StationService stations, HttpContext http, CancellationToken cancel) =>
        {
            var (scan, _, _) = await stations.AlignedAsync(key, cancel);
            http.Response.Headers.CacheControl = StageCaching;
            return Floats(scan.Deviations.Values);
        }).WithName("deviation").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/transform",
            async (Guid id, string? alignment, StationService stations, BostelContext context, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            _ = w.Plan.AlignOf(alignment);
            var shown = await ShownRecord.LoadAsync(context, w.Piece, w.Keys, cancel);
            var aligned = (alignment is null ? shown.Aligned?.Outcome : shown.Named.First(n => n.Name == alignment).Aligned)
                ?? throw new BadInputException($"Piece {w.Piece.Serial} is not aligned yet.");
            return TypedResults.File(
                JsonSerializer.SerializeToUtf8Bytes(
                    new { transform = aligned.Result.Transform.ToArray(), method = aligned.How.Words }), "application/json",
                $"{w.Piece.Part!.Number}-{w.Piece.Serial}.transform.json");
        }).WithName("transform").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/alignments", async (Guid id, StationService stations, CancellationToken cancel) =>
            (await stations.NamedAsync(await stations.OpenAsync(id, cancel), cancel))
                .Select(n => new AlignmentChangeView(n.Name, n.Change)).ToList()).WithName("alignments").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/align/try",
            async (Guid id, AlignTry trial, StationService stations, CancellationToken cancel) =>
        {
            var (tried, changed) = await stations.TryAlignAsync(
                await stations.OpenAsync(id, cancel), trial.Alignment, trial.Align, trial.Verdicts, cancel);
            return PieceViews.Of(tried, changed);
        }).WithName("tryAlign").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/measure",
            async (Guid id, MeasureRequest request, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var alignment = request.Feature?.Alignment ?? request.Construction?.Alignment;
            var (scan, runner) = await stations.MeasurableAsync(w, alignment, cancel);
            var result = await Task.Run(() => (request.Feature, request.Construction) switch
            {
                ({ } feature, null) => runner.Measure(feature, scan),
                (null, { } construction) => runner.Construct(construction, w.Plan.Under(alignment), scan),
                _ => throw new BadInputException("feature, construction: exactly one of them is needed."),
            }, cancel);
            return new MeasuredView(
                MeasuredFeature.Of(result), result.Residuals, StageEvidence.Of(result, runner.Nominal), ResidualMap.Of(result));
        }).WithName("measure").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/region", async (Guid id, RegionPick pick, StationService stations, CancellationToken cancel) =>
        {
            if (pick.At.Length != 3 || !pick.At.All(double.IsFinite))
            {
                throw new BadInputException("at: needs three numbers, mm.");
            }

            var w = await stations.OpenAsync(id, cancel);
            var (scan, _) = await stations.MeasurableAsync(w, null, cancel);
            return await Task.Run(() => RegionOffer.At(scan, Vector3D.FromArray(pick.At), w.Plan), cancel);
        }).WithName("region").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/evidence/{no:int}",
            async (Guid id, int no, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var alignment = w.Plan.Characteristics.FirstOrDefault(c => c.No == no)?.Alignment;
            var (scan, _, runner) = await stations.AlignedAsync(await stations.DeviationsKeyAsync(w, alignment, cancel), cancel);
            return await Task.Run(() => runner.Evidence(w.Plan.Under(alignment), no, scan), cancel);
        }).WithName("evidence").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/face-distance",
            async (Guid id, int first, int second, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var (scan, runner) = await stations.MeasurableAsync(w, w.Plan.Compare.Alignment, cancel);
            var reach = runner.SearchLimits(w.Plan).MaxDistance;
            return await Task.Run(() => FaceDistance.Between(first, second, scan, runner.Nominal, reach), cancel);
        }).WithName("faceDistance").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/other-ways/{no:int}",
            async (Guid id, int no, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            return new OtherWaysView(await stations.OtherWaysAsync(w, no, cancel));
        }).WithName("otherWays").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/readings",
            async (Guid id, ReadingsRequest request, StationService stations, CancellationToken cancel) =>
        {
            if (request.Labels.Count > ComparePlan.MostLabels)
            {
                throw new BadInputException($"labels: at most {ComparePlan.MostLabels} at once.");
            }

            var w = await stations.OpenAsync(id, cancel);
            var (scan, _, runner) = await stations.AlignedAsync(await stations.MapKeyAsync(w, cancel), cancel);
            var map = request.Map is { } asked ? await stations.MapAsync(w, asked, null, cancel) : null;
            return new ReadingsView(await Task.Run(
                () => map is null ? runner.ReadLabels(scan, request.Labels) : runner.ReadLabels(map, request.Labels), cancel));
        }).WithName("readings").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/map", async (Guid id, MapPlan map, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            return MapView.Of(await stations.MapAsync(w, map, null, cancel), w.Plan);
        }).WithName("map").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/map/values",
            async (Guid id, MapPlan map, StationService stations, EventHub events, HttpContext http, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            return Floats((await stations.MapAsync(w, map, TaskProgress.Of(http, events), cancel)).Values);
        }).WithName("mapValues").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/faces",
            async (Guid id, string key, StationService stations, HttpContext http, CancellationToken cancel) =>
        {
            var (scan, _, runner) = await stations.AlignedAsync(key, cancel);
            http.Response.Headers.CacheControl = StageCaching;
            int[] faces = [.. Enumerable.Range(0, scan.Mesh.VertexCount).Select(v => runner.FaceAt(scan, v))];
            return TypedResults.Bytes(MemoryMarshal.AsBytes(faces.AsSpan()).ToArray(), "application/octet-stream");
        }).WithName("facesOfVertices").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/areas", async (Guid id, AreasRequest request, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var (scan, _, runner) = await stations.AlignedAsync(await stations.MapKeyAsync(w, cancel), cancel);
            return new AreasView(await Task.Run(() => runner.Areas(scan, request.Lower, request.Upper, request.Smallest), cancel));
        }).WithName("areas").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/explanation", async (Guid id, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var (scan, _, runner) = await stations.AlignedAsync(await stations.MapKeyAsync(w, cancel), cancel);
            return ExplanationView.Of(
                await Task.Run(() => runner.Explain(scan, w.Plan), cancel), PieceExplanation.Names(w.Plan, runner.Nominal));
        }).WithName("explanation").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/section",
            async (Guid id, bool parts, SectionPlan section, StationService stations, CancellationToken cancel) =>
                await stations.SectionAsync(await stations.OpenAsync(id, cancel), section, parts, cancel))
            .WithName("cutSection").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/section/offers",
            async (Guid id, SectionPartsRequest request, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var (scan, _, runner) = await stations.AlignedAsync(await stations.MapKeyAsync(w, cancel), cancel);
            return new SectionOffersView(
                await Task.Run(() => SectionOffers.For(request.Section, request.Parts, scan, w.Plan, runner), cancel));
        }).WithName("sectionOffers").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/sections/{index:int}/file",
            async (Guid id, int index, SectionFormat format, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            if (index < 0 || index >= w.Plan.Compare.Sections.Count)
            {
                throw new NotFoundException("The plan has no such section.");
            }

            var section = w.Plan.Compare.Sections[index];
            var sheet = await stations.SectionAsync(w, section, parts: format is SectionFormat.Svg, cancel);
            var (name, type, bytes) = SectionFiles.Write(
                new(section, sheet, SectionMark.Of(w.Plan, section, sheet)), w.Plan.Compare, format);
            return TypedResults.File(bytes, type, Texts.FileName($"{w.Piece.Part!.Number}-{w.Piece.Serial}-{name}"));
        }).WithName("sectionFile").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/report/draft",
            async (Guid id, StationService stations, ReportService reports, HttpContext http, CancellationToken cancel) =>
            {
                var page = await reports.DraftAsync(await stations.OpenAsync(id, cancel), http.User.Name(), cancel);
                RequestGuards.AllowInOwnFrame(http.Response.Headers);
                return TypedResults.Text(page, "text/html; charset=utf-8");
            }).WithName("reportDraft").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/figures/{index:int}", async (Guid id, int index, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            if (index < 0 || index >= w.Plan.Figures.Count)
            {
                throw new NotFoundException("There is no such figure.");
            }

            var (scan, _, runner) = await stations.AlignedAsync(await stations.MapKeyAsync(w, cancel), cancel);
            var figure = w.Plan.Figures[index];
            var map = figure.Map is { } name
                ? await stations.MapAsync(w, w.Plan.Compare.Maps.First(m => m.Name == name), null, cancel)
                : null;
            return TypedResults.Bytes(
                await Task.Run(() => ReportFigures.Draw(figure, w.Plan, scan, runner, map).Png, cancel), "image/png");
        }).WithName("figurePicture").Needs(Role.Reader);
    }

    /// <summary>Asked for by the key of an outcome, which never changes.</summary>
    internal const string StageCaching = "private, max-age=86400, immutable";

    private static FileContentHttpResult Floats(double[] values) => TypedResults.Bytes(
        MemoryMarshal.AsBytes(Array.ConvertAll(values, v => (float)v).AsSpan()).ToArray(), "application/octet-stream");

    private static async Task<PieceView> CreateAsync(
        NewPiece piece, BostelContext context, BlobStore blobs, JobQueue jobs, PlanService plans, ClaimsPrincipal who,
        CancellationToken cancel)
    {
        var (serial, name) = (Texts.Serial(piece.Serial), Texts.FileName(piece.FileName));
        _ = LengthUnit.Factor(piece.Unit);
        if (!MeshFormats.Suffixes.Contains(Path.GetExtension(name).ToLowerInvariant()))
        {
            throw new BadInputException($"{name}: a scan is one of {string.Join(", ", MeshFormats.Suffixes)}.");
        }

        await blobs.RequireAsync(piece.Sha, cancel);
        if (await context.Pieces.AnyAsync(p => p.PartId == piece.PartId && p.Serial == serial, cancel))
        {
            throw new BadInputException($"serial: piece {serial} of this part is there already; give another serial number.");
        }

        var made = new Piece
        {
            Id = Guid.NewGuid(),
            PartId = piece.PartId,
            Serial = serial,
            FileName = name,
            FileSha = piece.Sha,
            Unit = piece.Unit,
            CreatedBy = who.Name(),
            CreatedAt = DateTimeOffset.UtcNow,
        };
        context.Pieces.Add(made);
        await jobs.AddAsync(JobKind.Receive, made.Id, new(), who.Name(), cancel);
        return await GetAsync(made.Id, context, plans, cancel);
    }

    private static async Task<PieceView> GetAsync(Guid id, BostelContext context, PlanService plans, CancellationToken cancel)
    {
        var piece = await context.Pieces.AsNoTracking().Include(p => p.Part).ThenInclude(p => p!.Nominal)
            .SingleOrDefaultAsync(p => p.Id == id, cancel) ?? throw new NotFoundException("There is no such piece.");
        var plan = await plans.GetAsync(piece.PartId, cancel);
        var keys = piece.Part!.Nominal is { } nominal
            ? OutcomeKeys.Of(Workpiece.SourceOf(piece), Workpiece.SourceOf(nominal), plan.Plan)
            : null;
        var shown = await ShownRecord.LoadAsync(context, piece, keys, cancel);
        var jobs = await context.Jobs.AsNoTracking().Where(j => j.SubjectId == id).OrderByDescending(j => j.CreatedAt).Take(5)
            .ToListAsync(cancel);
        var report = await context.Reports.AsNoTracking().Where(r => r.PieceId == id && r.WithdrawnAt == null)
            .OrderByDescending(r => r.IssuedAt).FirstOrDefaultAsync(cancel);
        return PieceViews.Of(piece, plan, shown, jobs, report);
    }

    /// <summary>Puts the work into the queue; judging alone, which takes milliseconds, is done at once.</summary>
    private static async Task<JobView> StartAsync(
        Guid id, StartJob request, JobQueue jobs, JobRunner runner, StationService stations, BostelContext context, ClaimsPrincipal who,
        CancellationToken cancel)
    {
        if (request.Kind is JobKind.Nominal or JobKind.Receive or JobKind.Capture or JobKind.Issue)
        {
            throw new BadInputException("kind: this work is not begun so; reports are issued by /issuing.");
        }

        var w = await stations.OpenAsync(id, cancel);
        var atOnce = await stations.OnlyJudgingIsLeftAsync(w, cancel);
        var job = await jobs.AddAsync(request.Kind, id, new(), who.Name(), cancel, mine: atOnce);
        if (atOnce)
        {
            await runner.RunAsync(job, CancellationToken.None);
            job = await context.Jobs.AsNoTracking().SingleAsync(j => j.Id == job.Id, cancel);
        }

        return Views.Of(job);
    }
}
