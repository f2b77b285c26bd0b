using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Jobs;

/// <summary>
/// Writes a job's progress to the database a few times a second and looks there for a request to cancel. Reports from many threads only set the
/// latest value; one loop writes.
/// </summary>
public sealed class JobProgress(IDbContextFactory<BostelContext> contexts, Guid job, Guid subject, CancellationTokenSource cancel) : IProgress<RunProgress>
{
    private readonly Lock _lock = new();
    private RunProgress _latest;
    private bool _fresh;

    public void Report(RunProgress value)
    {
        lock (_lock)
        {
            (_latest, _fresh) = (value, true);
        }
    }

    /// <summary>Runs beside the job until it is stopped.</summary>
    public async Task WatchAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            RunProgress? latest;
            lock (_lock)
            {
                latest = _fresh ? _latest : null;
                _fresh = false;
            }

            try
            {
                await using var context = await contexts.CreateDbContextAsync(stop);
                if (latest is { } p)
                {
                    await context.Jobs.Where(j => j.Id == job).ExecuteUpdateAsync(s => s.SetProperty(j => j.Share, p.Share).SetProperty(j => j.What, p.What), stop);
                    await EventHub.NotifyAsync(context, new("job", job, subject), stop);
                }

                if (await context.Jobs.AnyAsync(j => j.Id == job && j.CancelRequested, stop))
                {
                    await cancel.CancelAsync();
                }

                await Task.Delay(250, stop);
            }
            catch (OperationCanceledException)
            {
                return;
            }
            catch (Exception e) when (e is Npgsql.NpgsqlException or DbUpdateException or InvalidOperationException)
            {
                // The database is away for the moment; the job itself will find out when it saves.
                await Task.Delay(1000, CancellationToken.None);
            }
        }
    }
}
