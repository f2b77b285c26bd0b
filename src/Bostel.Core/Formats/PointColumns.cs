using System.Globalization;
using System.Text;

namespace Bostel.Core.Formats;

/// <summary>
/// Which column of a text of points is what. Written as a row of names, one a column: x y z nx ny nz, and - for what is not read; a leading
/// "," says that numbers have decimal commas.
/// </summary>
/// <param name="Names">One a column.</param>
/// <param name="DecimalComma">Numbers are written 1,5.</param>
public sealed record PointColumns(IReadOnlyList<string> Names, bool DecimalComma)
{
    private const int Sample = 400;

    public int X => At("x");
    public int Y => At("y");
    public int Z => At("z");
    public int NormalX => At("nx");
    public bool HasNormals => NormalX >= 0;

    /// <exception cref="BadInputException">x, y and z are not there once each, or the normal is incomplete.</exception>
    public static PointColumns Parse(string text)
    {
        var comma = text.StartsWith(',');
        var names = text.TrimStart(',').Split(' ', StringSplitOptions.RemoveEmptyEntries);
        foreach (var name in names)
        {
            if (name is not ("x" or "y" or "z" or "nx" or "ny" or "nz" or "-") || (name != "-" && names.Count(n => n == name) > 1))
            {
                throw new BadInputException($"columns: '{text}': each of x y z nx ny nz may stand once, and - for what is not read.");
            }
        }

        var normals = names.Count(n => n.StartsWith('n'));
        return names.Contains("x") && names.Contains("y") && names.Contains("z") && normals is 0 or 3
            ? new(names, comma)
            : throw new BadInputException($"columns: '{text}' needs x, y and z, and of the normal all three or none.");
    }

    public override string ToString() => (DecimalComma ? "," : "") + string.Join(' ', Names);

    /// <summary>
    /// Guesses from the first lines: names in a heading if there are any; else a first column that counts up is a number, the next three
    /// are the point, and three more of length one are its normal.
    /// </summary>
    internal static PointColumns Guess(ReadOnlySpan<byte> text)
    {
        var (lines, heading) = SampleOf(text);
        var comma = lines.Count > 0 && lines.All(l => Words(l, true).Length >= 3)
            && lines.Exists(l => Words(l, true).Any(w => w.Contains(','))) &&
            lines.All(l => !l.Contains('.', StringComparison.Ordinal)
                && Array.TrueForAll(Words(l, true), w => Number(w, true) is not null));
        var rows = lines.Select(l => Words(l, comma).Select(w => Number(w, comma) ?? double.NaN).ToArray()).Where(r => r.Length >= 3)
            .ToList();
        var width = rows.Count == 0 ? 3 : rows.Min(r => r.Length);
        if (heading is not null && Named(Words(heading.TrimStart('#', '/', ' '), comma), width) is { } named)
        {
            return new(named, comma);
        }

        var counts = width >= 4 && rows.Count >= 3 && rows.Zip(rows.Skip(1)).All(p => p.Second[0] == p.First[0] + 1) && rows[0][0] is 0 or 1
            ? 1
            : 0;
        var names = Enumerable.Repeat("-", counts).Concat(["x", "y", "z"]).ToList();
        for (var at = names.Count; at + 3 <= width && names.Count < 6 + counts; at++)
        {
            var c = at;
            if (rows.Count(r => Math.Abs((r[c] * r[c]) + (r[c + 1] * r[c + 1]) + (r[c + 2] * r[c + 2]) - 1) < 0.02) >= 0.95 * rows.Count)
            {
                names.AddRange(["nx", "ny", "nz"]);
                break;
            }

            names.Add("-");
        }

        while (names.Count < width)
        {
            names.Add("-");
        }

        return new(names[..Math.Max(width, counts + 3)], comma);
    }

    /// <summary>The first lines as they are, for showing beside the guess.</summary>
    public static IReadOnlyList<string> FirstLines(ReadOnlySpan<byte> text, int count)
    {
        var scanner = new TextScanner(text[..Math.Min(text.Length, 8192)]);
        var lines = new List<string>();
        while (lines.Count < count && scanner.NextLine(out var line))
        {
            lines.Add(Encoding.UTF8.GetString(line[..Math.Min(line.Length, 100)]));
        }

        return lines;
    }

    private static (List<string> Lines, string? Heading) SampleOf(ReadOnlySpan<byte> text)
    {
        var scanner = new TextScanner(text);
        var lines = new List<string>();
        string? heading = null;
        while (lines.Count < Sample && scanner.NextLine(out var line))
        {
            var words = Encoding.UTF8.GetString(line[..Math.Min(line.Length, 500)]);
            if (words.Length > 0 && (char.IsAsciiDigit(words[0]) || words[0] is '-' or '+' or '.'))
            {
                lines.Add(words);
            }
            else if (lines.Count == 0 && words.Length > 0)
            {
                heading = words;
            }
        }

        // A lone count before the points.
        if (lines.Count > 1 && Words(lines[0], false).Length < 3)
        {
            lines.RemoveAt(0);
        }

        return (lines, heading);
    }

    private static List<string>? Named(string[] heads, int width)
    {
        var names = heads.Select(h => h.Trim('"').ToLowerInvariant() switch
        {
            "x" or "px" or "x[mm]" or "x_mm" => "x",
            "y" or "py" or "y[mm]" or "y_mm" => "y",
            "z" or "pz" or "z[mm]" or "z_mm" => "z",
            "nx" or "normal_x" => "nx",
            "ny" or "normal_y" => "ny",
            "nz" or "normal_z" => "nz",
            _ => "-",
        }).ToList();
        var whole = names.Contains("x") && names.Contains("y") && names.Contains("z") && names.Count <= Math.Max(width, 3);
        return whole && names.Where(n => n != "-").Distinct()
            .Count() == names.Count(n => n != "-") && names.Count(n => n.StartsWith('n')) is 0 or 3 ? names : null;
    }

    private static string[] Words(string line, bool decimalComma) =>
        line.Split(decimalComma ? [' ', '\t', ';'] : [' ', '\t', ';', ','], StringSplitOptions.RemoveEmptyEntries);

    private static double? Number(string word, bool decimalComma) =>
        double.TryParse(decimalComma ? word.Replace(',', '.') : word, NumberStyles.Float, CultureInfo.InvariantCulture, out var value)
            ? value
            : null;

    private int At(string name)
    {
        for (var i = 0; i < Names.Count; i++)
        {
            if (Names[i] == name)
            {
                return i;
            }
        }

        return -1;
    }
}
