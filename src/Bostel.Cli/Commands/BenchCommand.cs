using System.CommandLine;
using Bostel.Benchmarks;
using Bostel.Core.Plans;

namespace Bostel.Cli.Commands;

internal static class BenchCommand
{
    public static Command Build()
    {
        var runs = new Option<int>("--runs") { Description = "Runs of each line after a warm-up; the median is printed.", DefaultValueFactory = _ => 3 };
        var nominal = new Option<string>("--nominal") { Description = "Nominal for the alignment lines.", DefaultValueFactory = _ => "demo/nominal/VH-310-vent-drive-housing.step" };
        var plan = new Option<string>("--plan") { Description = "Its plan.", DefaultValueFactory = _ => "demo/plans/VH-310.json" };
        var command = new Command("bench", "Times the core's work on generated data and prints a table. Run it at the root of the repository.") { runs, nominal, plan };
        command.SetAction(async (parsed, cancel) =>
        {
            var model = await Files.ReadNominalAsync(parsed.GetValue(nominal)!, cancel);
            var wanted = InspectionPlan.Parse(Files.ReadText(parsed.GetValue(plan)!));
            var table = CoreBenchmarks.Run(model, wanted, Math.Max(1, parsed.GetValue(runs)), Files.Say);
            Console.Out.WriteLine(table.Text());
            Console.Out.WriteLine($"\n{Environment.ProcessorCount} processors, peak working set {System.Diagnostics.Process.GetCurrentProcess().PeakWorkingSet64 / 1_000_000} MB.");
            return ExitCode.Done;
        });
        return command;
    }
}
