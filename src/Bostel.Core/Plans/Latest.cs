namespace Bostel.Core.Plans;

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
