using Bostel.Core;

namespace Bostel.Server.Services;

/// <summary>Texts that people type: how long they may be, and nothing in them that is no letter.</summary>
public static class Texts
{
    public const int MostSerial = 60;
    public const int MostFileName = 200;

    /// <exception cref="BadInputException">Names the field.</exception>
    public static string Require(string? text, string field, string what, int most)
    {
        var trimmed = text?.Trim() ?? "";
        return trimmed.Length == 0 || trimmed.Length > most || trimmed.Any(char.IsControl)
            ? throw new BadInputException($"{field}: {what} of at most {most} characters is needed.")
            : trimmed;
    }

    public static string Serial(string? serial) => Require(serial, "serial", "a serial number", MostSerial);

    /// <summary>A file's name without any folders.</summary>
    public static string FileName(string? name) => Require(Path.GetFileName(name?.Replace('\\', '/')), "name", "a file name", MostFileName);
}
