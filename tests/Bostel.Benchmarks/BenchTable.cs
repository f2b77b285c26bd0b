using System.Diagnostics;
using System.Globalization;

namespace Bostel.Benchmarks;

/// <summary>One line of the table: medians of wall and CPU time over the runs, managed memory allocated by one run.</summary>
public sealed record BenchRow(string Work, double WallMs, double CpuMs, double AllocatedMb, string Note);

/// <summary>Times pieces of work within one process: a warm-up, then a few runs, the median of each figure.</summary>
public sealed class BenchTable(int runs, Action<string> say)
{
    private readonly List<BenchRow> _rows = [];

    public IReadOnlyList<BenchRow> Rows => _rows;

    public void Time(string work, Action action, string note = "")
    {
        say($"{work} ...");
        action();
        var wall = new List<double>();
        var cpu = new List<double>();
        double allocated = 0;
        for (var i = 0; i < runs; i++)
        {
            GC.Collect();
            var memory = GC.GetTotalAllocatedBytes(precise: true);
            var before = Process.GetCurrentProcess().TotalProcessorTime;
            var clock = Stopwatch.StartNew();
            action();
            wall.Add(clock.Elapsed.TotalMilliseconds);
            cpu.Add((Process.GetCurrentProcess().TotalProcessorTime - before).TotalMilliseconds);
            allocated = (GC.GetTotalAllocatedBytes(precise: true) - memory) / 1e6;
        }

        wall.Sort();
        cpu.Sort();
        _rows.Add(new(work, wall[runs / 2], cpu[runs / 2], allocated, note));
    }

    public string Text()
    {
        var lines = new List<string> { "| work | wall ms | CPU ms | allocated MB | note |", "| --- | ---: | ---: | ---: | --- |" };
        lines.AddRange(_rows.Select(r => string.Create(CultureInfo.InvariantCulture, $"| {r.Work} | {r.WallMs:0} | {r.CpuMs:0} | {r.AllocatedMb:0} | {r.Note} |")));
        return string.Join('\n', lines);
    }
}
