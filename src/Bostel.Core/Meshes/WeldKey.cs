using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;

namespace Bostel.Core.Meshes;

/// <summary>The bits of a point's coordinates in the precision they came in; −0 counts as 0.</summary>
internal interface IWeldKey<TSelf>
    where TSelf : struct, IWeldKey<TSelf>
{
    Vector3D Point { get; }

    /// <summary>Not negative.</summary>
    int Hash();

    /// <summary>Equal in every bit.</summary>
    bool Same(in TSelf other);
}

/// <summary>Three single-precision coordinates.</summary>
internal readonly struct SingleKey : IWeldKey<SingleKey>
{
    private readonly Vector128<float> _bits;

    private SingleKey(Vector128<float> point) => _bits = point + Vector128<float>.Zero;

    public Vector3D Point => new(_bits.GetElement(0), _bits.GetElement(1), _bits.GetElement(2));

    /// <param name="bytes">The first 12 are the coordinates.</param>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static SingleKey Read(ReadOnlySpan<byte> bytes) =>
        new(Vector128.Create(MemoryMarshal.Read<ulong>(bytes), MemoryMarshal.Read<uint>(bytes[8..])).AsSingle());

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public int Hash()
    {
        var words = _bits.AsUInt64();
        var h = words.ToScalar() * 0x9E3779B97F4A7C15UL;
        h = ((h >> 31) ^ h ^ words.GetElement(1)) * 0x94D049BB133111EBUL;
        return (int)((h ^ (h >> 32)) & 0x7FFFFFFF);
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool Same(in SingleKey other) => _bits.AsInt32() == other._bits.AsInt32();
}

/// <summary>Three double-precision coordinates.</summary>
internal readonly struct DoubleKey(double x, double y, double z) : IWeldKey<DoubleKey>
{
    private readonly Vector256<double> _bits = Vector256.Create(x, y, z, 0) + Vector256<double>.Zero;

    public Vector3D Point => new(_bits.GetElement(0), _bits.GetElement(1), _bits.GetElement(2));

    public int Hash()
    {
        var words = _bits.AsUInt64();
        var h = words.ToScalar() * 0x9E3779B97F4A7C15UL;
        h = ((h >> 31) ^ h ^ words.GetElement(1)) * 0xBF58476D1CE4E5B9UL;
        h = ((h >> 29) ^ h ^ words.GetElement(2)) * 0x94D049BB133111EBUL;
        return (int)((h ^ (h >> 32)) & 0x7FFFFFFF);
    }

    public bool Same(in DoubleKey other) => _bits.AsInt64() == other._bits.AsInt64();
}
