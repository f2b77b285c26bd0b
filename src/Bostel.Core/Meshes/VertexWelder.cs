using System.Numerics;
using System.Runtime.CompilerServices;

namespace Bostel.Core.Meshes;

/// <summary>Gives equal points one number: exact weld by open addressing on the bits of the coordinates.</summary>
internal sealed class VertexWelder<TKey>
    where TKey : struct, IWeldKey<TKey>
{
    /// <summary>
    /// Points met lately, by the low bits of their hash. The corners around a vertex follow each other closely in a file: most are found here, in the
    /// processor's cache, and not in the large table.
    /// </summary>
    private readonly int[] _recent = new int[1 << 15];

    private TKey[] _keys;
    private int[] _table;
    private int _count;

    public VertexWelder(int expected)
    {
        _keys = GC.AllocateUninitializedArray<TKey>(Math.Max(16, expected));
        _table = NewTable(2 * _keys.Length);
        Array.Fill(_recent, -1);
    }

    /// <summary>The number of the point, the same for points equal in every bit.</summary>
    public int Add(TKey key) => Add(key, key.Hash());

    /// <summary>The numbers of many points. Those not met lately are looked up together in the table, so that waiting for memory overlaps.</summary>
    public void Add(ReadOnlySpan<TKey> keys, Span<int> numbers)
    {
        const int Batch = 64;
        Span<int> hashes = stackalloc int[Batch];
        Span<int> later = stackalloc int[Batch];
        var touched = 0;
        for (var start = 0; start < keys.Length; start += Batch)
        {
            var (count, left, mask) = (Math.Min(Batch, keys.Length - start), 0, _table.Length - 1);
            for (var i = 0; i < count; i++)
            {
                ref readonly var key = ref keys[start + i];
                var hash = key.Hash();
                var recent = _recent[hash & (_recent.Length - 1)];
                if (recent >= 0 && _keys[recent].Same(key))
                {
                    numbers[start + i] = recent;
                    continue;
                }

                touched |= _table[hash & mask];
                hashes[left] = hash;
                later[left++] = start + i;
            }

            for (var k = 0; k < left; k++)
            {
                numbers[later[k]] = Add(keys[later[k]], hashes[k]);
            }
        }

        GC.KeepAlive(touched);
    }

    /// <summary>3·N, in the order of the numbers.</summary>
    public double[] Coordinates()
    {
        var coordinates = GC.AllocateUninitializedArray<double>(3 * _count);
        for (var i = 0; i < _count; i++)
        {
            (coordinates[3 * i], coordinates[(3 * i) + 1], coordinates[(3 * i) + 2]) = _keys[i].Point;
        }

        return coordinates;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private int Add(in TKey key, int hash)
    {
        ref var recent = ref _recent[hash & (_recent.Length - 1)];
        if (recent >= 0 && _keys[recent].Same(key))
        {
            return recent;
        }

        var mask = _table.Length - 1;
        var slot = hash & mask;
        for (; _table[slot] >= 0; slot = (slot + 1) & mask)
        {
            if (_keys[_table[slot]].Same(key))
            {
                return recent = _table[slot];
            }
        }

        if (_count == _keys.Length)
        {
            Array.Resize(ref _keys, 2 * _count);
        }

        _keys[_count] = key;
        _table[slot] = recent = _count++;
        if (2 * _count > _table.Length)
        {
            Grow();
        }

        return recent;
    }

    private static int[] NewTable(int atLeast)
    {
        var table = GC.AllocateUninitializedArray<int>((int)BitOperations.RoundUpToPowerOf2((uint)atLeast));
        Array.Fill(table, -1);
        return table;
    }

    private void Grow()
    {
        _table = NewTable(_table.Length * 2);
        var mask = _table.Length - 1;
        for (var i = 0; i < _count; i++)
        {
            var slot = _keys[i].Hash() & mask;
            while (_table[slot] >= 0)
            {
                slot = (slot + 1) & mask;
            }

            _table[slot] = i;
        }
    }
}
