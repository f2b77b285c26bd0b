using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Geometry;
using Bostel.Data;
using Bostel.Server.Services;
using Hangfire;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Jobs;

/// <summary>
/// Runs one job. A job whose process dies is fetched again by another process when its lease runs out; all work is such that doing it again does
/// no harm. A job stopped by its user, or that fails on its input, is finished.
/// </summary>
public sealed class JobRunner(
    IDbContextFactory<BostelContext> contexts, BostelContext context, StationService stations, ReceiveService receive, ReportService reports, ILogger<JobRunner> log)
{
    private const int MostAttempts = 3;

    [AutomaticRetry(Attempts = 0)]
    public async Task RunAsync(Guid jobId, CancellationToken stopping)
    {
        var job = await context.Jobs.SingleAsync(j => j.Id == jobId, stopping);
        if (job.State is JobState.Done or JobState.Failed or JobState.Cancelled)
        {
            return;
        }

        if (job.CancelRequested || job.Attempts >= MostAttempts)
        {
            await FinishAsync(job, job.CancelRequested ? JobState.Cancelled : JobState.Failed, job.CancelRequested ? null : "The work was started three times and its process died each time.");
            return;
        }

        (job.State, job.Attempts) = (JobState.Running, job.Attempts + 1);
        await context.SaveChangesAsync(stopping);
        using var cancel = CancellationTokenSource.CreateLinkedTokenSource(stopping);
        using var watchStop = new CancellationTokenSource();
        var progress = new JobProgress(contexts, job.Id, job.SubjectId, cancel);
        var watch = progress.WatchAsync(watchStop.Token);
        try
        {
            await WorkAsync(job, progress, cancel.Token);
            await StopAsync();
            await FinishAsync(job, JobState.Done, null);
        }
        catch (OperationCanceledException) when (!stopping.IsCancellationRequested)
        {
            await StopAsync();
            context.ChangeTracker.Clear();
            await FinishAsync(job, JobState.Cancelled, null);
        }
        catch (BadInputException e)
        {
            await StopAsync();
            await FailAsync(job, e.Message);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            log.LogError(e, "Job {Kind} {Id} failed", job.Kind, job.Id);
            await StopAsync();
            await FailAsync(job, e is InvalidOperationException ? e.Message : "The work failed inside the server; the log says more.");
        }

        async Task StopAsync()
        {
            await watchStop.CancelAsync();
            await watch;
        }
    }

    private async Task WorkAsync(Job job, JobProgress progress, CancellationToken cancel)
    {
        var arguments = JsonSerializer.Deserialize<JobArguments>(job.Arguments)!;
        switch (job.Kind)
        {
            case "nominal":
                await receive.NominalAsync(job.SubjectId, arguments, job.CreatedBy, progress, cancel);
                return;
            case "receive":
                await receive.ScanAsync(job.SubjectId, progress, cancel);
                return;
            case "capture":
                await receive.CaptureAsync(job.SubjectId, arguments, job.CreatedBy, progress, cancel);
                return;
            default:
                break;
        }

        var w = await stations.OpenAsync(job.SubjectId, cancel);
        switch (job.Kind)
        {
            case "prepare":
                await stations.PrepareAsync(w, job.CreatedBy, cancel);
                break;
            case "align":
                var given = arguments.Transform is { } t ? RigidTransform.FromArray(t) : (RigidTransform?)null;
                await stations.AlignAsync(w, job.CreatedBy, given, arguments.Refine, progress, cancel);
                break;
            case "evaluate":
                await stations.EvaluateAsync(w, job.CreatedBy, progress, cancel);
                break;
            case "run-plan":
                await stations.RunPlanAsync(w, job.CreatedBy, progress, cancel);
                break;
            case "issue":
                await reports.IssueAsync(w, job.CreatedBy, progress, cancel);
                break;
            default:
                throw new BadInputException($"The job kind '{job.Kind}' is not known.");
        }
    }

    private async Task FailAsync(Job job, string error)
    {
        context.ChangeTracker.Clear();
        if (job.Kind == "receive")
        {
            await context.Pieces.Where(p => p.Id == job.SubjectId).ExecuteUpdateAsync(s => s.SetProperty(p => p.Problem, error));
        }

        await FinishAsync(job, JobState.Failed, error);
    }

    private async Task FinishAsync(Job job, JobState state, string? error)
    {
        var now = DateTimeOffset.UtcNow;
        var what = state switch { JobState.Done => "Done", JobState.Cancelled => "Cancelled", _ => "Failed" };
        await context.Jobs.Where(j => j.Id == job.Id).ExecuteUpdateAsync(s => s
            .SetProperty(j => j.State, state).SetProperty(j => j.Error, error).SetProperty(j => j.FinishedAt, now).SetProperty(j => j.What, what)
            .SetProperty(j => j.Share, j => state == JobState.Done ? 1 : j.Share));
        await EventHub.NotifyAsync(context, new("job", job.Id, job.SubjectId));
    }
}
