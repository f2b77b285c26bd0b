using System.Security.Claims;
using Bostel.Core;
using Bostel.Core.Plans;
using Bostel.Core.ReferenceCases;
using Bostel.Data;
using Bostel.Reports;
using Bostel.Server.Jobs;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

/// <summary>Jobs, events, and issued reports.</summary>
public static class RecordEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/jobs/{id:guid}", async (Guid id, BostelContext context, CancellationToken cancel) =>
            Views.Of(await context.Jobs.AsNoTracking().SingleOrDefaultAsync(j => j.Id == id, cancel)
                ?? throw new NotFoundException("There is no such job."))).WithName("job").Needs(Role.Reader);
        api.MapPost("/jobs/{id:guid}/cancel", async (Guid id, JobQueue jobs, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            await jobs.CancelAsync(id, who.Name(), cancel);
            return TypedResults.NoContent();
        }).WithName("cancelJob").Needs(Role.Inspector);
        api.MapGet("/events", (EventHub hub, ClaimsPrincipal who, HttpContext http, CancellationToken cancel) =>
        {
            // A proxy between must not collect events before it passes them on.
            http.Response.Headers["X-Accel-Buffering"] = "no";
            return TypedResults.ServerSentEvents(hub.ListenAsync(who.AccountId()!.Value, cancel));
        }).ExcludeFromDescription().Needs(Role.Reader);
        api.MapGet("/intake", async (IntakeOptions options, BostelContext context, CancellationToken cancel) =>
            new IntakeView(options.Folder,
                [.. (await context.Audit.AsNoTracking().Where(a => a.Who == IntakeService.Who).OrderByDescending(a => a.Id).Take(20)
                .ToListAsync(cancel)).Select(Views.Of)])).WithName("intake").Needs(Role.Reader);
        api.MapGet("/certificate", (TimeProvider clock, CancellationToken cancel) =>
            Task.Run(() => Certificate.Issue(clock.GetUtcNow()), cancel)).WithName("certificate").Needs(Role.Reader);
        api.MapGet("/certificate/file", async (TimeProvider clock, PdfWriter pdf, CancellationToken cancel) =>
        {
            var certificate = await Task.Run(() => Certificate.Issue(clock.GetUtcNow()), cancel);
            return TypedResults.File(
                await pdf.PdfAsync(certificate), "application/pdf", $"certificate-{certificate.At:yyyy-MM-dd}.pdf");
        }).WithName("certificateFile").Needs(Role.Reader);
        api.MapGet("/reports", async (BostelContext context, CancellationToken cancel) =>
            (await context.Reports.AsNoTracking().Include(r => r.Piece).ThenInclude(p => p!.Part).OrderByDescending(r => r.IssuedAt)
                .Take(500).ToListAsync(cancel)).Select(Views.Of).ToList()).WithName("reports").Needs(Role.Reader);
        api.MapGet("/reports/{id:guid}/{format}",
            async (Guid id, string format, BostelContext context, BlobStore blobs, HttpContext http, CancellationToken cancel) =>
        {
            var report = await context.Reports.AsNoTracking().SingleOrDefaultAsync(r => r.Id == id, cancel)
                ?? throw new NotFoundException("There is no such report.");
            var asked = ReportFormats.Named(format);
            if (asked == ReportFormat.Pdf)
            {
                // Its page shows it under what is to be known of it.
                RequestGuards.AllowInOwnFrame(http.Response.Headers);
            }

            var (kind, sha) = report.Files.FirstOrDefault(f => f.Format == asked);
            return sha is null
                ? throw new BadInputException(
                    $"format: '{format}' is not one of {string.Join(", ", report.Files.Select(f => f.Format.NameOf()))}.")
                : TypedResults.File(
                    await blobs.BytesAsync(sha, cancel), kind.MediaType(),
                    kind == ReportFormat.Pdf ? null : report.Number + kind.Ending());
        }).WithName("reportFile").Needs(Role.Reader);
        api.MapPost("/reports/{id:guid}/withdrawal",
            async (Guid id, Withdrawal withdrawal, ReportService reports, BostelContext context, ClaimsPrincipal who, HttpContext http,
            SignInGuard guard, CancellationToken cancel) =>
        {
            await guard.RequirePasswordAsync(http, withdrawal.Password, cancel);
            var report = await reports.WithdrawAsync(id, withdrawal.Why, who.Name(), cancel);
            await EventHub.NotifyAsync(context, new("report", id, report.PieceId), cancel);
            return Views.Of(report);
        }).WithName("withdrawReport").Needs(Role.Approver);
        api.MapPost("/reports/{id:guid}/countersignature",
            async (Guid id, Countersignature signature, ReportService reports, BostelContext context, ClaimsPrincipal who, HttpContext http,
            SignInGuard guard, CancellationToken cancel) =>
        {
            await guard.RequirePasswordAsync(http, signature.Password, cancel);
            var report = await reports.CountersignAsync(id, who.Name(), cancel);
            await EventHub.NotifyAsync(context, new("report", id, report.PieceId), cancel);
            return Views.Of(report);
        }).WithName("countersignReport").Needs(Role.Approver);
        RegisterEndpoints.Map(api);
        LogEndpoints.Map(api);
    }
}
