using System.Text.Json.Serialization;

namespace Bostel.Data;

/// <summary>What a job does.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<JobKind>))]
public enum JobKind
{
    [JsonStringEnumMemberName("nominal")]
    Nominal,

    [JsonStringEnumMemberName("receive")]
    Receive,

    [JsonStringEnumMemberName("capture")]
    Capture,

    [JsonStringEnumMemberName("prepare")]
    Prepare,

    [JsonStringEnumMemberName("align")]
    Align,

    [JsonStringEnumMemberName("compare")]
    Compare,

    [JsonStringEnumMemberName("measure")]
    Measure,

    [JsonStringEnumMemberName("evaluate")]
    Evaluate,

    [JsonStringEnumMemberName("run-plan")]
    RunPlan,

    [JsonStringEnumMemberName("issue")]
    Issue,

    [JsonStringEnumMemberName("deliver")]
    Deliver,
}

[JsonConverter(typeof(JsonStringEnumConverter<JobState>))]
public enum JobState
{
    [JsonStringEnumMemberName("queued")]
    Queued,

    [JsonStringEnumMemberName("running")]
    Running,

    [JsonStringEnumMemberName("done")]
    Done,

    [JsonStringEnumMemberName("failed")]
    Failed,

    [JsonStringEnumMemberName("cancelled")]
    Cancelled,
}

/// <summary>
/// A piece of background work. The row is the queue entry: it is there whole or not at all. A worker holds a running job by a lease that it
/// renews; when the lease ends, another takes the job up.
/// </summary>
public sealed class Job
{
    public Guid Id { get; set; }
    public JobKind Kind { get; set; }
    public Guid SubjectId { get; set; }

    /// <summary>What no two waiting or running jobs may work on at once; the database forbids it.</summary>
    public required string Claim { get; set; }
    public required string Arguments { get; set; }
    public JobState State { get; set; }
    public double Share { get; set; }
    public string What { get; set; } = "";
    public string? Error { get; set; }
    public bool CancelRequested { get; set; }

    /// <summary>How often it was begun and its process died.</summary>
    public int Attempts { get; set; }
    public string? Worker { get; set; }
    public DateTimeOffset? LeaseUntil { get; set; }
    public required string CreatedBy { get; set; }
    public DateTimeOffset CreatedAt { get; set; }
    public DateTimeOffset? FinishedAt { get; set; }
}
