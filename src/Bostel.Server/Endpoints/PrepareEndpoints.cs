using System.Security.Claims;
using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;
using Bostel.Data;
using Bostel.Server.Jobs;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using Piece = Bostel.Data.Piece;

namespace Bostel.Server.Endpoints;

/// <summary>The first two stations: what a file holds, and trying steps before they are kept in the plan.</summary>
public static class PrepareEndpoints
{
    private const int LinesShown = 6;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/pieces/{id:guid}/unit",
            async (Guid id, UnitChange change, BostelContext context, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            _ = LengthUnit.Factor(change.Unit);
            var piece = await PieceAsync(id, context.Pieces, cancel);
            context.Record(who.Name(), "changed the unit", $"{piece.Part!.Number} piece {piece.Serial}", $"{piece.Unit} to {change.Unit}");
            piece.Unit = change.Unit;
            await context.SaveChangesAsync(cancel);
            await EventHub.NotifyAsync(context, new("piece", id, id), cancel);
            return TypedResults.NoContent();
        }).WithName("changeUnit").Needs(Role.Inspector);
        api.MapPost("/pieces/{id:guid}/columns", ChangeColumnsAsync).WithName("changeColumns").Needs(Role.Inspector);
        api.MapGet("/pieces/{id:guid}/sheet", SheetAsync).WithName("sheet").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/loose", async (Guid id, BostelContext context, MeshCache meshes, CancellationToken cancel) =>
        {
            var piece = await PieceAsync(id, context.Pieces.AsNoTracking(), cancel);
            return new PiecesView(await PiecesOfAsync(piece, await ScanAsync(piece, meshes, cancel), meshes, cancel));
        }).WithName("loosePieces").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/geometry", GeometryAsync).WithName("pieceGeometry").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/export", ExportAsync).WithName("export").Needs(Role.Reader);
        api.MapPost("/pieces/{id:guid}/preview",
            async (Guid id, PreviewRequest request, StationService stations, MeshCache meshes, EventHub events, HttpContext http,
            CancellationToken cancel) =>
        {
            var w = await stations.OpenAsync(id, cancel);
            var prepared = await TriedAsync(w, request.Steps, meshes, TaskProgress.Of(http, events), cancel);
            var sheet = await meshes.SheetAsync(prepared.Mesh, cancel);
            return new PreviewView(prepared.Record, sheet, PrepareAdvice.For(
                sheet, (await meshes.RunnerAsync(w.Nominal.ModelSha, cancel)).Pieces(prepared.Mesh)), prepared.Displacements?.Max() ?? 0);
        }).WithName("preview").Needs(Role.Inspector).WithMetadata(new RequestSizeLimitAttribute(RequestGuards.MostPlan));
        api.MapPost("/pieces/{id:guid}/preview/geometry",
            async (Guid id, PreviewRequest request, StationService stations, MeshCache meshes, EventHub events, HttpContext http,
            CancellationToken cancel) =>
        {
            var prepared =
                await TriedAsync(await stations.OpenAsync(id, cancel), request.Steps, meshes, TaskProgress.Of(http, events), cancel);
            return GeometryCodec.Send(prepared.Mesh, values: prepared.Displacements);
        }).WithName("previewGeometry").Needs(Role.Inspector).WithMetadata(new RequestSizeLimitAttribute(RequestGuards.MostPlan));
        api.MapPost("/pieces/{id:guid}/selection", SelectAsync).WithName("select").Needs(Role.Inspector)
            .WithMetadata(new RequestSizeLimitAttribute(RequestGuards.MostPlan));
        api.MapPost("/pieces/{id:guid}/anchor", AnchorAsync).WithName("anchor").Needs(Role.Inspector)
            .WithMetadata(new RequestSizeLimitAttribute(RequestGuards.MostPlan));
    }

    private static async Task<IResult> ChangeColumnsAsync(
        Guid id, ColumnsChange change, BostelContext context, JobQueue jobs, ClaimsPrincipal who, CancellationToken cancel)
    {
        var columns = PointColumns.Parse(change.Columns).ToString();
        var piece = await PieceAsync(id, context.Pieces, cancel);
        context.Record(who.Name(), "changed the columns", $"{piece.Part!.Number} piece {piece.Serial}", $"{piece.Columns} to {columns}");
        (piece.Columns, piece.Problem) = (columns, null);
        await jobs.AddAsync(JobKind.Receive, piece.Id, new(), who.Name(), cancel);
        return TypedResults.NoContent();
    }

    private static async Task<SheetView> SheetAsync(
        Guid id, BostelContext context, MeshCache meshes, BlobStore blobs, CancellationToken cancel)
    {
        var piece = await PieceAsync(id, context.Pieces.AsNoTracking(), cancel);
        var scan = await ScanAsync(piece, meshes, cancel);
        var sheet = await meshes.SheetAsync(scan, cancel);
        var lines = piece.Columns is null
            ? []
            : PointColumns.FirstLines(await HeadAsync(await blobs.FileAsync(piece.FileSha, cancel), cancel), LinesShown);
        return new(sheet, PrepareAdvice.For(sheet, await PiecesOfAsync(piece, scan, meshes, cancel)), piece.Columns, lines);
    }

    private static async Task<byte[]> HeadAsync(string path, CancellationToken cancel)
    {
        await using var file = File.OpenRead(path);
        var head = new byte[Math.Min(8192, file.Length)];
        await file.ReadExactlyAsync(head, cancel);
        return head;
    }

    /// <param name="prepared">The key of a prepared scan; the raw scan without one.</param>
    private static async Task<IResult> GeometryAsync(Guid id, string? prepared, StationService stations, BostelContext context,
        MeshCache meshes, HttpContext http, CancellationToken cancel)
    {
        if (prepared is null)
        {
            return GeometryCodec.Send(await ScanAsync(await PieceAsync(id, context.Pieces.AsNoTracking(), cancel), meshes, cancel));
        }

        http.Response.Headers.CacheControl = PieceEndpoints.StageCaching;
        return GeometryCodec.Send((await stations.PreparedAsync(prepared, cancel)).Mesh);
    }

    /// <summary>The scan in an open format: raw, or prepared and (when it is aligned) in nominal coordinates with its deviations.</summary>
    /// <param name="alignment">Name of the alignment in which it is written; empty: the plan's own; none: that of the map.</param>
    private static async Task<IResult> ExportAsync(
        Guid id, string format, bool prepared, string? alignment, StationService stations, BostelContext context, MeshCache meshes,
        CancellationToken cancel)
    {
        var piece = await PieceAsync(id, context.Pieces.AsNoTracking(), cancel);
        var name = $"{piece.Part!.Number}-{piece.Serial}.{format}";
        if (!MeshFormats.Written.Contains("." + format))
        {
            throw new BadInputException($"format: '{format}' is not one of {string.Join(", ", MeshFormats.Written)}.");
        }

        TriangleMesh mesh;
        float[]? deviation = null;
        if (!prepared)
        {
            mesh = await ScanAsync(piece, meshes, cancel);
        }
        else
        {
            var w = await stations.OpenAsync(id, cancel);
            w.RequireReadable();
            var shown = await ShownRecord.LoadAsync(context, w.Piece, w.Keys, cancel);
            if (alignment is not null || shown.CompareStage is not null)
            {
                var key = alignment is null
                    ? await stations.MapKeyAsync(w, cancel)
                    : await stations.DeviationsKeyAsync(w, alignment.Length > 0 ? alignment : null, cancel);
                var (scan, _, _) = await stations.AlignedAsync(key, cancel);
                (mesh, deviation) = (scan.Mesh.Transformed(scan.Transform), Array.ConvertAll(scan.Deviations.Values, v => (float)v));
            }
            else
            {
                mesh = (await meshes.PreparedAsync(w.Scan, w.Nominal.ModelSha, w.Plan.Prepare.Steps, null, cancel)).Mesh;
            }
        }

        if (mesh.TriangleCount == 0 && format is "stl" or "3mf")
        {
            throw new BadInputException($"format: a cloud of points cannot be written as .{format}; take ply, xyz, obj or glb.");
        }

        var memory = new MemoryStream();
        MeshFormats.Write(memory, name, mesh, deviation);
        memory.Position = 0;
        return TypedResults.Stream(memory, "application/octet-stream", name);
    }

    private static async Task<SelectionView> SelectAsync(Guid id, SelectionRequest request, StationService stations, MeshCache meshes,
        EventHub events, HttpContext http, CancellationToken cancel)
    {
        var w = await stations.OpenAsync(id, cancel);
        var mesh = (await TriedAsync(w, request.Steps, meshes, TaskProgress.Of(http, events), cancel)).Mesh;
        var context = await meshes.ContextAsync(w.Scan, w.Nominal.ModelSha, cancel);
        var selected = await Task.Run(() => Selection.Resolve(mesh, request.Terms, context, cancel), cancel);
        var mask = new byte[(selected.Length + 7) / 8];
        var (count, area) = (0, 0.0);
        for (var i = 0; i < selected.Length; i++)
        {
            if (selected[i])
            {
                mask[i >> 3] |= (byte)(1 << (i & 7));
                count++;
                area += mesh.TriangleCount > 0 ? mesh.TriangleArea(i) : 0;
            }
        }

        return new(count, selected.Length, area, Convert.ToBase64String(mask));
    }

    /// <summary>
    /// Brings what was drawn on a scan into nominal coordinates, so that the step means the same place on the next piece.
    /// </summary>
    private static async Task<AnchorView> AnchorAsync(
        Guid id, AnchorRequest request, StationService stations, MeshCache meshes, CancellationToken cancel)
    {
        request.Step.Check("step");
        if (!request.Step.IsTiedToScan)
        {
            return new(request.Step, null);
        }

        var w = await stations.OpenAsync(id, cancel);
        var context = await meshes.ContextAsync(w.Scan, w.Nominal.ModelSha, cancel);
        try
        {
            var pose = await Task.Run(() => context.PoseOfScan(cancel), cancel);
            return new(request.Step.Anchored(pose), null);
        }
        catch (BadInputException e)
        {
            return new(request.Step,
                $"The step stays tied to this scan's own coordinates and will not carry over to the next piece. {e.Message}");
        }
    }

    private static Task<Core.Plans.PreparedScan> TriedAsync(Workpiece w, IReadOnlyList<PrepareStep> steps, MeshCache meshes,
        IProgress<Core.Plans.RunProgress>? progress, CancellationToken cancel) =>
        w.Piece.Problem is { } problem
            ? throw new BadInputException(problem)
            : meshes.PreparedAsync(w.Scan, w.Nominal.ModelSha, steps, progress, cancel);

    private static async Task<IReadOnlyList<ConnectedPiece>> PiecesOfAsync(
        Piece piece, TriangleMesh scan, MeshCache meshes, CancellationToken cancel) =>
        scan.TriangleCount == 0 ? []
        : piece.Part!.Nominal is { } nominal ? (await meshes.RunnerAsync(nominal.ModelSha, cancel)).Pieces(scan)
        : ConnectedPieces.Find(scan, null).Pieces;

    private static async Task<Piece> PieceAsync(Guid id, IQueryable<Piece> pieces, CancellationToken cancel) =>
        await pieces.Include(p => p.Part).ThenInclude(p => p!.Nominal).SingleOrDefaultAsync(p => p.Id == id, cancel)
            ?? throw new NotFoundException("There is no such piece.");

    private static async Task<TriangleMesh> ScanAsync(Piece piece, MeshCache meshes, CancellationToken cancel) =>
        piece.Problem is { } problem ? throw new BadInputException(problem) : await meshes.ScanAsync(Workpiece.SourceOf(piece), cancel);
}
