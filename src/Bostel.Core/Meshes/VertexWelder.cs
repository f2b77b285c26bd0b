using System.Numerics;
using System.Runtime.CompilerServices;

namespace Bostel.Core.Meshes;

/// <summary>
/// Gives equal points one number: exact weld on the bits of the coordinates, numbered by first appearance. The corners around a vertex
/// follow each other closely in a file: most meet their number in a small memory of recent points, in the processor's cache. The others are
/// taken for new, and what was not is found when the numbers are settled: points are parted by their hash so that each part's table stays
/// in the cache too (radix partitioning, Manegold, Boncz and Kersten 2002).
/// </summary>
internal sealed class VertexWelder<TKey>
    where TKey : struct, IWeldKey<TKey>
{
    private const int Recent = 1 << 15;

    /// <summary>Points of a part, about.</summary>
    private const int Part = 2048;

    private readonly int[] _recent = new int[Recent];
    private readonly int _expected;
    private TKey[] _keys;
    private int _count;
    private int _settled;

    /// <param name="expected">Different points, about.</param>
    public VertexWelder(int expected)
    {
        _expected = Math.Max(16, expected);
        _keys = GC.AllocateUninitializedArray<TKey>(_expected + (_expected / 8));
        Array.Fill(_recent, -1);
    }

    /// <summary>Whether so many points wait that settling their numbers now saves memory.</summary>
    public bool IsFull => _count > (2L * _settled) + Math.Max(_expected + (_expected / 8), 1 << 20);

    /// <summary>The number of the point: equal points may have several until they are settled.</summary>
    public int Add(TKey key)
    {
        ref var recent = ref _recent[key.Hash() & (Recent - 1)];
        return recent >= 0 && _keys[recent].Same(key) ? recent : recent = Append(key);
    }

    /// <summary>The numbers of many points, as one after the other.</summary>
    public void Add(ReadOnlySpan<TKey> keys, Span<int> numbers)
    {
        for (var i = 0; i < keys.Length; i++)
        {
            ref readonly var key = ref keys[i];
            ref var recent = ref _recent[key.Hash() & (Recent - 1)];
            numbers[i] = recent >= 0 && _keys[recent].Same(key) ? recent : recent = Append(key);
        }
    }

    /// <summary>Gives equal points their one number.</summary>
    /// <param name="numbers">All that were handed out and are still in use; they are put right.</param>
    public void Settle(Span<int> numbers)
    {
        var first = First();
        var next = _settled;
        for (var i = _settled; i < _count; i++)
        {
            // Points before this one have their final number already.
            if (first[i] < i)
            {
                first[i] = first[first[i]];
                continue;
            }

            first[i] = next;
            _keys[next++] = _keys[i];
        }

        if (next < _count)
        {
            foreach (ref var number in numbers)
            {
                number = first[number];
            }

            foreach (ref var recent in _recent.AsSpan())
            {
                recent = recent < 0 ? recent : first[recent];
            }
        }

        _count = _settled = next;
    }

    /// <summary>3·N, in the order of the settled numbers.</summary>
    public double[] Coordinates()
    {
        var coordinates = GC.AllocateUninitializedArray<double>(3 * _settled);
        for (var i = 0; i < _settled; i++)
        {
            (coordinates[3 * i], coordinates[(3 * i) + 1], coordinates[(3 * i) + 2]) = _keys[i].Point;
        }

        return coordinates;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private int Append(in TKey key)
    {
        if (_count == _keys.Length)
        {
            Array.Resize(ref _keys, (int)Math.Min(2L * _count, Array.MaxLength));
        }

        _keys[_count] = key;
        return _count++;
    }

    /// <summary>The first point equal to each.</summary>
    private int[] First()
    {
        var parts = (int)BitOperations.RoundUpToPowerOf2((uint)Math.Clamp(_count / Part, 1, 1 << 14));
        var shift = 31 - BitOperations.Log2((uint)parts);
        var starts = new int[parts + 1];
        for (var i = 0; i < _count; i++)
        {
            starts[(int)((uint)_keys[i].Hash() >> shift) + 1]++;
        }

        for (var p = 0; p < parts; p++)
        {
            starts[p + 1] += starts[p];
        }

        var members = GC.AllocateUninitializedArray<(int Hash, int Point)>(_count);
        var fill = starts.AsSpan(0, parts).ToArray();
        for (var i = 0; i < _count; i++)
        {
            var hash = _keys[i].Hash();
            members[fill[(int)((uint)hash >> shift)]++] = (hash, i);
        }

        var first = GC.AllocateUninitializedArray<int>(_count);
        Parallel.For(0, parts, () => Array.Empty<int>(),
            (part, _, table) => FirstOf(members.AsSpan(starts[part]..starts[part + 1]), first, table), _ => { });
        return first;
    }

    /// <summary>Looks one part through by open addressing.</summary>
    /// <param name="table">Room for it, used again.</param>
    private int[] FirstOf(ReadOnlySpan<(int Hash, int Point)> part, int[] first, int[] table)
    {
        var size = (int)BitOperations.RoundUpToPowerOf2((uint)Math.Max(16, 2 * part.Length));
        if (table.Length < size)
        {
            table = new int[size];
        }

        table.AsSpan(0, size).Fill(-1);
        for (var k = 0; k < part.Length; k++)
        {
            var (hash, point) = part[k];
            var slot = hash & (size - 1);
            first[point] = point;
            for (; table[slot] >= 0; slot = (slot + 1) & (size - 1))
            {
                var (otherHash, other) = part[table[slot]];
                if (otherHash == hash && _keys[other].Same(_keys[point]))
                {
                    first[point] = other;
                    break;
                }
            }

            if (first[point] == point)
            {
                table[slot] = k;
            }
        }

        return table;
    }
}
