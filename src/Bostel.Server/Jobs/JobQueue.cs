using System.Globalization;
using System.Text.Json;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Bostel.Server.Jobs;

/// <summary>What a job is told besides its subject.</summary>
public sealed record JobArguments
{
    public string? FileSha { get; init; }
    public string? FileName { get; init; }
    public string? Unit { get; init; }
    public string? Serial { get; init; }
    public string? Recipe { get; init; }

    /// <summary>Of a delivery: the copy of the report that goes out.</summary>
    public CopyPlan? Copy { get; init; }

    /// <summary>Of a nominal: the piece whose scan becomes it.</summary>
    public Guid? Piece { get; init; }

    /// <summary>Of a nominal: the axes that the reference is brought onto, as JSON.</summary>
    public string? Axes { get; init; }
}

/// <summary>Puts work into the queue that all server processes share: the row of the job is the queue entry.</summary>
public sealed class JobQueue(BostelContext context)
{
    private const string UnderWay = "Work on this is under way already; wait for it or cancel it.";

    /// <summary>Adds a job together with whatever else was added to the context: all of it is in the database, or nothing.</summary>
    /// <exception cref="ConflictException">Work on the same thing is waiting or under way.</exception>
    /// <param name="mine">The caller runs it itself, at once: no worker takes it.</param>
    public async Task<Job> AddAsync(
        JobKind kind, Guid subject, JobArguments arguments, string who, CancellationToken cancel = default, bool mine = false)
    {
        var now = DateTimeOffset.UtcNow;
        var job = new Job
        {
            Id = Guid.NewGuid(),
            Kind = kind,
            SubjectId = subject,
            Claim = ClaimOf(kind, subject, arguments),
            Arguments = JsonSerializer.Serialize(arguments),
            State = mine ? JobState.Running : JobState.Queued,
            Worker = mine ? JobLease.Me : null,
            LeaseUntil = mine ? now.AddSeconds(JobLease.Seconds) : null,
            Attempts = mine ? 1 : 0,
            What = "Waiting",
            CreatedBy = who,
            CreatedAt = now,
        };
        context.Jobs.Add(job);
        try
        {
            await context.SaveChangesAsync(cancel);
        }
        catch (DbUpdateException e) when (e.InnerException is PostgresException { SqlState: "23505", ConstraintName: "IX_Jobs_Claim" })
        {
            // Nothing of it may go with what the caller adds next.
            context.Entry(job).State = EntityState.Detached;
            throw new ConflictException(UnderWay);
        }

        await EventHub.NotifyAsync(context, new("job", job.Id, subject), cancel);
        return job;
    }

    /// <summary>Cancels a job: at once while it waits, else it is told to stop. One that has ended stays as it is.</summary>
    /// <exception cref="NotFoundException">There is no such job.</exception>
    public async Task CancelAsync(Guid id, string who, CancellationToken cancel = default)
    {
        var job = await context.Jobs.AsNoTracking().SingleOrDefaultAsync(j => j.Id == id, cancel)
            ?? throw new NotFoundException("There is no such job.");
        var now = DateTimeOffset.UtcNow;
        await context.InTransactionAsync(async () =>
        {
            var stopped = await context.Jobs.Where(j => j.Id == id && j.State == JobState.Queued).ExecuteUpdateAsync(
                s => s.SetProperty(j => j.State, JobState.Cancelled).SetProperty(
                    j => j.What, "Cancelled").SetProperty(j => j.FinishedAt, now), cancel);
            var told = await context.Jobs.Where(j => j.Id == id && j.State == JobState.Running)
                .ExecuteUpdateAsync(s => s.SetProperty(j => j.CancelRequested, true), cancel);
            if (stopped + told > 0)
            {
                context.Record(who, "cancelled", JsonNamingPolicy.KebabCaseLower.ConvertName(job.Kind.ToString()),
                    string.Create(CultureInfo.InvariantCulture, $"job {id}"));
            }
        }, cancel);
        await EventHub.NotifyAsync(context, new("job", id, job.SubjectId), cancel);
    }

    /// <summary>All work on a piece excludes each other; a part takes one nominal at a time; a serial number is captured once.</summary>
    private static string ClaimOf(JobKind kind, Guid subject, JobArguments arguments) => kind switch
    {
        JobKind.Nominal => $"nominal of {subject}",
        JobKind.Deliver => $"copy of {subject} {arguments.Copy?.Words}",
        JobKind.Capture => $"capture of {subject} {arguments.Serial}",
        _ => $"piece {subject}",
    };
}
