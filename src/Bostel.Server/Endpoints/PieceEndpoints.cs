using System.Security.Claims;
using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Features;
using Bostel.Core.Figures;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Data;
using Bostel.Server.Jobs;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

public static class PieceEndpoints
{
    private static readonly string[] StationJobs = ["prepare", "align", "evaluate", "run-plan", "issue"];

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/pieces", CreateAsync).WithName("createPiece");
        api.MapGet("/pieces/{id:guid}", GetAsync).WithName("piece");
        api.MapPost("/pieces/{id:guid}/jobs", StartAsync).WithName("startJob");
        api.MapGet("/pieces/{id:guid}/deviation", async (Guid id, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var (scan, _) = await stations.AlignedAsync(w, cancel);
            var values = Array.ConvertAll(scan.Deviations.Values, v => (float)v);
            return TypedResults.Bytes(System.Runtime.InteropServices.MemoryMarshal.AsBytes(values.AsSpan()).ToArray(), "application/octet-stream");
        }).WithName("deviation");
        api.MapGet("/pieces/{id:guid}/transform", async (Guid id, StationService stations, CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var stored = w.Piece.Run?.Alignment ?? throw new BadInputException($"Piece {w.Piece.Serial} is not aligned yet.");
            var transform = JsonSerializer.Deserialize<Core.Alignment.AlignmentResult>(stored, StationService.Json)!.Transform.ToArray();
            return TypedResults.File(JsonSerializer.SerializeToUtf8Bytes(new { transform }), "application/json", $"{w.Piece.Part!.Number}-{w.Piece.Serial}.transform.json");
        }).WithName("transform");
        api.MapPost("/pieces/{id:guid}/measure", MeasureAsync).WithName("measure");
        MapFigures(api);
    }

    /// <exception cref="BadInputException">The serial number is missing or too long.</exception>
    public static void RequireSerial(string serial)
    {
        if (string.IsNullOrWhiteSpace(serial) || serial.Length > 60)
        {
            throw new BadInputException("serial: a piece needs a serial number of at most 60 characters.");
        }
    }

    private static void MapFigures(RouteGroupBuilder api)
    {
        api.MapGet("/pieces/{id:guid}/figures", async (Guid id, BostelContext context, CancellationToken cancel) =>
            (await context.Figures.AsNoTracking().Where(f => f.PieceId == id).OrderBy(f => f.Order).ToListAsync(cancel)).Select(ViewOf).ToList()).WithName("figures");
        api.MapPost("/pieces/{id:guid}/figures", async (Guid id, FigureState state, BostelContext context, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            state.Check();
            var figure = new Figure
            {
                Id = Guid.NewGuid(),
                PieceId = id,
                Order = 1 + (await context.Figures.Where(f => f.PieceId == id).MaxAsync(f => (int?)f.Order, cancel) ?? 0),
                State = JsonSerializer.Serialize(state, StationService.Json),
                CreatedBy = who.Name(),
                CreatedAt = DateTimeOffset.UtcNow,
            };
            context.Figures.Add(figure);
            await context.SaveChangesAsync(cancel);
            return ViewOf(figure);
        }).WithName("addFigure");
        api.MapPut("/figures/{id:guid}", async (Guid id, FigureState state, BostelContext context, CancellationToken cancel) =>
        {
            state.Check();
            var figure = await context.Figures.SingleOrDefaultAsync(f => f.Id == id, cancel) ?? throw new BadInputException("There is no such figure.");
            figure.State = JsonSerializer.Serialize(state, StationService.Json);
            await context.SaveChangesAsync(cancel);
            return ViewOf(figure);
        }).WithName("changeFigure");
        api.MapDelete("/figures/{id:guid}", async (Guid id, BostelContext context, CancellationToken cancel) =>
        {
            await context.Figures.Where(f => f.Id == id).ExecuteDeleteAsync(cancel);
            return TypedResults.NoContent();
        }).WithName("dropFigure");
        api.MapGet("/figures/{id:guid}/picture", async (Guid id, BostelContext context, StationService stations, ReportService reports, CancellationToken cancel) =>
        {
            var figure = await context.Figures.AsNoTracking().SingleOrDefaultAsync(f => f.Id == id, cancel) ?? throw new BadInputException("There is no such figure.");
            return TypedResults.Bytes(await reports.DrawAsync(await stations.OpenAsync(figure.PieceId, cancel), ViewOf(figure).State, cancel), "image/png");
        }).WithName("figurePicture");
    }

    private static FigureView ViewOf(Figure f) => new(f.Id, f.Order, JsonSerializer.Deserialize<FigureState>(f.State, StationService.Json)!);

    private static async Task<PieceView> CreateAsync(NewPiece piece, BostelContext context, BlobStore blobs, JobQueue jobs, ClaimsPrincipal who, CancellationToken cancel)
    {
        RequireSerial(piece.Serial);
        _ = LengthUnit.Factor(piece.Unit);
        var suffix = Path.GetExtension(piece.FileName).ToLowerInvariant();
        if (!MeshFormats.Suffixes.Contains(suffix))
        {
            throw new BadInputException($"{piece.FileName}: a scan is one of {string.Join(", ", MeshFormats.Suffixes)}.");
        }

        _ = await blobs.FileAsync(piece.Sha, cancel);
        if (await context.Pieces.AnyAsync(p => p.PartId == piece.PartId && p.Serial == piece.Serial, cancel))
        {
            throw new BadInputException($"serial: piece {piece.Serial} of this part is there already; give another serial number.");
        }

        var made = new Piece
        {
            Id = Guid.NewGuid(),
            PartId = piece.PartId,
            Serial = piece.Serial.Trim(),
            FileName = Path.GetFileName(piece.FileName),
            FileSha = piece.Sha,
            Unit = piece.Unit,
            CreatedBy = who.Name(),
            CreatedAt = DateTimeOffset.UtcNow,
        };
        context.Pieces.Add(made);
        await context.SaveChangesAsync(cancel);
        await jobs.AddAsync("receive", made.Id, new(), who.Name(), cancel);
        return await GetAsync(made.Id, context, cancel);
    }

    private static async Task<PieceView> GetAsync(Guid id, BostelContext context, CancellationToken cancel)
    {
        var piece = await context.Pieces.AsNoTracking().Include(p => p.Part).ThenInclude(p => p!.Nominal).SingleOrDefaultAsync(p => p.Id == id, cancel) ?? throw new BadInputException("There is no such piece.");
        var run = piece.RunId is null ? null : await context.Runs.AsNoTracking().AsSplitQuery().Include(r => r.Features).Include(r => r.Characteristics).SingleOrDefaultAsync(r => r.Id == piece.RunId, cancel);
        var plan = await context.Plans.AsNoTracking().Where(p => p.PartId == piece.PartId).Select(p => p.Head).SingleAsync(cancel);
        var jobs = await context.Jobs.AsNoTracking().Where(j => j.SubjectId == id).OrderByDescending(j => j.CreatedAt).Take(5).ToListAsync(cancel);
        var figures = await context.Figures.CountAsync(f => f.PieceId == id, cancel);
        var report = await context.Reports.AsNoTracking().Where(r => r.PieceId == id).OrderByDescending(r => r.IssuedAt).FirstOrDefaultAsync(cancel);
        return Views.Of(piece, plan, run, jobs, figures, report);
    }

    private static async Task<JobView> StartAsync(Guid id, StartJob request, JobQueue jobs, BostelContext context, ClaimsPrincipal who, CancellationToken cancel)
    {
        if (!StationJobs.Contains(request.Kind))
        {
            throw new BadInputException($"kind: '{request.Kind}' is not one of {string.Join(", ", StationJobs)}.");
        }

        if (request.Kind == "issue" && !who.IsInRole(Roles.Approver) && !who.IsInRole(Roles.Inspector))
        {
            throw new BadInputException("Issuing a report needs the role Inspector or Approver.");
        }

        if (await context.Jobs.AnyAsync(j => j.SubjectId == id && (j.State == JobState.Queued || j.State == JobState.Running), cancel))
        {
            throw new ConflictException("Work on this piece is under way already; wait for it or cancel it.");
        }

        if (request.Transform is { } t)
        {
            _ = RigidTransform.FromArray(t);
        }

        return Views.Of(await jobs.AddAsync(request.Kind, id, new() { Transform = request.Transform, Refine = request.Refine ?? true }, who.Name(), cancel));
    }

    private static async Task<MeasuredView> MeasureAsync(Guid id, MeasureRequest request, StationService stations, CancellationToken cancel)
    {
        var w = await stations.OpenAsync(id, cancel);
        var (scan, alignment) = await stations.AlignedAsync(w, cancel);
        if (!alignment.Resembles)
        {
            throw new BadInputException(Core.Plans.InspectionRunner.Unlike(alignment));
        }

        var plan = new FeaturePlan("live", request.Name, request.Faces) { Criterion = request.Criterion ?? Core.Fitting.Criterion.LeastSquares, EdgeMargin = request.EdgeMargin };
        var result = w.Runner.Measure(plan, scan);
        return new(Views.Of(FeatureRows.Of(Guid.Empty, result), request.Faces), result.Vertices, result.Residuals);
    }
}
