using System.CommandLine;
using Bostel.Core.Plans;

namespace Bostel.Cli.Commands;

/// <summary>What can be done with a plan without a scan.</summary>
internal static class PlanCommand
{
    public static Command Build() => new("plan", "Checks, upgrades, explains and compares inspection plans.")
    {
        Check(), Upgrade(), Explain(), Compare(), Propose(),
    };

    private static Command Check()
    {
        var file = PlanFile();
        var nominal = new Option<string?>("--nominal") { Description = "Nominal; its faces are then checked too." };
        var command = new Command("check", "Says what is wrong with a plan; nothing and exit code 0 when it is sound.") { file, nominal };
        command.SetAction(async (parsed, cancel) =>
        {
            var plan = Read(parsed.GetValue(file)!);
            if (parsed.GetValue(nominal) is { } path)
            {
                plan.CheckFaces(await Files.ReadNominalAsync(path, cancel), Path.GetFileName(parsed.GetValue(file)!));
            }

            Files.Print(new { plan = plan.Part, schema = plan.Schema, characteristics = plan.Characteristics.Count });
            return ExitCode.Done;
        });
        return command;
    }

    private static Command Upgrade()
    {
        var file = PlanFile();
        var command = new Command("upgrade", "Prints a plan of an earlier version as one of the newest.") { file };
        command.SetAction(parsed =>
        {
            Console.Out.WriteLine(Read(parsed.GetValue(file)!).ToJson());
            return ExitCode.Done;
        });
        return command;
    }

    private static Command Explain()
    {
        var file = PlanFile();
        var command = new Command("explain", "Prints a plan in words, one line for each thing it says.") { file };
        command.SetAction(parsed =>
        {
            foreach (var section in PlanWords.Of(Read(parsed.GetValue(file)!)).GroupBy(l => l.Section))
            {
                Console.Out.WriteLine(section.Key);
                foreach (var line in section)
                {
                    Console.Out.WriteLine($"  {line.Key}: {line.Words}");
                }
            }

            return ExitCode.Done;
        });
        return command;
    }

    private static Command Propose()
    {
        var nominal = new Option<string>("--nominal") { Description = "CAD file or mesh of the part.", Required = true };
        var from = new Option<string>("--from")
        {
            Description = "What proposals are taken from: faces.",
            DefaultValueFactory = _ => "faces",
        }.OneOf("faces");
        var command = new Command("propose",
            "Proposes a plan for a nominal: datums, sizes and places of holes, form of main faces, a profile over all, with general "
                + "tolerances (ISO 2768 m and K). What was doubtful is said on standard error.")
        { nominal, from };
        command.SetAction(async (parsed, cancel) =>
        {
            var path = parsed.GetValue(nominal)!;
            var empty = new InspectionPlan { Part = Path.GetFileNameWithoutExtension(path) };
            var proposal = PlanProposal.Of(await Files.ReadNominalAsync(path, cancel), empty);
            proposal.Doubts.ToList().ForEach(Files.Say);
            Console.Out.WriteLine(proposal.AddedTo(empty).ToJson());
            return ExitCode.Done;
        });
        return command;
    }

    private static Command Compare()
    {
        var (before, after) = (PlanFile("BEFORE"), PlanFile("AFTER"));
        var command = new Command("compare", "Prints what one plan says otherwise than another, in words.") { before, after };
        command.SetAction(parsed =>
        {
            foreach (var change in PlanChange.Between(Read(parsed.GetValue(before)!), Read(parsed.GetValue(after)!)))
            {
                Console.Out.WriteLine($"{change.Section}: {change.Words}");
            }

            return ExitCode.Done;
        });
        return command;
    }

    private static Argument<string> PlanFile(string name = "PLAN") => new(name) { Description = "Inspection plan, JSON." };

    private static InspectionPlan Read(string path) => InspectionPlan.Parse(Files.ReadText(path), Path.GetFileName(path));
}
