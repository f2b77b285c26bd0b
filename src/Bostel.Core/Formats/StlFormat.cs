using System.Buffers.Binary;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Formats;

/// <summary>STL, binary and text. Which of the two is decided by the size the binary count implies, not by the word "solid".</summary>
internal static class StlFormat
{
    private const int Header = 84;
    private const int Facet = 50;

    /// <summary>Facets read or written at a time.</summary>
    private const int Batch = 4096;

    /// <summary>
    /// Reads a well-formed binary file piece by piece, so that its bytes never lie in memory as a whole; null for any other, with the
    /// stream where it was.
    /// </summary>
    public static MeshFile? ReadPiecewise(Stream stream, ReadContext context)
    {
        if (!stream.CanSeek || stream.Length - stream.Position is var length && length <= Header)
        {
            return null;
        }

        var start = stream.Position;
        var header = new byte[Header];
        stream.ReadExactly(header);
        var count = BinaryPrimitives.ReadUInt32LittleEndian(header.AsSpan(80));
        if (count > 0 && 3L * count < Array.MaxLength && Header + ((long)count * Facet) == length)
        {
            return ReadBinary(stream, context, (int)count);
        }

        stream.Position = start;
        return null;
    }

    public static MeshFile Read(ReadContext context)
    {
        var bytes = context.Bytes;
        var looksText = bytes.AsSpan(0, Math.Min(bytes.Length, 512)).TrimStart(" \t\r\n"u8).StartsWith("solid"u8);
        if (bytes.Length >= Header)
        {
            var count = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(80));
            var expected = Header + ((long)count * Facet);
            if (expected == bytes.Length)
            {
                return ReadBinary(Facets(context), context, (int)count);
            }

            // Some writers leave the count empty until they are done and never come back to it, or append something of their own.
            var whole = (bytes.Length - Header) % Facet == 0 && bytes.Length > Header;
            if (!looksText && whole && count is 0 or uint.MaxValue)
            {
                var held = (bytes.Length - Header) / Facet;
                return ReadBinary(Facets(context), context, held) is var file
                    ? file with { Remarks = [$"the file announces {count} triangles and holds {held}; those it holds were read"] }
                    : file;
            }

            if (!looksText && count > 0 && expected < bytes.Length)
            {
                return ReadBinary(Facets(context), context, (int)count) is var file
                    ? file with { Remarks = [$"{bytes.Length - expected} bytes after the last triangle were not read"] }
                    : file;
            }

            if (!looksText)
            {
                throw context.Bad(
                    $"the file is cut off or damaged: it announces {count} triangles but holds {(bytes.Length - Header) / Facet}.");
            }
        }
        else if (!looksText)
        {
            throw context.Bad("too short to be an STL file.");
        }

        return ReadText(context);
    }

    public static void Write(Stream stream, TriangleMesh mesh)
    {
        var buffer = new byte[Batch * Facet];
        var header = buffer.AsSpan(0, Header);
        "Bostel, mm"u8.CopyTo(header);
        BinaryPrimitives.WriteInt32LittleEndian(header[80..], mesh.TriangleCount);
        stream.Write(header);
        for (var start = 0; start < mesh.TriangleCount; start += Batch)
        {
            var some = Math.Min(Batch, mesh.TriangleCount - start);
            Array.Clear(buffer);
            for (var t = 0; t < some; t++)
            {
                var (a, b, c) = mesh.Triangle(start + t);
                var at = buffer.AsSpan(t * Facet);
                WriteVector(at, (b - a).Cross(c - a).Normalized());
                WriteVector(at[12..], a);
                WriteVector(at[24..], b);
                WriteVector(at[36..], c);
            }

            stream.Write(buffer, 0, Facet * some);
        }
    }

    private static void WriteVector(Span<byte> at, Vector3D v)
    {
        BinaryPrimitives.WriteSingleLittleEndian(at, (float)v.X);
        BinaryPrimitives.WriteSingleLittleEndian(at[4..], (float)v.Y);
        BinaryPrimitives.WriteSingleLittleEndian(at[8..], (float)v.Z);
    }

    private static MemoryStream Facets(ReadContext context) => new(context.Bytes, Header, context.Bytes.Length - Header);

    /// <param name="facets">Stands at the first facet.</param>
    private static MeshFile ReadBinary(Stream facets, ReadContext context, int count)
    {
        if (count == 0)
        {
            throw context.Bad("contains no triangles.");
        }

        var welder = new VertexWelder<SingleKey>(count / 2);
        var indices = GC.AllocateUninitializedArray<int>(3 * count);
        var corners = new SingleKey[3 * Batch];
        var bytes = new byte[Facet * Batch];
        for (var start = 0; start < count; start += Batch)
        {
            var some = Math.Min(Batch, count - start);
            facets.ReadExactly(bytes, 0, Facet * some);
            for (var t = 0; t < some; t++)
            {
                var facet = bytes.AsSpan(t * Facet, Facet);
                (corners[3 * t], corners[(3 * t) + 1], corners[(3 * t) + 2]) =
                    (SingleKey.Read(facet[12..]), SingleKey.Read(facet[24..]), SingleKey.Read(facet[36..]));
            }

            welder.Add(corners.AsSpan(0, 3 * some), indices.AsSpan(3 * start, 3 * some));
            if (welder.IsFull)
            {
                welder.Settle(indices.AsSpan(0, 3 * (start + some)));
            }

            context.Report(start, count);
        }

        welder.Settle(indices);
        return new(new(welder.Coordinates(), indices), "STL binary", []);
    }

    private static MeshFile ReadText(ReadContext context)
    {
        var welder = new VertexWelder<DoubleKey>(context.Bytes.Length / 300);
        var indices = new List<int>();
        var scanner = new TextScanner(context.Bytes);
        var closed = false;
        while (scanner.NextLine(out var line))
        {
            var word = TextScanner.Word(ref line);
            if (word.SequenceEqual("vertex"u8))
            {
                if (!TextScanner.Number(TextScanner.Word(ref line), out var x)
                    || !TextScanner.Number(TextScanner.Word(ref line), out var y) ||
                    !TextScanner.Number(TextScanner.Word(ref line), out var z))
                {
                    throw context.Bad($"line {scanner.LineNumber} is not a vertex with three numbers.");
                }

                indices.Add(welder.Add(new(x, y, z)));
            }
            else if (word.SequenceEqual("endsolid"u8))
            {
                closed = true;
            }

            if ((scanner.LineNumber & 0xFFFF) == 0)
            {
                context.Report(scanner.Position, context.Bytes.Length);
            }
        }

        if (indices.Count % 3 != 0 || !closed)
        {
            throw context.Bad("the text is cut off: the last facet or 'endsolid' is missing.");
        }

        int[] numbers = [.. indices];
        welder.Settle(numbers);
        return new(new(welder.Coordinates(), numbers), "STL text", []);
    }
}
