using System.Buffers.Binary;
using System.IO.Compression;

namespace Bostel.Core.Figures;

/// <summary>Writes 8-bit RGB pictures as PNG (ISO/IEC 15948), so that the core needs no native picture library.</summary>
public static class PngWriter
{
    private static readonly uint[] Table = [.. Enumerable.Range(0, 256)
        .Select(n => Enumerable.Range(0, 8).Aggregate((uint)n, (c, _) => (c & 1) != 0 ? 0xEDB88320u ^ (c >> 1) : c >> 1))];

    /// <param name="rgb">width·height·3 bytes.</param>
    public static byte[] Encode(byte[] rgb, int width, int height)
    {
        using var output = new MemoryStream();
        output.Write([0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]);
        var header = new byte[13];
        BinaryPrimitives.WriteInt32BigEndian(header, width);
        BinaryPrimitives.WriteInt32BigEndian(header.AsSpan(4), height);
        (header[8], header[9]) = (8, 2);
        Chunk(output, "IHDR"u8, header);
        using var packed = new MemoryStream();
        using (var zlib = new ZLibStream(packed, CompressionLevel.Fastest, leaveOpen: true))
        {
            for (var y = 0; y < height; y++)
            {
                zlib.WriteByte(0);
                zlib.Write(rgb, y * width * 3, width * 3);
            }
        }

        Chunk(output, "IDAT"u8, packed.ToArray());
        Chunk(output, "IEND"u8, []);
        return output.ToArray();
    }

    private static void Chunk(Stream output, ReadOnlySpan<byte> kind, byte[] data)
    {
        Span<byte> number = stackalloc byte[4];
        BinaryPrimitives.WriteInt32BigEndian(number, data.Length);
        output.Write(number);
        output.Write(kind);
        output.Write(data);
        var crc = Update(Update(0xFFFFFFFF, kind), data) ^ 0xFFFFFFFF;
        BinaryPrimitives.WriteUInt32BigEndian(number, crc);
        output.Write(number);
    }

    private static uint Update(uint crc, ReadOnlySpan<byte> data)
    {
        foreach (var b in data)
        {
            crc = Table[(crc ^ b) & 0xFF] ^ (crc >> 8);
        }

        return crc;
    }
}
