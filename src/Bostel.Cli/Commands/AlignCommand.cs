using System.CommandLine;
using Bostel.Core.Plans;

namespace Bostel.Cli.Commands;

internal static class AlignCommand
{
    public static Command Build()
    {
        var nominal = Arguments.Nominal();
        var scan = Arguments.Scan();
        var unit = Arguments.Unit();
        var command = new Command("align", "Fits a scan to all surfaces of its nominal, from any pose.") { nominal, scan, unit };
        command.SetAction(async (parsed, cancel) =>
        {
            var runner = new InspectionRunner(await Files.ReadNominalAsync(parsed.GetValue(nominal)!, cancel));
            var mesh = Files.ReadMesh(parsed.GetValue(scan)!, parsed.GetValue(unit)!).Mesh;
            var plan = new InspectionPlan();
            var result = runner.Align(runner.Prepare(mesh, plan), plan, null, cancel);
            if (!result.Resembles)
            {
                Files.Say($"{Path.GetFileName(parsed.GetValue(scan))}: {InspectionRunner.Unlike(result)}");
            }

            Files.Print(new
            {
                transform = result.Transform.ToArray(),
                rms = result.Rms,
                inliers = result.Inliers,
                coverage = result.Coverage,
                condition = result.Condition,
                resembles = result.Resembles,
                alternatives = result.Alternatives.Select(a => new { transform = a.Transform.ToArray(), rms = a.Rms, timesWorse = a.TimesWorse }),
            });
            return ExitCode.Done;
        });
        return command;
    }
}
