using System.Text.Json;
using Bostel.Data;
using Bostel.Server.Services;
using Hangfire;

namespace Bostel.Server.Jobs;

/// <summary>What a job is told besides its subject.</summary>
public sealed record JobArguments
{
    public double[]? Transform { get; init; }
    public bool Refine { get; init; } = true;
    public string? FileSha { get; init; }
    public string? FileName { get; init; }
    public string? Unit { get; init; }
    public string? Serial { get; init; }
    public string? Recipe { get; init; }
}

/// <summary>Puts work into the queue that all server processes share.</summary>
public sealed class JobQueue(BostelContext context, IBackgroundJobClient engine)
{
    /// <summary>The job is in the database before it is handed to the engine.</summary>
    public async Task<Job> AddAsync(string kind, Guid subject, JobArguments arguments, string who, CancellationToken cancel = default)
    {
        var job = new Job
        {
            Id = Guid.NewGuid(),
            Kind = kind,
            SubjectId = subject,
            Arguments = JsonSerializer.Serialize(arguments),
            State = JobState.Queued,
            What = "Waiting",
            CreatedBy = who,
            CreatedAt = DateTimeOffset.UtcNow,
        };
        context.Jobs.Add(job);
        await context.SaveChangesAsync(cancel);
        engine.Enqueue<JobRunner>(r => r.RunAsync(job.Id, CancellationToken.None));
        await EventHub.NotifyAsync(context, new("job", job.Id, subject), cancel);
        return job;
    }
}
