using System.Buffers.Binary;
using System.Text;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Formats;

/// <summary>PLY, text and binary of both byte orders; normals of a cloud are kept, other properties skipped, polygons fanned.</summary>
internal static class PlyFormat
{
    private sealed record Property(string Name, string Type, string? CountType);

    private sealed record Element(string Name, long Count, List<Property> Properties);

    public static MeshFile Read(ReadContext context)
    {
        var (encoding, elements, bodyStart) = ReadHeader(context);
        var smallest = elements.Sum(e => e.Count * e.Properties.Sum(p => p.CountType is null ? Size(p.Type) : Size(p.CountType)));
        if (encoding != "ascii" && smallest > context.Bytes.Length - bodyStart)
        {
            throw context.Bad("the file is cut off or damaged: it announces more data than it holds.");
        }

        IValueSource source = encoding == "ascii"
            ? new TextValues(context, bodyStart)
            : new BinaryValues(context, bodyStart, encoding == "binary_big_endian");
        var coordinates = new List<double>();
        var indices = new List<int>();
        var normals = new List<float>();
        foreach (var element in elements)
        {
            for (long i = 0; i < element.Count; i++)
            {
                if ((i & 0xFFFF) == 0)
                {
                    context.Report(source.Position, context.Bytes.Length);
                }

                ReadOne(element, source, coordinates, normals, indices, context);
            }
        }

        var cloud = indices.Count == 0 && normals.Count == coordinates.Count;
        return new(new([.. coordinates], [.. indices], pointNormals: cloud ? [.. normals] : null), $"PLY {encoding.Replace('_', ' ')}", []);
    }

    public static void Write(Stream stream, TriangleMesh mesh, float[]? deviation)
    {
        var header = new StringBuilder("ply\nformat binary_little_endian 1.0\ncomment Bostel, mm\n")
            .Append("element vertex ").Append(mesh.VertexCount).Append("\nproperty double x\nproperty double y\nproperty double z\n")
            .Append(deviation is null ? "" : "property float deviation\n")
            .Append("element face ").Append(mesh.TriangleCount).Append("\nproperty list uchar int vertex_indices\nend_header\n");
        stream.Write(Encoding.ASCII.GetBytes(header.ToString()));
        using var writer = new BinaryWriter(stream, Encoding.ASCII, leaveOpen: true);
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            writer.Write(mesh.Coordinates[3 * v]);
            writer.Write(mesh.Coordinates[(3 * v) + 1]);
            writer.Write(mesh.Coordinates[(3 * v) + 2]);
            if (deviation is not null)
            {
                writer.Write(deviation[v]);
            }
        }

        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            writer.Write((byte)3);
            writer.Write(mesh.Indices[t]);
            writer.Write(mesh.Indices[t + 1]);
            writer.Write(mesh.Indices[t + 2]);
        }
    }

    private static (string Encoding, List<Element> Elements, int BodyStart) ReadHeader(ReadContext context)
    {
        var scanner = new TextScanner(context.Bytes);
        if (!scanner.NextLine(out var first) || !first.SequenceEqual("ply"u8))
        {
            throw context.Bad("is not a PLY file: the first line is not 'ply'.");
        }

        var encoding = "";
        var elements = new List<Element>();
        while (scanner.NextLine(out var line))
        {
            var words = Encoding.ASCII.GetString(line).Split(' ', StringSplitOptions.RemoveEmptyEntries);
            switch (words)
            {
                case ["end_header"]:
                    return encoding is "ascii" or "binary_little_endian" or "binary_big_endian"
                        ? (encoding, elements, scanner.Position)
                        : throw context.Bad("its encoding is none that PLY has.");
                case ["format", var format, _]:
                    encoding = format;
                    break;
                case ["element", var name, var count]:
                    elements.Add(new(name, long.TryParse(count, out var n) && n >= 0 && n < int.MaxValue
                        ? n : throw context.Bad("the count of an element is no number."), []));
                    break;
                case ["property", "list", var countType, var type, var name] when elements.Count > 0:
                    elements[^1].Properties.Add(new(name, type, countType));
                    break;
                case ["property", var type, var name] when elements.Count > 0:
                    elements[^1].Properties.Add(new(name, type, null));
                    break;
                default:
                    break;
            }
        }

        throw context.Bad("the PLY header has no end.");
    }

    private static void ReadOne(
        Element element, IValueSource source, List<double> coordinates, List<float> normals, List<int> indices, ReadContext context)
    {
        double x = 0, y = 0, z = 0;
        var normal = Vector3D.Zero;
        var hasNormal = false;
        foreach (var property in element.Properties)
        {
            if (property.CountType is null)
            {
                var value = source.Next(property.Type);
                switch (property.Name)
                {
                    case "x": x = value; break;
                    case "y": y = value; break;
                    case "z": z = value; break;
                    case "nx": normal = normal with { X = value }; break;
                    case "ny": normal = normal with { Y = value }; break;
                    case "nz": (normal, hasNormal) = (normal with { Z = value }, true); break;
                    default: break;
                }

                continue;
            }

            var count = (int)source.Next(property.CountType);
            if (count is < 0 or > 100_000)
            {
                throw context.Bad($"a polygon announces {count} corners.");
            }

            var wanted = element.Name == "face" && property.Name is "vertex_indices" or "vertex_index";
            int a = 0, previous = 0;
            for (var k = 0; k < count; k++)
            {
                var index = (int)source.Next(property.Type);
                if (wanted && k == 0)
                {
                    a = index;
                }
                else if (wanted && k >= 2)
                {
                    indices.AddRange([a, previous, index]);
                }

                previous = index;
            }
        }

        if (element.Name == "vertex")
        {
            coordinates.AddRange([x, y, z]);
            if (hasNormal)
            {
                normals.AddRange([(float)normal.X, (float)normal.Y, (float)normal.Z]);
            }
        }
    }

    private static int Size(string type) => type switch
    {
        "char" or "uchar" or "int8" or "uint8" => 1,
        "short" or "ushort" or "int16" or "uint16" => 2,
        "double" or "float64" => 8,
        _ => 4,
    };

    private interface IValueSource
    {
        int Position { get; }

        double Next(string type);
    }

    private sealed class TextValues(ReadContext context, int start) : IValueSource
    {
        public int Position { get; private set; } = start;

        public double Next(string type)
        {
            var rest = context.Bytes.AsSpan(Position);
            var skip = rest.IndexOfAnyExcept(" \t\r\n"u8);
            if (skip < 0)
            {
                throw context.Bad("the file is cut off: it announces more data than it holds.");
            }

            var length = rest[skip..].IndexOfAny(" \t\r\n"u8);
            var word = length < 0 ? rest[skip..] : rest.Slice(skip, length);
            Position += skip + word.Length;
            return TextScanner.Number(word, out var value)
                ? value
                : throw context.Bad("a word stands where a number should be.");
        }
    }

    private sealed class BinaryValues(ReadContext context, int start, bool big) : IValueSource
    {
        public int Position { get; private set; } = start;

        public double Next(string type)
        {
            var size = Size(type);
            if (Position + size > context.Bytes.Length)
            {
                throw context.Bad("the file is cut off: it announces more data than it holds.");
            }

            Span<byte> value = stackalloc byte[8];
            context.Bytes.AsSpan(Position, size).CopyTo(value);
            Position += size;
            if (big)
            {
                value[..size].Reverse();
            }

            return type switch
            {
                "char" or "int8" => (sbyte)value[0],
                "uchar" or "uint8" => value[0],
                "short" or "int16" => BinaryPrimitives.ReadInt16LittleEndian(value),
                "ushort" or "uint16" => BinaryPrimitives.ReadUInt16LittleEndian(value),
                "int" or "int32" => BinaryPrimitives.ReadInt32LittleEndian(value),
                "uint" or "uint32" => BinaryPrimitives.ReadUInt32LittleEndian(value),
                "double" or "float64" => BinaryPrimitives.ReadDoubleLittleEndian(value),
                "float" or "float32" => BinaryPrimitives.ReadSingleLittleEndian(value),
                _ => throw context.Bad("the type of a property is not known."),
            };
        }
    }
}
