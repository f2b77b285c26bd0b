namespace Bostel.Core.Formats;

/// <summary>
/// OFF text: a count line, points, polygons by point number; a prefix such as C, N or ST only adds columns, which are skipped. Polygons are
/// fanned.
/// </summary>
internal static class OffFormat
{
    public static MeshFile Read(ReadContext context)
    {
        var scanner = new TextScanner(context.Bytes);
        var line = Line(ref scanner, context, "the header");
        var word = TextScanner.Word(ref line);
        if (!word.EndsWith("OFF"u8))
        {
            throw context.Bad("is not an OFF file: it does not begin with OFF.");
        }

        if (word.Contains((byte)'4') || word.StartsWith("n"u8))
        {
            throw context.Bad("holds points of more than three dimensions, which are not read.");
        }

        if (line.Trim(" \t"u8).IsEmpty)
        {
            line = Line(ref scanner, context, "the counts");
        }

        var (points, faces) = (Count(ref line, context, "points"), Count(ref line, context, "faces"));

        // A point takes at least six characters and a face eight: a count that cannot be true must not reserve memory.
        if ((6 * points) + (8 * faces) > context.Bytes.Length + 64)
        {
            throw context.Bad(
                $"the file is cut off or damaged: it announces {points} points and {faces} faces in {context.Bytes.Length} bytes.");
        }

        var coordinates = new double[3 * points];
        for (long i = 0; i < points; i++)
        {
            line = Line(ref scanner, context, $"point {i + 1}");
            for (var k = 0; k < 3; k++)
            {
                if (!TextScanner.Number(TextScanner.Word(ref line), out coordinates[(3 * i) + k]))
                {
                    throw context.Bad($"line {scanner.LineNumber} is not a point with three numbers.");
                }
            }

            Tell(context, scanner, i);
        }

        var indices = new List<int>();
        for (long f = 0; f < faces; f++)
        {
            line = Line(ref scanner, context, $"face {f + 1}");
            var corners = Count(ref line, context, "corners");
            int first = 0, previous = 0;
            for (long k = 0; k < corners; k++)
            {
                if (!TextScanner.Number(TextScanner.Word(ref line), out var number) || number < 0 || number >= points
                    || number != Math.Floor(number))
                {
                    throw context.Bad($"line {scanner.LineNumber} is not a face of point numbers below {points}.");
                }

                if (k == 0)
                {
                    first = (int)number;
                }
                else if (k >= 2)
                {
                    indices.AddRange([first, previous, (int)number]);
                }

                previous = (int)number;
            }

            Tell(context, scanner, f);
        }

        return new(new(coordinates, [.. indices]), "OFF text", []);
    }

    private static ReadOnlySpan<byte> Line(ref TextScanner scanner, ReadContext context, string what)
    {
        while (scanner.NextLine(out var line))
        {
            var comment = line.IndexOf((byte)'#');
            line = comment < 0 ? line : line[..comment].TrimEnd(" \t"u8);
            if (!line.IsEmpty)
            {
                return line;
            }
        }

        throw context.Bad($"the file is cut off: {what} is missing.");
    }

    private static long Count(ref ReadOnlySpan<byte> line, ReadContext context, string what) =>
        TextScanner.Number(TextScanner.Word(ref line), out var n) && n >= 0 && n <= int.MaxValue / 4 && n == Math.Floor(n)
            ? (long)n
            : throw context.Bad($"the number of {what} is not a count.");

    private static void Tell(ReadContext context, in TextScanner scanner, long i)
    {
        if ((i & 0xFFFF) == 0)
        {
            context.Report(scanner.Position, context.Bytes.Length);
        }
    }
}
