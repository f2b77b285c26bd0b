using System.CommandLine;
using Bostel.Core;
using Bostel.Core.Plans;
using Bostel.Reports;

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
        var table = new Option<string?>("--table") { Description = "The drawing's characteristics, CSV or XLSX." };
        var from = new Option<string?>("--from")
        {
            Description = "What is proposed from, in order, as pmi,table,faces; else what there is of the first two, or the faces.",
        };
        var command = new Command("propose",
            "Proposes a plan for a nominal: from the product information of its CAD file, from a table of its drawing, or from its faces "
                + "(datums, holes, main faces, a profile over all) with general tolerances (ISO 2768 m and K). What was doubtful is said "
                + "on standard error.")
        { nominal, table, from };
        command.SetAction(async (parsed, cancel) =>
        {
            var path = parsed.GetValue(nominal)!;
            var model = await Files.ReadNominalAsync(path, cancel);
            var drawing = parsed.GetValue(table) is { } file ? TableReader.Drawing(Files.ReadBytes(file), Path.GetFileName(file)) : null;
            var empty = new InspectionPlan { Part = Path.GetFileNameWithoutExtension(path) };
            var sources = parsed.GetValue(from) is { } named ? Sources(named) : PlanProposal.Usual(model, drawing is not null);
            var proposal = PlanProposal.Of(model, empty, sources, drawing);
            proposal.Doubts.ToList().ForEach(Files.Say);
            Console.Out.WriteLine(proposal.AddedTo(empty).ToJson());
            return ExitCode.Done;
        });
        return command;
    }

    private static IReadOnlyList<ProposalSource> Sources(string named) =>
        [.. named.Split(',', StringSplitOptions.TrimEntries).Select(name =>
            name.All(char.IsLetter) && Enum.TryParse<ProposalSource>(name, ignoreCase: true, out var source)
                ? source
                : throw new BadInputException($"--from: '{name}' is none of pmi, table, faces."))];

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
