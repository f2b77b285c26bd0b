using System.Security.Claims;
using System.Text.Json;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Server.Jobs;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

/// <summary>What goes out of the reports, and another try where it could not.</summary>
public static class DeliveryEndpoints
{
    private const int Most = 30;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/outbox", async (DeliveryOptions options, BostelContext context, CancellationToken cancel) =>
        {
            var jobs = await context.Jobs.AsNoTracking().Where(j => j.Kind == JobKind.Deliver).OrderByDescending(j => j.CreatedAt)
                .Take(Most).ToListAsync(cancel);
            var reports = jobs.Select(j => j.SubjectId).ToList();
            var numbers = await context.Reports.AsNoTracking().Where(r => reports.Contains(r.Id))
                .ToDictionaryAsync(r => r.Id, r => r.Number, cancel);
            return new OutboxView(
                options.Smtp is { } server ? $"{server.Host}:{server.Port}" : options.Outbox, options.Folder,
                [.. jobs.Select(j => new DeliveryView(Views.Of(j), numbers[j.SubjectId], CopyOf(j)))]);
        }).WithName("outbox").Needs(Role.Reader);
        api.MapPost("/outbox/{id:guid}/again",
            async (Guid id, BostelContext context, JobQueue jobs, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            var job = await context.Jobs.AsNoTracking().SingleOrDefaultAsync(j => j.Id == id && j.Kind == JobKind.Deliver, cancel)
                ?? throw new NotFoundException("There is no such copy.");
            return Views.Of(await jobs.AddAsync(JobKind.Deliver, job.SubjectId, new() { Copy = CopyOf(job) }, who.Name(), cancel));
        }).WithName("sendAgain").Needs(Role.Inspector);
    }

    private static CopyPlan CopyOf(Job job) => JsonSerializer.Deserialize<JobArguments>(job.Arguments)!.Copy!;
}
