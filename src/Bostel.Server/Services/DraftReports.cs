using Bostel.Reports;

namespace Bostel.Server.Services;

/// <summary>What was drawn for the drafts looked at last: an edit of the layout draws nothing again. Safe for concurrent use.</summary>
public sealed class DraftReports
{
    /// <summary>A model holds some MB of pictures.</summary>
    private const int Most = 4;

    private readonly KeyedLock _locks = new();
    private readonly Lock _gate = new();
    private readonly LinkedList<(string Key, ReportModel Model)> _kept = new();

    public async Task<ReportModel> GetAsync(string key, Func<Task<ReportModel>> make, CancellationToken cancel)
    {
        using var _ = await _locks.TakeAsync(key, cancel);
        if (Known(key) is { } known)
        {
            return known;
        }

        var made = await make();
        lock (_gate)
        {
            _kept.AddFirst((key, made));
            while (_kept.Count > Most)
            {
                _kept.RemoveLast();
            }
        }

        return made;
    }

    private ReportModel? Known(string key)
    {
        lock (_gate)
        {
            var node = _kept.First;
            while (node is not null && node.Value.Key != key)
            {
                node = node.Next;
            }

            if (node is null)
            {
                return null;
            }

            _kept.Remove(node);
            _kept.AddFirst(node);
            return node.Value.Model;
        }
    }
}
