using System.Runtime.InteropServices;

namespace Bostel.Server.Tests;

/// <summary>The stage's geometry, read by its description; pieces of records by the library's own decoder.</summary>
internal sealed partial class StageBlock
{
    private readonly BinaryReader _reader;

    public StageBlock(byte[] bytes)
    {
        using var reader = _reader = new(new MemoryStream(bytes));
        Assert.Equal("BGEO", new string(_reader.ReadChars(4)));
        Head = [.. Enumerable.Range(0, 7).Select(_ => _reader.ReadInt32())];
        Origin = [.. Enumerable.Range(0, 3).Select(_ => _reader.ReadDouble())];
        Positions = Records<float>(Vertices, 3);
        Corners = Records<int>(Triangles, 3, triangles: true);
        Labels = (Head[5] & 1) == 0 ? [] : Records<int>(Triangles, 1);
        Segments = (Head[5] & 2) == 0 ? [] : Records<float>(Head[4], 6);
        Values = (Head[5] & 4) == 0 ? [] : Records<float>(Vertices, 1);
        Assert.Equal(bytes.Length, reader.BaseStream.Position);
    }

    /// <summary>Version, counts of vertices, triangles, measured triangles and edge segments, flags, nothing.</summary>
    public int[] Head { get; }

    public int Vertices => Head[1];

    public int Triangles => Head[2];

    public int Measured => Head[3];

    public double[] Origin { get; }

    /// <summary>About the origin.</summary>
    public float[] Positions { get; }

    public int[] Corners { get; }

    public int[] Labels { get; }

    public float[] Segments { get; }

    public float[] Values { get; }

    /// <summary>A vertex somewhere on the scan, in its own coordinates.</summary>
    public double[] Middle() => [.. Enumerable.Range(0, 3).Select(k => Origin[k] + Positions[(3 * (Vertices / 2)) + k])];

    /// <summary>Pieces of 65,536 records, a length before each.</summary>
    private T[] Records<T>(int count, int numbers, bool triangles = false)
        where T : struct
    {
        var all = new T[count * numbers];
        for (var from = 0; from < count; from += 65536)
        {
            var piece = Math.Min(65536, count - from);
            var bytes = _reader.ReadBytes(_reader.ReadInt32());
            ref var place = ref MemoryMarshal.GetReference(MemoryMarshal.AsBytes(all.AsSpan(from * numbers)));
            Assert.Equal(0, triangles
                ? DecodeIndexBuffer(ref place, (nuint)(3 * piece), 4, in bytes[0], (nuint)bytes.Length)
                : DecodeVertexBuffer(ref place, (nuint)piece, (nuint)(4 * numbers), in bytes[0], (nuint)bytes.Length));
        }

        return all;
    }

    [LibraryImport("libmeshoptimizer.so.2d", EntryPoint = "meshopt_decodeVertexBuffer")]
    private static partial int DecodeVertexBuffer(ref byte to, nuint count, nuint size, in byte buffer, nuint length);

    [LibraryImport("libmeshoptimizer.so.2d", EntryPoint = "meshopt_decodeIndexBuffer")]
    private static partial int DecodeIndexBuffer(ref byte to, nuint count, nuint size, in byte buffer, nuint length);
}
