using Bostel.Data;

namespace Bostel.Server.Jobs;

/// <summary>Takes jobs from the queue and runs them, one at a time: each uses all cores.</summary>
public sealed class JobWorker(IServiceScopeFactory scopes, ILogger<JobWorker> log) : BackgroundService
{
    private static readonly TimeSpan Idle = TimeSpan.FromMilliseconds(200);
    private static readonly TimeSpan Sweep = TimeSpan.FromSeconds(30);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var swept = DateTime.MinValue;
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await using var scope = scopes.CreateAsyncScope();
                var lease = new JobLease(scope.ServiceProvider.GetRequiredService<BostelContext>());
                if (DateTime.UtcNow - swept > Sweep)
                {
                    await lease.FreeOfTheDeadAsync(stoppingToken);
                    swept = DateTime.UtcNow;
                }

                if (await lease.TakeAsync(stoppingToken) is { } job)
                {
                    await scope.ServiceProvider.GetRequiredService<JobRunner>().RunAsync(job, stoppingToken);
                }
                else
                {
                    await Task.Delay(Idle, stoppingToken);
                }
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                // The queue goes on whatever happened; a job that was taken comes back when its lease ends.
                log.LogWarning("The queue could not be worked on just now: {Reason}", e.Message);
                await Task.Delay(Idle, CancellationToken.None);
            }
        }
    }
}
