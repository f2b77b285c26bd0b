using System.Text.Json;
using System.Text.RegularExpressions;

namespace Bostel.Reports;

/// <summary>Characteristics as drawings show them: the paths of the signs are those of the browser.</summary>
public static partial class Indicators
{
    private static readonly Lazy<IReadOnlyDictionary<string, string>> Signs = new(() =>
    {
        using var stream = typeof(Indicators).Assembly.GetManifestResourceStream("signs.json")!;
        return JsonSerializer.Deserialize<Dictionary<string, string>>(stream)!;
    });

    /// <summary>The path of a kind's sign in a square of 16; null: it has none, as dimensions.</summary>
    public static string? SignOf(string kind) => Signs.Value.GetValueOrDefault(kind);

    /// <summary>A cell of the frame in parts: text, or a modifier that stands in a circle with what follows it.</summary>
    public static IReadOnlyList<(string Text, bool Circled, string After)> Parts(string cell) =>
        [.. cell.Split(' ').Select((part, i) => i > 0 && Modifier().Match(part) is { Success: true } m
            ? (m.Groups[1].Value, true, m.Groups[2].Value)
            : (part, false, ""))];

    [GeneratedRegex("^([MLPT])([0-9.]*)$")]
    private static partial Regex Modifier();
}
