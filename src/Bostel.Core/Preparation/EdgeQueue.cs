namespace Bostel.Core.Preparation;

/// <summary>An edge waiting to be collapsed. It is out of date when either end has changed since.</summary>
internal readonly record struct QueuedEdge(int A, int B, int Stamp);

/// <summary>
/// A priority queue by buckets: costs within an eighth of a power of two share one, taken last in, first out. Constant time an entry, and
/// the order is the same on every run.
/// </summary>
internal sealed class EdgeQueue
{
    private readonly List<QueuedEdge>?[] _buckets = new List<QueuedEdge>?[2048];
    private int _lowest = 2048;

    /// <param name="cost">0 or more.</param>
    public void Push(double cost, QueuedEdge edge)
    {
        // Exponent and three bits of mantissa of the positive single.
        var bucket = Math.Min(2047, BitConverter.SingleToInt32Bits((float)cost) >> 20);
        (_buckets[bucket] ??= []).Add(edge);
        _lowest = Math.Min(_lowest, bucket);
    }

    public bool TryPop(out QueuedEdge edge)
    {
        for (; _lowest < 2048; _lowest++)
        {
            if (_buckets[_lowest] is { Count: > 0 } bucket)
            {
                edge = bucket[^1];
                bucket.RemoveAt(bucket.Count - 1);
                return true;
            }

            _buckets[_lowest] = null;
        }

        edge = default;
        return false;
    }
}
