namespace Bostel.Core.Meshes;

/// <summary>Gives equal points one number: exact weld by open addressing on the bits of the coordinates.</summary>
public sealed class VertexWelder
{
    /// <summary>
    /// Points met lately, by the low bits of their hash. The corners around a vertex follow each other closely in a file: most are found here, in the
    /// processor's cache, and not in the large table.
    /// </summary>
    private readonly int[] _recent = new int[1 << 15];

    private double[] _coordinates;
    private int[] _table;
    private int _count;

    public VertexWelder(int expected)
    {
        _coordinates = new double[3 * Math.Max(16, expected)];
        _table = NewTable(2 * Math.Max(16, expected));
        Array.Fill(_recent, -1);
    }

    public int Count => _count;

    /// <summary>The number of the point, the same for points equal in every bit (−0 counts as 0).</summary>
    public int Add(double x, double y, double z)
    {
        x += 0.0;
        y += 0.0;
        z += 0.0;
        var hash = Hash(x, y, z);
        ref var recent = ref _recent[hash & (_recent.Length - 1)];
        if (recent >= 0 && Is(recent, x, y, z))
        {
            return recent;
        }

        var mask = _table.Length - 1;
        var slot = hash & mask;
        while (_table[slot] >= 0)
        {
            if (Is(_table[slot], x, y, z))
            {
                return recent = _table[slot];
            }

            slot = (slot + 1) & mask;
        }

        recent = _count;

        if (3 * (_count + 1) > _coordinates.Length)
        {
            Array.Resize(ref _coordinates, _coordinates.Length * 2);
        }

        _coordinates[3 * _count] = x;
        _coordinates[(3 * _count) + 1] = y;
        _coordinates[(3 * _count) + 2] = z;
        _table[slot] = _count++;
        if (2 * _count > _table.Length)
        {
            Grow();
        }

        return _count - 1;
    }

    public double[] Coordinates() => _coordinates.AsSpan(0, 3 * _count).ToArray();

    private bool Is(int i, double x, double y, double z) => _coordinates[3 * i] == x && _coordinates[(3 * i) + 1] == y && _coordinates[(3 * i) + 2] == z;

    private static int[] NewTable(int atLeast)
    {
        var table = new int[(int)System.Numerics.BitOperations.RoundUpToPowerOf2((uint)atLeast)];
        Array.Fill(table, -1);
        return table;
    }

    private void Grow()
    {
        _table = NewTable(_table.Length * 2);
        var mask = _table.Length - 1;
        for (var i = 0; i < _count; i++)
        {
            var slot = Hash(_coordinates[3 * i], _coordinates[(3 * i) + 1], _coordinates[(3 * i) + 2]) & mask;
            while (_table[slot] >= 0)
            {
                slot = (slot + 1) & mask;
            }

            _table[slot] = i;
        }
    }

    private static int Hash(double x, double y, double z)
    {
        var h = (ulong)BitConverter.DoubleToInt64Bits(x) * 0x9E3779B97F4A7C15UL;
        h = ((h >> 31) ^ h ^ (ulong)BitConverter.DoubleToInt64Bits(y)) * 0xBF58476D1CE4E5B9UL;
        h = ((h >> 29) ^ h ^ (ulong)BitConverter.DoubleToInt64Bits(z)) * 0x94D049BB133111EBUL;
        return (int)((h ^ (h >> 32)) & 0x7FFFFFFF);
    }
}
