using System.Globalization;
using System.Security.Cryptography;

namespace Bostel.Cad;

/// <summary>
/// Keeps what the translator made of CAD files, so that a command repeated on the same nominal does not translate it again. An entry is
/// found by the hash of the file, of the translator and of the chord error: nothing else decides what comes out. Safe for several
/// processes: an entry is there whole or not at all.
/// </summary>
public sealed class TranslationCache(string folder)
{
    /// <summary>The newest so many are kept.</summary>
    private const int Most = 32;

    /// <summary>
    /// The user's: the folder that BOSTEL_CACHE names, else <c>bostel</c> below XDG_CACHE_HOME or <c>~/.cache</c>; null when BOSTEL_CACHE
    /// is empty or there is no home.
    /// </summary>
    public static TranslationCache? OfUser()
    {
        if (Environment.GetEnvironmentVariable("BOSTEL_CACHE") is { } named)
        {
            return named.Length > 0 ? new(named) : null;
        }

        var home = Environment.GetFolderPath(Environment.SpecialFolder.UserProfile);
        var caches = Environment.GetEnvironmentVariable("XDG_CACHE_HOME") is { Length: > 0 } xdg ? xdg
            : home.Length > 0 ? Path.Combine(home, ".cache") : null;
        return caches is null ? null : new(Path.Combine(caches, "bostel"));
    }

    /// <summary>The translation of the file: kept, or made now. One that cannot be kept is no error.</summary>
    internal async Task<byte[]> GetAsync(
        string input, string tool, CadLimits limits, Func<Task<byte[]>> translate, CancellationToken cancel)
    {
        var entry = Path.Combine(folder, await KeyAsync(input, tool, limits, cancel).ConfigureAwait(false) + ".bcad");
        if (await KeptAsync(entry, cancel).ConfigureAwait(false) is { } kept)
        {
            return kept;
        }

        var made = await translate().ConfigureAwait(false);
        await KeepAsync(entry, made, cancel).ConfigureAwait(false);
        return made;
    }

    /// <summary>An entry begins with the hash of the rest: one that a failing disk cut off counts as none.</summary>
    private static async Task<byte[]?> KeptAsync(string entry, CancellationToken cancel)
    {
        try
        {
            var file = await File.ReadAllBytesAsync(entry, cancel).ConfigureAwait(false);
            if (file.Length < SHA256.HashSizeInBytes
                || !SHA256.HashData(file.AsSpan(SHA256.HashSizeInBytes)).AsSpan().SequenceEqual(file.AsSpan(0, SHA256.HashSizeInBytes)))
            {
                return null;
            }

            File.SetLastWriteTimeUtc(entry, DateTime.UtcNow);
            return file[SHA256.HashSizeInBytes..];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    private async Task KeepAsync(string entry, byte[] made, CancellationToken cancel)
    {
        try
        {
            Directory.CreateDirectory(folder);
            var part = $"{entry}.{Guid.NewGuid():N}";
            await File.WriteAllBytesAsync(part, [.. SHA256.HashData(made), .. made], cancel).ConfigureAwait(false);
            File.Move(part, entry, overwrite: true);
            foreach (var old in new DirectoryInfo(folder).GetFiles("*.bcad*").OrderByDescending(f => f.LastWriteTimeUtc).Skip(Most))
            {
                old.Delete();
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // A full or read-only disk: the next command translates again.
        }
    }

    private static async Task<string> KeyAsync(string input, string tool, CadLimits limits, CancellationToken cancel)
    {
        var all = new List<byte>();
        foreach (var file in (string[])[input, tool])
        {
            using var stream = File.OpenRead(file);
            all.AddRange(await SHA256.HashDataAsync(stream, cancel).ConfigureAwait(false));
        }

        var chord = string.Create(CultureInfo.InvariantCulture, $"{Path.GetExtension(input)} {limits.ChordShare:R} {limits.ChordError:R}");
        return Convert.ToHexStringLower(SHA256.HashData([.. all, .. System.Text.Encoding.UTF8.GetBytes(chord)]));
    }
}
