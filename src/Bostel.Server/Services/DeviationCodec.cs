using System.Runtime.InteropServices;
using Bostel.Core.Comparison;

namespace Bostel.Server.Services;

/// <summary>A deviation map as bytes: count, then doubles, then closest triangles; little-endian.</summary>
public static class DeviationCodec
{
    public static byte[] Encode(DeviationMap map)
    {
        var bytes = new byte[4 + (12 * map.Values.Length)];
        BitConverter.TryWriteBytes(bytes, map.Values.Length);
        MemoryMarshal.AsBytes(map.Values.AsSpan()).CopyTo(bytes.AsSpan(4));
        MemoryMarshal.AsBytes(map.Triangles.AsSpan()).CopyTo(bytes.AsSpan(4 + (8 * map.Values.Length)));
        return bytes;
    }

    public static DeviationMap Decode(Stream stream)
    {
        Span<byte> count = stackalloc byte[4];
        stream.ReadExactly(count);
        var n = BitConverter.ToInt32(count);
        var (values, triangles) = (new double[n], new int[n]);
        stream.ReadExactly(MemoryMarshal.AsBytes(values.AsSpan()));
        stream.ReadExactly(MemoryMarshal.AsBytes(triangles.AsSpan()));
        return new(values, triangles);
    }
}
