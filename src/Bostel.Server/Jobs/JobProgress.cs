using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Jobs;

/// <summary>
/// Beside a running job: writes its progress to the database a few times a second, renews its lease, and looks there for a request to
/// cancel. Reports from many threads only set the latest value; one loop writes.
/// </summary>
public sealed class JobProgress(
    IDbContextFactory<BostelContext> contexts, Guid job, Guid subject, CancellationTokenSource cancel) : IProgress<RunProgress>
{
    private static readonly TimeSpan Every = TimeSpan.FromMilliseconds(250);
    private static readonly TimeSpan Renewal = TimeSpan.FromSeconds(JobLease.Seconds / 6.0);
    private readonly Lock _lock = new();
    private RunProgress _latest;
    private bool _fresh;

    /// <summary>Whether somebody asked for the job to be cancelled.</summary>
    public bool CancelWanted { get; private set; }

    public void Report(RunProgress value)
    {
        lock (_lock)
        {
            (_latest, _fresh) = (value, true);
        }
    }

    /// <summary>Runs beside the job until it is stopped. A database that is away for the moment does not end it.</summary>
    public async Task WatchAsync(CancellationToken stop)
    {
        var renewed = DateTime.UtcNow;
        while (!stop.IsCancellationRequested)
        {
            try
            {
                await using var context = await contexts.CreateDbContextAsync(stop);
                await WriteAsync(context, stop);
                if (DateTime.UtcNow - renewed > Renewal)
                {
                    if (!await new JobLease(context).RenewAsync(job, stop))
                    {
                        await cancel.CancelAsync();
                        return;
                    }

                    renewed = DateTime.UtcNow;
                }

                if (await context.Jobs.AnyAsync(j => j.Id == job && j.CancelRequested, stop))
                {
                    CancelWanted = true;
                    await cancel.CancelAsync();
                    return;
                }

                await Task.Delay(Every, stop);
            }
            catch (OperationCanceledException)
            {
                return;
            }
            catch (Exception e) when (DatabaseAway.Is(e))
            {
                await Task.Delay(Every, CancellationToken.None);
            }
        }
    }

    private async Task WriteAsync(BostelContext context, CancellationToken stop)
    {
        RunProgress? latest;
        lock (_lock)
        {
            latest = _fresh ? _latest : null;
            _fresh = false;
        }

        if (latest is { } p)
        {
            await context.Jobs.Where(j => j.Id == job && j.Worker == JobLease.Me)
                .ExecuteUpdateAsync(s => s.SetProperty(j => j.Share, p.Share).SetProperty(j => j.What, p.What), stop);
            await EventHub.NotifyAsync(context, new("job", job, subject), stop);
        }
    }
}
