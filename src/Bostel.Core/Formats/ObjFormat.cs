using System.Globalization;
using Bostel.Core.Meshes;

namespace Bostel.Core.Formats;

/// <summary>Wavefront-style OBJ text: v and f lines; polygons are fanned, negative indices count from the end.</summary>
internal static class ObjFormat
{
    public static MeshFile Read(ReadContext context)
    {
        var coordinates = new List<double>();
        var indices = new List<int>();
        var polygon = new List<int>();
        var scanner = new TextScanner(context.Bytes);
        while (scanner.NextLine(out var line))
        {
            var word = TextScanner.Word(ref line);
            if (word.SequenceEqual("v"u8))
            {
                for (var k = 0; k < 3; k++)
                {
                    if (!TextScanner.Number(TextScanner.Word(ref line), out var value))
                    {
                        throw context.Bad($"line {scanner.LineNumber} is not a vertex with three numbers.");
                    }

                    coordinates.Add(value);
                }
            }
            else if (word.SequenceEqual("f"u8))
            {
                polygon.Clear();
                for (var corner = TextScanner.Word(ref line); corner.Length > 0; corner = TextScanner.Word(ref line))
                {
                    var slash = corner.IndexOf((byte)'/');
                    if (!TextScanner.Number(slash < 0 ? corner : corner[..slash], out var number) || number != Math.Floor(number))
                    {
                        throw context.Bad($"line {scanner.LineNumber} is not a face of vertex numbers.");
                    }

                    var index = number < 0 ? (coordinates.Count / 3) + (int)number : (int)number - 1;
                    if (number == 0 || index < 0)
                    {
                        throw context.Bad($"line {scanner.LineNumber} refers to a vertex that does not exist.");
                    }

                    polygon.Add(index);
                }

                for (var k = 1; k + 1 < polygon.Count; k++)
                {
                    indices.AddRange([polygon[0], polygon[k], polygon[k + 1]]);
                }
            }

            if ((scanner.LineNumber & 0xFFFF) == 0)
            {
                context.Report(scanner.Position, context.Bytes.Length);
            }
        }

        return new(new([.. coordinates], [.. indices]), "OBJ", []);
    }

    public static void Write(Stream stream, TriangleMesh mesh)
    {
        using var writer = new StreamWriter(stream, leaveOpen: true) { NewLine = "\n" };
        writer.WriteLine("# Bostel, mm");
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            var p = mesh.Vertex(v);
            writer.WriteLine(string.Create(CultureInfo.InvariantCulture, $"v {p.X:R} {p.Y:R} {p.Z:R}"));
        }

        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            writer.WriteLine(string.Create(
                CultureInfo.InvariantCulture, $"f {mesh.Indices[t] + 1} {mesh.Indices[t + 1] + 1} {mesh.Indices[t + 2] + 1}"));
        }
    }
}
