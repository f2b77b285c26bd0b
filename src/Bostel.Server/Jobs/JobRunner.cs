using System.Text.Json;
using Bostel.Core;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Jobs;

/// <summary>
/// Runs one job that this process holds. Whatever a job keeps, it keeps in a transaction that first makes sure that the job is still its
/// own; so a job that was given up, cancelled or taken by another process leaves nothing. Losing the database is not the job's failure: it
/// goes back to the queue.
/// </summary>
public sealed class JobRunner(
    IDbContextFactory<BostelContext> contexts, StationService stations, ReceiveService receive,
    NominalService nominals, ReportService reports, DeliveryService deliveries, JobLease lease,
    ILogger<JobRunner> log)
{
    private const int MostAttempts = 5;

    /// <summary>Work that has not stopped so long after it was cancelled is left to itself; it can keep nothing any more.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromMilliseconds(500);

    public async Task RunAsync(Job job, CancellationToken stopping)
    {
        if (job.CancelRequested || job.Attempts > MostAttempts)
        {
            await EndAsync(job, job.CancelRequested ? JobState.Cancelled : JobState.Failed,
                job.CancelRequested ? null : $"The work was begun {MostAttempts} times and its process died each time.");
            return;
        }

        using var cancel = CancellationTokenSource.CreateLinkedTokenSource(stopping);
        using var watchStop = new CancellationTokenSource();
        var progress = new JobProgress(contexts, job.Id, job.SubjectId, cancel);
        var watch = progress.WatchAsync(watchStop.Token);
        var work = WorkAsync(job, progress, cancel.Token);
        Exception? failure;
        try
        {
            failure = await OutcomeAsync(work, cancel.Token);
        }
        finally
        {
            await watchStop.CancelAsync();
            await watch;
        }

        if (failure is null)
        {
            await EndAsync(job, JobState.Done, null);
        }
        else if (progress.CancelWanted)
        {
            await EndAsync(job, JobState.Cancelled, null);
        }
        else if (failure is OperationCanceledException || DatabaseAway.Is(failure))
        {
            // The process stops, another one has the job, or the database is away.
            log.LogWarning("Job {Kind} {Id} goes back to the queue: {Reason}", job.Kind, job.Id, failure.Message);
            await PersistAsync((_, l) => l.PutBackAsync(job.Id, CancellationToken.None));
        }
        else
        {
            await EndAsync(job, JobState.Failed, Sentence(job, failure));
        }
    }

    /// <summary>How the work ended: null when it is done. Cancelled work is waited for a moment only.</summary>
    private static async Task<Exception?> OutcomeAsync(Task work, CancellationToken cancel)
    {
        var cancelled = new TaskCompletionSource();
        await using var registration = cancel.Register(() => cancelled.TrySetResult());
        if (await Task.WhenAny(work, cancelled.Task) != work
            && await Task.WhenAny(work, Task.Delay(Patience, CancellationToken.None)) != work)
        {
            _ = work.ContinueWith(t => t.Exception, CancellationToken.None, TaskContinuationOptions.OnlyOnFaulted, TaskScheduler.Default);
            return new OperationCanceledException("The work was cancelled.");
        }

        try
        {
            await work;
            return null;
        }
        catch (Exception e)
        {
            return e;
        }
    }

    private async Task WorkAsync(Job job, JobProgress progress, CancellationToken cancel)
    {
        await Task.Yield();
        var arguments = JsonSerializer.Deserialize<JobArguments>(job.Arguments)!;
        Task<bool> Held() => lease.HoldAsync(job.Id);
        switch (job.Kind)
        {
            case JobKind.Nominal:
                await nominals.MakeAsync(job.SubjectId, arguments, job.CreatedBy, progress, Held, cancel);
                return;
            case JobKind.Receive:
                await receive.ScanAsync(job.SubjectId, progress, Held, cancel);
                return;
            case JobKind.Capture:
                await receive.CaptureAsync(job.SubjectId, arguments, job.CreatedBy, progress, Held, cancel);
                return;
            case JobKind.Deliver:
                await deliveries.DeliverAsync(job.SubjectId, arguments.Copy!, cancel);
                return;
            case JobKind.Issue:
                await reports.IssueAsync(await stations.OpenAsync(job.SubjectId, cancel), job.Id, job.CreatedBy, progress, Held, cancel);
                return;
            default:
                await stations.RunAsync(
                    await stations.OpenAsync(job.SubjectId, cancel), StationOf(job.Kind), job.CreatedBy, progress, Held, cancel);
                return;
        }
    }

    /// <summary>The station that a job of a kind goes up to.</summary>
    public static Station StationOf(JobKind kind) => kind switch
    {
        JobKind.Prepare => Station.Prepare,
        JobKind.Align => Station.Align,
        JobKind.Compare => Station.Compare,
        JobKind.Measure => Station.Measure,
        JobKind.Evaluate or JobKind.RunPlan => Station.Evaluate,
        _ => throw new ArgumentOutOfRangeException(nameof(kind), kind, "This job goes through no station."),
    };

    private string Sentence(Job job, Exception failure)
    {
        if (failure is BadInputException or ConflictException or NotFoundException or DamagedFileException)
        {
            return failure.Message;
        }

        log.LogError(failure, "Job {Kind} {Id} failed", job.Kind, job.Id);
        return "The work failed inside the server; the log says more.";
    }

    private async Task EndAsync(Job job, JobState state, string? error)
    {
        var now = DateTimeOffset.UtcNow;
        var what = state switch { JobState.Done => "Done", JobState.Cancelled => "Cancelled", _ => "Failed" };
        await PersistAsync((context, _) => context.InTransactionAsync(async () =>
        {
            var mine = await context.Jobs.Where(j => j.Id == job.Id && j.Worker == JobLease.Me && j.State == JobState.Running)
                .ExecuteUpdateAsync(s => s
                .SetProperty(j => j.State, state).SetProperty(j => j.Error, error).SetProperty(j => j.FinishedAt, now)
                    .SetProperty(j => j.What, what)
                .SetProperty(j => j.Share, j => state == JobState.Done ? 1 : j.Share)
                    .SetProperty(j => j.LeaseUntil, (DateTimeOffset?)null));
            if (mine == 1 && state == JobState.Failed && job.Kind == JobKind.Receive)
            {
                await context.Pieces.Where(p => p.Id == job.SubjectId).ExecuteUpdateAsync(s => s.SetProperty(p => p.Problem, error));
            }

            if (mine == 1 && state == JobState.Done)
            {
                await NextPiece.FollowAsync(context, job);
            }

            await EventHub.NotifyAsync(context, new("job", job.Id, job.SubjectId));
        }, CancellationToken.None));
    }

    /// <summary>Tells the database how a job ended, for as long as a lease lasts; after that another process finds out by itself.</summary>
    private async Task PersistAsync(Func<BostelContext, JobLease, Task> tell)
    {
        var until = DateTime.UtcNow.AddSeconds(JobLease.Seconds);
        while (true)
        {
            try
            {
                await using var context = await contexts.CreateDbContextAsync();
                await tell(context, new(context));
                return;
            }
            catch (Exception e) when (DatabaseAway.Is(e) && DateTime.UtcNow < until)
            {
                await Task.Delay(TimeSpan.FromMilliseconds(500));
            }
        }
    }
}
