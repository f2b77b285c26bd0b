namespace Bostel.Server.Services;

/// <summary>What people type to find something: every word must occur somewhere.</summary>
public static class WordSearch
{
    public const string Escape = "\\";

    /// <summary>A pattern of ILIKE for each word.</summary>
    public static IEnumerable<string> Patterns(string? search) =>
        (search ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Select(word => $"%{string.Concat(word.Select(c => c is '%' or '_' or '\\' ? $"{Escape}{c}" : $"{c}"))}%");
}
