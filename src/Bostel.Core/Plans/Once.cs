namespace Bostel.Core.Plans;

/// <summary>Something sought once; a search that was cancelled or found nothing is begun anew by whoever asks next.</summary>
internal sealed class Once<T>
    where T : class
{
    private readonly Lock _lock = new();
    private T? _found;

    public T Get(Func<T> find)
    {
        lock (_lock)
        {
            return _found ??= find();
        }
    }
}
