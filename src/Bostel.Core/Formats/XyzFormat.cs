using System.Globalization;
using System.Text;
using Bostel.Core.Meshes;

namespace Bostel.Core.Formats;

/// <summary>Plain text points, one a line: the first three numbers are x y z. Lines starting with # or // and one header line are skipped.</summary>
internal static class XyzFormat
{
    public static MeshFile Read(ReadContext context)
    {
        var coordinates = new List<double>();
        var scanner = new TextScanner(context.Bytes);
        var headerSeen = false;
        while (scanner.NextLine(out var line))
        {
            if (line.IsEmpty || line[0] == (byte)'#' || line.StartsWith("//"u8))
            {
                continue;
            }

            var whole = line;
            if (TextScanner.Number(TextScanner.Word(ref line), out var x) && TextScanner.Number(TextScanner.Word(ref line), out var y) &&
                TextScanner.Number(TextScanner.Word(ref line), out var z))
            {
                coordinates.AddRange([x, y, z]);
            }
            else if (coordinates.Count == 0 && !headerSeen)
            {
                headerSeen = true;
            }
            else
            {
                var shown = Encoding.UTF8.GetString(whole[..Math.Min(40, whole.Length)]);
                throw context.Bad($"line {scanner.LineNumber} is not a point with three numbers: '{shown}'.");
            }

            if ((scanner.LineNumber & 0xFFFF) == 0)
            {
                context.Report(scanner.Position, context.Bytes.Length);
            }
        }

        return coordinates.Count == 0
            ? throw context.Bad("contains no points.")
            : new(new([.. coordinates], []), "XYZ text", ["a point cloud without triangles"]);
    }

    public static void Write(Stream stream, TriangleMesh mesh, float[]? deviation)
    {
        using var writer = new StreamWriter(stream, leaveOpen: true) { NewLine = "\n" };
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            var p = mesh.Vertex(v);
            var tail = deviation is null ? "" : string.Create(CultureInfo.InvariantCulture, $" {deviation[v]:R}");
            writer.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{p.X:R} {p.Y:R} {p.Z:R}") + tail);
        }
    }
}
