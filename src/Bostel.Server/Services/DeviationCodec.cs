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

    public static DeviationMap Decode(byte[] bytes)
    {
        var n = BitConverter.ToInt32(bytes);
        var values = new double[n];
        var triangles = new int[n];
        bytes.AsSpan(4, 8 * n).CopyTo(MemoryMarshal.AsBytes(values.AsSpan()));
        bytes.AsSpan(4 + (8 * n), 4 * n).CopyTo(MemoryMarshal.AsBytes(triangles.AsSpan()));
        return new(values, triangles);
    }
}
