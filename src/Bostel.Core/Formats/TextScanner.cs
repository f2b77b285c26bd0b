using System.Buffers.Text;

namespace Bostel.Core.Formats;

/// <summary>Walks over the lines and blank-separated words of a UTF-8 text without making strings.</summary>
internal ref struct TextScanner(ReadOnlySpan<byte> text)
{
    private readonly ReadOnlySpan<byte> _text = text;
    private int _at = 0;

    public readonly int Position => _at;
    public int LineNumber { get; private set; } = 0;

    public bool NextLine(out ReadOnlySpan<byte> line)
    {
        if (_at >= _text.Length)
        {
            line = default;
            return false;
        }

        var rest = _text[_at..];
        var end = rest.IndexOf((byte)'\n');
        line = end < 0 ? rest : rest[..end];
        _at += end < 0 ? rest.Length : end + 1;
        LineNumber++;
        line = line.Trim(" \t\r\0"u8);
        return true;
    }

    /// <summary>Takes the next word off a line; empty at its end.</summary>
    public static ReadOnlySpan<byte> Word(ref ReadOnlySpan<byte> line)
    {
        var i = 0;
        while (i < line.Length && IsBlank(line[i]))
        {
            i++;
        }

        var start = i;
        while (i < line.Length && !IsBlank(line[i]))
        {
            i++;
        }

        var word = line[start..i];
        line = line[i..];
        return word;
    }

    /// <summary>The same where a comma is part of a number.</summary>
    public static ReadOnlySpan<byte> WordWithCommas(ref ReadOnlySpan<byte> line)
    {
        line = line.TrimStart(" \t;\r"u8);
        var end = line.IndexOfAny(" \t;\r"u8);
        var word = end < 0 ? line : line[..end];
        line = line[word.Length..];
        return word;
    }

    /// <summary>Parses a whole word as a number; false for anything else.</summary>
    public static bool Number(ReadOnlySpan<byte> word, out double value)
    {
        if (word.Length > 0 && word[0] == (byte)'+')
        {
            word = word[1..];
        }

        return Utf8Parser.TryParse(word, out value, out var used) && used == word.Length && used > 0;
    }

    private static bool IsBlank(byte b) => b is (byte)' ' or (byte)'\t' or (byte)',' or (byte)';' or (byte)'\r';
}
