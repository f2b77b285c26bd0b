namespace Bostel.Data;

/// <summary>Whether writing failed because nothing more fits.</summary>
public static class FullDisk
{
    /// <summary>ENOSPC of POSIX.</summary>
    private const int NoSpace = 28;

    public static bool Is(Exception e) =>
        e is IOException io && (io.HResult == NoSpace || io.Message.Contains("No space left", StringComparison.Ordinal));
}
