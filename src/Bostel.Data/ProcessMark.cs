using System.Globalization;

namespace Bostel.Data;

/// <summary>
/// Marks what a process leaves on this machine with its number and when it started, so that a later process can tell whether the owner
/// still lives: the system gives numbers again.
/// </summary>
public static class ProcessMark
{
    /// <summary>This process's mark; good as part of a file name.</summary>
    public static string Own { get; } = Of(Environment.ProcessId)!;

    /// <summary>Whether the process that a mark belongs to still runs on this machine.</summary>
    public static bool Lives(string mark) =>
        int.TryParse(mark.Split('-')[0], NumberStyles.None, CultureInfo.InvariantCulture, out var process) && Of(process) == mark;

    /// <summary>The mark of a running process; null when there is none with this number.</summary>
    private static string? Of(int process)
    {
        try
        {
            // The 22nd field is when the process started; the second, its name, may hold spaces but ends with the last bracket (proc(5)).
            var stat = File.ReadAllText(string.Create(CultureInfo.InvariantCulture, $"/proc/{process}/stat"));
            var started = stat[(stat.LastIndexOf(')') + 2)..].Split(' ')[19];
            return string.Create(CultureInfo.InvariantCulture, $"{process}-{started}");
        }
        catch (IOException)
        {
            return null;
        }
    }
}
