using System.CommandLine;
using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Bostel.Benchmarks;
using Bostel.Core;
using Bostel.Core.Plans;

namespace Bostel.Cli.Commands;

/// <summary>
/// Prints the benchmark table. Every group of lines runs in a process of its own, once with each number of threads, so that memory is that
/// of the group and the threads are truly limited.
/// </summary>
internal static class BenchCommand
{
    private sealed record GroupResult(IReadOnlyList<BenchRow> Rows, double PeakMb);

    public static Command Build()
    {
        var runs = new Option<int>("--runs")
        { Description = "Runs of each line after a warm-up; the median is printed.", DefaultValueFactory = _ => 3 };
        var only = new Option<string>("--only")
        {
            Description = "Groups to run: " + string.Join(",", CoreBenchmarks.Groups)
                + "; or verdicts: are planted defects accepted? or coverage: how often does U hold the truth?",
            DefaultValueFactory = _ => string.Join(',', CoreBenchmarks.Groups)
        };
        var threads = new Option<string>("--threads")
        {
            Description = "Numbers of threads, as 1,2.",
            DefaultValueFactory = _ => Environment.ProcessorCount == 1 ? "1" : $"1,{Environment.ProcessorCount}"
        };
        var nominal = new Option<string>("--nominal")
        {
            Description = "Nominal for the alignment lines.",
            DefaultValueFactory = _ => "demo/nominal/VH-310-vent-drive-housing.step"
        };
        var trials = new Option<int>("--trials")
        { Description = "Trials a part, with --only verdicts, coverage or explained.", DefaultValueFactory = _ => 100 };
        var parts = new Option<string>("--parts")
        { Description = "Demo parts of a campaign, as VH-310,LB-045; else all.", DefaultValueFactory = _ => "" };
        var plan = new Option<string>("--plan") { Description = "Its plan.", DefaultValueFactory = _ => "demo/plans/VH-310.json" };
        var group = new Option<string?>("--group")
        { Description = "One group in this process; its lines are printed as JSON.", Hidden = true };
        var command =
            new Command("bench",
                "Times the core's work on generated data and prints a table. Run it at the root of the repository.") { runs, only, threads,
                nominal, trials, parts, plan, group };
        command.SetAction(parsed =>
        {
            var count = Math.Max(1, parsed.GetValue(runs));
            if (parsed.GetValue(group) is { } one)
            {
                var table = CoreBenchmarks.Run(one, Demo, count, Files.Say);
                Files.Print(new GroupResult(table.Rows, Process.GetCurrentProcess().PeakWorkingSet64 / 1e6));
                return ExitCode.Done;
            }

            var counts = parsed.GetValue(threads)!.Split(',')
                .Select(t => int.TryParse(t, CultureInfo.InvariantCulture, out var n) && n > 0
                ? n
                : throw new BadInputException($"--threads: '{t}' is not a number of threads.")).ToArray();
            if (Campaigns.Named(parsed.GetValue(only)!) is { } campaign)
            {
                campaign(parsed.GetValue(trials), parsed.GetValue(parts)!);
                return ExitCode.Done;
            }

            Header(counts);
            foreach (var name in parsed.GetValue(only)!.Split(','))
            {
                Lines([.. counts.Select(n => Child(name, n, count, parsed.GetValue(nominal)!, parsed.GetValue(plan)!))]);
            }

            return ExitCode.Done;

            (Core.Nominals.NominalModel, InspectionPlan) Demo() =>
                (Files.ReadNominalAsync(parsed.GetValue(nominal)!, CancellationToken.None).GetAwaiter().GetResult(),
                    InspectionPlan.Parse(Files.ReadText(parsed.GetValue(plan)!)));
        });
        return command;
    }

    private static void Header(int[] counts)
    {
        var columns = counts.Select(n => $"{n} thread{(n == 1 ? "" : "s")} ms").ToList();
        Console.Out.WriteLine(
            $"| work | {string.Join(" | ", columns)} | CPU ms | native CPU ms | native here | allocated MB | group's peak MB | note |");
        Console.Out.WriteLine($"| --- | {string.Join(" | ", columns.Select(_ => "---:"))} | ---: | ---: | ---: | ---: | ---: | --- |");
    }

    /// <summary>CPU time, allocation and memory are those of the last number of threads.</summary>
    private static void Lines(GroupResult[] results)
    {
        for (var i = 0; i < results[^1].Rows.Count; i++)
        {
            var row = results[^1].Rows[i];
            var walls = string.Join(" | ", results.Select(r => r.Rows[i].WallMs.ToString("0", CultureInfo.InvariantCulture)));
            Console.Out.WriteLine(string.Create(CultureInfo.InvariantCulture, $"| {row.Work} | {walls} | {row.CpuMs:0} | "
                + $"{row.NativeMs:0} | {row.NativeHereMs:0} | {row.AllocatedMb:0} | {(i == 0 ? results[^1].PeakMb : null):0} | "
                + $"{row.Note} |"));
        }
    }

    private static GroupResult Child(string group, int threads, int runs, string nominal, string plan)
    {
        Files.Say($"{group}, {threads} thread{(threads == 1 ? "" : "s")} ...");
        var start = new ProcessStartInfo(Environment.ProcessPath!) { RedirectStandardOutput = true };
        if (Path.GetFileNameWithoutExtension(Environment.ProcessPath) == "dotnet")
        {
            start.ArgumentList.Add(typeof(BenchCommand).Assembly.Location);
        }

        foreach (var argument in (string[])["bench", "--group", group, "--runs", runs.ToString(CultureInfo.InvariantCulture), "--nominal",
            nominal, "--plan", plan])
        {
            start.ArgumentList.Add(argument);
        }

        start.Environment["DOTNET_PROCESSOR_COUNT"] = threads.ToString(CultureInfo.InvariantCulture);
        using var process = Process.Start(start)!;
        var text = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return process.ExitCode == ExitCode.Done
            ? JsonSerializer.Deserialize<GroupResult>(text, Files.Json)!
            : throw new BadInputException($"bench: the group '{group}' ended with code {process.ExitCode}.");
    }
}
