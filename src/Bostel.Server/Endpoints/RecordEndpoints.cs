using System.Security.Claims;
using Bostel.Core;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

/// <summary>Jobs, events, issued reports and the log.</summary>
public static class RecordEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/jobs/{id:guid}", async (Guid id, BostelContext context, CancellationToken cancel) =>
            Views.Of(await context.Jobs.AsNoTracking().SingleOrDefaultAsync(j => j.Id == id, cancel) ?? throw new BadInputException("There is no such job."))).WithName("job");
        api.MapPost("/jobs/{id:guid}/cancel", async (Guid id, BostelContext context, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            await context.Jobs.Where(j => j.Id == id).ExecuteUpdateAsync(s => s.SetProperty(j => j.CancelRequested, true), cancel);
            context.Record(who.Name(), "cancelled", $"job {id}");
            await context.SaveChangesAsync(cancel);
            return TypedResults.NoContent();
        }).WithName("cancelJob");
        api.MapGet("/events", (EventHub hub, CancellationToken cancel) => TypedResults.ServerSentEvents(hub.ListenAsync(cancel), "change")).ExcludeFromDescription();
        api.MapGet("/intake", async (IntakeOptions options, BostelContext context, CancellationToken cancel) =>
            new IntakeView(options.Folder, [.. (await context.Audit.AsNoTracking().Where(a => a.Who == IntakeService.Who).OrderByDescending(a => a.Id).Take(20).ToListAsync(cancel)).Select(Views.Of)])).WithName("intake");
        api.MapGet("/reports", async (BostelContext context, CancellationToken cancel) =>
            (await context.Reports.AsNoTracking().Include(r => r.Piece).ThenInclude(p => p!.Part).OrderByDescending(r => r.IssuedAt).Take(500).ToListAsync(cancel)).Select(Views.Of).ToList()).WithName("reports");
        api.MapGet("/reports/{id:guid}/{format}", async (Guid id, string format, BostelContext context, BlobStore blobs, CancellationToken cancel) =>
        {
            var report = await context.Reports.AsNoTracking().SingleOrDefaultAsync(r => r.Id == id, cancel) ?? throw new BadInputException("There is no such report.");
            var (sha, type) = format switch
            {
                "pdf" => (report.PdfSha, "application/pdf"),
                "csv" => (report.CsvSha, "text/csv"),
                "xlsx" => (report.XlsxSha, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
                _ => throw new BadInputException($"format: '{format}' is not one of pdf, csv, xlsx."),
            };
            return TypedResults.File(await blobs.BytesAsync(sha, cancel), type, format == "pdf" ? null : $"{report.Number}.{format}");
        }).WithName("reportFile");
        api.MapGet("/log", async (BostelContext context, CancellationToken cancel) =>
            (await context.Audit.AsNoTracking().OrderByDescending(a => a.Id).Take(300).ToListAsync(cancel)).Select(Views.Of).ToList()).WithName("log");
    }
}
