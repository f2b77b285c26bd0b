using System.Diagnostics;

namespace Bostel.Benchmarks;

/// <summary>
/// One line of the table: medians of wall and CPU time over the runs, managed memory allocated by one run. <see cref="NativeMs"/> is what
/// native single-purpose code needs on such a machine, CPU time over all threads, where it is known; <see cref="NativeHereMs"/> what it
/// needed beside this run.
/// </summary>
public sealed record BenchRow(
    string Work, double WallMs, double CpuMs, double AllocatedMb, double? NativeMs, double? NativeHereMs, string Note);

/// <summary>Times pieces of work within one process: a warm-up, then a few runs, the median of each figure.</summary>
public sealed class BenchTable(int runs, Action<string> say)
{
    private readonly List<BenchRow> _rows = [];

    public int Runs => runs;

    public IReadOnlyList<BenchRow> Rows => _rows;

    /// <param name="prepare">Made anew before every run and not timed, so that nothing remembered from the run before helps.</param>
    public void Time<T>(
        string work, Func<T> prepare, Action<T> action, double? native = null, string note = "", Func<double?>? nativeHere = null)
    {
        say($"{work} ...");
        action(prepare());
        var wall = new List<double>();
        var cpu = new List<double>();
        double allocated = 0;
        for (var i = 0; i < runs; i++)
        {
            var input = prepare();
            GC.Collect();
            var memory = GC.GetTotalAllocatedBytes(precise: true);
            var before = Process.GetCurrentProcess().TotalProcessorTime;
            var clock = Stopwatch.StartNew();
            action(input);
            wall.Add(clock.Elapsed.TotalMilliseconds);
            cpu.Add((Process.GetCurrentProcess().TotalProcessorTime - before).TotalMilliseconds);
            allocated = (GC.GetTotalAllocatedBytes(precise: true) - memory) / 1e6;
        }

        wall.Sort();
        cpu.Sort();
        _rows.Add(new(work, wall[runs / 2], cpu[runs / 2], allocated, native, nativeHere?.Invoke(), note));
    }

    public void Time(string work, Action action, double? native = null, string note = "", Func<double?>? nativeHere = null) =>
        Time(work, () => 0, _ => action(), native, note, nativeHere);
}
