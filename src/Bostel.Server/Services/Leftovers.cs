using System.Diagnostics;
using System.Globalization;
using Bostel.Data;

namespace Bostel.Server.Services;

/// <summary>
/// Folders and processes that children of a server need for a while. They carry the server's mark in their name, so that the next server
/// can tell what a killed one left and clear it away.
/// </summary>
public static class Leftovers
{
    private const string Prefix = "work-";

    /// <summary>Gives this process and its children a folder of their own for passing files.</summary>
    public static void Claim(string data) =>
        Environment.SetEnvironmentVariable("TMPDIR", Directory.CreateDirectory(FolderOf(data)).FullName);

    /// <summary>Removes the folder when the process ends in order.</summary>
    public static void Release(string data)
    {
        try
        {
            Directory.Delete(FolderOf(data), recursive: true);
        }
        catch (IOException)
        {
            // A child still holds something there: the next start finds it.
        }
    }

    /// <summary>Ends the children of servers that are gone and deletes their folders; those of living servers stay.</summary>
    public static void Clear(string data)
    {
        var all = new DirectoryInfo(Path.Combine(data, "tmp"));
        if (!all.Exists)
        {
            return;
        }

        foreach (var folder in all.GetDirectories(Prefix + "*"))
        {
            if (ProcessMark.Lives(folder.Name[Prefix.Length..]))
            {
                continue;
            }

            foreach (var child in ChildrenIn(folder.FullName))
            {
                child.Kill(entireProcessTree: true);
                child.WaitForExit(2000);
            }

            try
            {
                folder.Delete(recursive: true);
            }
            catch (IOException)
            {
                // A child was still writing there: the next start finds it.
            }
        }
    }

    private static string FolderOf(string data) => Path.Combine(data, "tmp", Prefix + ProcessMark.Own);

    /// <summary>Processes that were started with a folder of ours in their command line.</summary>
    private static IEnumerable<Process> ChildrenIn(string folder)
    {
        foreach (var process in Directory.GetDirectories("/proc").Select(Path.GetFileName)
            .Where(n => int.TryParse(n, CultureInfo.InvariantCulture, out _)))
        {
            Process? found = null;
            try
            {
                if (File.ReadAllText($"/proc/{process}/cmdline").Contains(folder + "/", StringComparison.Ordinal))
                {
                    found = Process.GetProcessById(int.Parse(process!, CultureInfo.InvariantCulture));
                }
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException or ArgumentException)
            {
                // It ended meanwhile, or is not ours to look at.
            }

            if (found is not null)
            {
                yield return found;
            }
        }
    }
}
