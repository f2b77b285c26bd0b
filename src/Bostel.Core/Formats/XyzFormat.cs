using System.Globalization;
using Bostel.Core.Meshes;

namespace Bostel.Core.Formats;

/// <summary>
/// Plain text points, one a line, in any order of columns (see <see cref="PointColumns"/>). Lines starting with # or // and one heading are
/// skipped; a lone count before the points (PTS) is compared with what follows.
/// </summary>
internal static class XyzFormat
{
    private const int MostColumns = 64;

    public static MeshFile Read(ReadContext context, PointColumns? given)
    {
        var columns = given ?? PointColumns.Guess(context.Bytes);
        var coordinates = new List<double>();
        var normals = columns.HasNormals ? new List<float>() : null;
        var scanner = new TextScanner(context.Bytes);
        var headingSeen = false;
        long? announced = null;
        Span<double> values = stackalloc double[MostColumns];
        var needed = columns.HasNormals ? Math.Max(
            Math.Max(columns.X, Math.Max(columns.Y, columns.Z)), columns.NormalX + 2) : Math.Max(columns.X, Math.Max(columns.Y, columns.Z));
        if (needed >= MostColumns)
        {
            throw context.Bad($"only the first {MostColumns} columns can be read.");
        }

        while (scanner.NextLine(out var line))
        {
            if (line.IsEmpty || line[0] == (byte)'#' || line.StartsWith("//"u8))
            {
                continue;
            }

            var found = Values(line, columns, needed, values);
            if (found > needed)
            {
                coordinates.AddRange([values[columns.X], values[columns.Y], values[columns.Z]]);
                normals?.AddRange([(float)values[columns.NormalX], (float)values[columns.NormalX + 1], (float)values[columns.NormalX + 2]]);
            }
            else if (coordinates.Count == 0 && announced is null && found == 1 && values[0] >= 1 && values[0] == Math.Floor(values[0]))
            {
                announced = (long)values[0];
            }
            else if (coordinates.Count == 0 && !headingSeen)
            {
                headingSeen = true;
            }
            else
            {
                throw context.Bad($"line {scanner.LineNumber} is not a point with three numbers.");
            }

            if ((scanner.LineNumber & 0xFFFF) == 0)
            {
                context.Report(scanner.Position, context.Bytes.Length);
            }
        }

        var points = coordinates.Count / 3;
        if (points == 0)
        {
            throw context.Bad("contains no points.");
        }

        if (announced > points)
        {
            throw context.Bad($"the file is cut off: it announces {announced} points but holds {points}.");
        }

        return new(new([.. coordinates], [], pointNormals: normals?.ToArray()), "XYZ text",
            ["a point cloud without triangles"])
        { Columns = columns };
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

    /// <summary>
    /// Reads the numbers of a line up to the last column needed; returns how many there were before the first that is not read as one.
    /// </summary>
    private static int Values(ReadOnlySpan<byte> line, PointColumns columns, int needed, Span<double> values)
    {
        Span<byte> dotted = stackalloc byte[64];
        for (var i = 0; i <= needed; i++)
        {
            var word = columns.DecimalComma ? TextScanner.WordWithCommas(ref line) : TextScanner.Word(ref line);
            if (columns.DecimalComma && word.Length <= dotted.Length)
            {
                word.CopyTo(dotted);
                dotted[..word.Length].Replace((byte)',', (byte)'.');
                word = dotted[..word.Length];
            }

            // A column that is not wanted may hold anything.
            values[i] = 0;
            if (word.IsEmpty || (!TextScanner.Number(word, out values[i]) && (i >= columns.Names.Count || columns.Names[i] != "-")))
            {
                return i;
            }
        }

        return needed + 1;
    }
}
