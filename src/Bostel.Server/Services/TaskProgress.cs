using System.Diagnostics;
using Bostel.Core.Plans;

namespace Bostel.Server.Services;

/// <summary>
/// Progress of a request that answers by itself (trying steps, selecting): sent as events to the browser that named the task, a few times a
/// second.
/// </summary>
public sealed class TaskProgress(EventHub events, Guid task) : IProgress<RunProgress>
{
    /// <summary>The header a browser names its task with.</summary>
    public const string Header = "Bostel-Task";

    private static readonly TimeSpan Every = TimeSpan.FromMilliseconds(150);
    private long _last;

    /// <summary>Null when the browser asked for none.</summary>
    public static TaskProgress? Of(HttpContext http, EventHub events) =>
        Guid.TryParse(http.Request.Headers[Header], out var task) ? new(events, task) : null;

    public void Report(RunProgress value)
    {
        var last = Interlocked.Read(ref _last);
        if ((last == 0 || Stopwatch.GetElapsedTime(last) > Every)
            && Interlocked.CompareExchange(ref _last, Stopwatch.GetTimestamp(), last) == last)
        {
            events.Spread(new("task", task, task) { Share = value.Share, What = value.What });
        }
    }
}
