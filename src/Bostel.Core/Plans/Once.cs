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

/// <summary>What was made last, until something else is asked for; whoever asks meanwhile waits.</summary>
internal sealed class Latest<TKey, T>
    where TKey : IEquatable<TKey>
    where T : class
{
    private readonly Lock _lock = new();
    private TKey? _key;
    private T? _made;

    public T Get(TKey key, Func<T> make)
    {
        lock (_lock)
        {
            if (_made is null || !key.Equals(_key))
            {
                (_made, _key) = (make(), key);
            }

            return _made;
        }
    }
}
