using System.ComponentModel;
using System.Diagnostics;
using System.Globalization;

namespace Bostel.Benchmarks;

/// <summary>
/// A weld in native code, built and run beside ours: a shared machine's speed swings by a half, and only what ran in the same minute can be
/// compared.
/// </summary>
internal static class NativeWeld
{
    /// <summary>Median CPU time of reading and welding, in milliseconds; null where no C++ compiler is at hand.</summary>
    public static double? CpuMs(byte[] stl, int runs)
    {
        var folder = Directory.CreateTempSubdirectory("bostel-bench-");
        try
        {
            string At(string name) => Path.Combine(folder.FullName, name);
            using (var source = typeof(NativeWeld).Assembly.GetManifestResourceStream("direct-hash-weld.cpp")!)
            using (var file = File.Create(At("weld.cpp")))
            {
                source.CopyTo(file);
            }

            File.WriteAllBytes(At("scan.stl"), stl);
            if (Output("g++", "-O3", "-march=native", At("weld.cpp"), "-o", At("weld")) is null
                || Output(At("weld"), At("scan.stl"), $"{runs + 1}") is not { } text)
            {
                return null;
            }

            // The first run warms up, like ours.
            var times = text.Split('\n', StringSplitOptions.RemoveEmptyEntries).Skip(1)
                .Select(t => double.Parse(t, CultureInfo.InvariantCulture)).Order().ToList();
            return times[times.Count / 2];
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static string? Output(string program, params string[] arguments)
    {
        try
        {
            using var process = Process.Start(new ProcessStartInfo(program, arguments) { RedirectStandardOutput = true })!;
            var text = process.StandardOutput.ReadToEnd();
            process.WaitForExit();
            return process.ExitCode == 0 ? text : null;
        }
        catch (Win32Exception)
        {
            return null;
        }
    }
}
