using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Jobs;

/// <summary>
/// How workers of any number of processes share the queue. A worker takes the oldest job that waits or whose lease has ended, and holds it
/// by a lease it renews; times are the database's own, so that clocks need not agree.
/// </summary>
public sealed class JobLease(BostelContext context)
{
    public const int Seconds = 30;

    /// <summary>This worker: the machine and the process on it.</summary>
    public static string Me { get; } = Machine + ProcessMark.Own;

    /// <summary>The oldest job nobody works on, now this worker's; null when there is none.</summary>
    public async Task<Job?> TakeAsync(CancellationToken cancel)
    {
        var taken = await context.Jobs.FromSql(
            $"""
            UPDATE "Jobs" SET "State" = 'Running', "Attempts" = "Attempts" + 1, "Worker" = {Me},
                "LeaseUntil" = now() + make_interval(secs => {Seconds})
            WHERE "Id" = (SELECT "Id" FROM "Jobs" WHERE "State" = 'Queued'
                              OR ("State" = 'Running' AND ("LeaseUntil" IS NULL OR "LeaseUntil" < now()))
                          ORDER BY "CreatedAt" FOR UPDATE SKIP LOCKED LIMIT 1)
            RETURNING *
            """).AsNoTracking().ToListAsync(cancel);
        return taken.SingleOrDefault();
    }

    /// <summary>Renews the lease; false when the job is no longer this worker's.</summary>
    public async Task<bool> RenewAsync(Guid job, CancellationToken cancel) => await context.Database.ExecuteSqlAsync(
        $"""
        UPDATE "Jobs" SET "LeaseUntil" = now() + make_interval(secs => {Seconds})
        WHERE "Id" = {job} AND "Worker" = {Me} AND "State" = 'Running'
        """, cancel) == 1;

    /// <summary>
    /// Whether the job is still this worker's, holding its row until the transaction ends, so that nobody can take it before.
    /// </summary>
    public async Task<bool> HoldAsync(Guid job) => (await context.Database.SqlQuery<Guid>(
        $"""
        SELECT "Id" AS "Value" FROM "Jobs"
        WHERE "Id" = {job} AND "Worker" = {Me} AND "State" = 'Running' AND NOT "CancelRequested" FOR UPDATE
        """).ToListAsync()).Count == 1;

    /// <summary>Puts a job back as if it had not been begun: its process stops, or the database was away.</summary>
    public Task PutBackAsync(Guid job, CancellationToken cancel) => context.Database.ExecuteSqlAsync(
        $"""
        UPDATE "Jobs" SET "State" = 'Queued', "Attempts" = GREATEST(0, "Attempts" - 1), "Worker" = NULL, "LeaseUntil" = NULL,
            "What" = 'Waiting', "Share" = 0
        WHERE "Id" = {job} AND "Worker" = {Me} AND "State" = 'Running'
        """, cancel);

    /// <summary>Ends the leases of processes of this machine that are gone, so that their jobs need not wait for it.</summary>
    public async Task FreeOfTheDeadAsync(CancellationToken cancel)
    {
        var holders = await context.Jobs.Where(j => j.State == JobState.Running && j.Worker != null).Select(j => j.Worker!).Distinct()
            .ToListAsync(cancel);
        foreach (var holder in holders.Where(
            h => h.StartsWith(Machine, StringComparison.Ordinal) && !ProcessMark.Lives(h[Machine.Length..])))
        {
            await context.Database.ExecuteSqlAsync(
                $"""UPDATE "Jobs" SET "LeaseUntil" = NULL WHERE "State" = 'Running' AND "Worker" = {holder}""", cancel);
        }
    }

    private static string Machine => Environment.MachineName + "/";
}
