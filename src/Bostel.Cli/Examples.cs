using System.CommandLine;
using System.CommandLine.Help;
using System.CommandLine.Parsing;

namespace Bostel.Cli;

/// <summary>A line or two for each command, printed under its help.</summary>
internal static class Examples
{
    private static readonly Dictionary<string, string[]> Lines = new()
    {
        ["info"] = ["bostel info SCAN.stl", "bostel info POINTS.xyz --units inch"],
        ["convert"] = ["bostel convert SCAN.obj SCAN.ply"],
        ["prepare"] = ["bostel prepare SCAN.stl CLEAN.stl --drop-pieces-below 500 --fill-holes-below 3"],
        ["fit"] = ["bostel fit --type cylinder --method maximum-inscribed --points BORE.xyz"],
        ["align"] = ["bostel align --nominal PART.step --scan SCAN.stl > POSE.json"],
        ["transform"] = ["bostel transform FIRST.json SECOND.json --inverse > POSE.json"],
        ["compare"] = ["bostel compare --nominal PART.step --scan SCAN.stl --transform POSE.json --tolerance -0.1,0.1 --out MAP.ply"],
        ["section"] = ["bostel section --mesh SCAN.stl --plane 0,0,1,25 --out SECTION.dxf"],
        ["features"] = ["bostel features --nominal PART.step"],
        ["reference"] = ["bostel reference --scan GOOD.stl --first 0 --second symmetry-plane --origin 0 symmetry-plane --out PART.bnom"],
        ["inspect"] = ["bostel inspect --plan PLAN.json --nominal PART.step --scan SCAN-*.stl --out results"],
        ["scan"] = ["bostel scan --nominal PART.step --recipe RECIPE.json SCAN.ply"],
        ["plan check"] = ["bostel plan check PLAN.json --nominal PART.step"],
        ["plan upgrade"] = ["bostel plan upgrade OLD.json > PLAN.json"],
        ["plan explain"] = ["bostel plan explain PLAN.json"],
        ["plan compare"] = ["bostel plan compare BEFORE.json AFTER.json"],
        ["verify"] = ["bostel verify BR-1001.pdf"],
        ["completion"] = ["source <(bostel completion bash)"],
    };

    /// <summary>Prints a command's examples when its help was asked for.</summary>
    public static void PrintUnderHelp(ParseResult parsed)
    {
        if (parsed.Action is HelpAction && Lines.TryGetValue(PathOf(parsed.CommandResult), out var lines))
        {
            Console.Out.WriteLine("Examples:");
            Array.ForEach(lines, l => Console.Out.WriteLine($"  {l}"));
        }
    }

    /// <summary>The words of a command below the program's own name.</summary>
    private static string PathOf(CommandResult result)
    {
        var words = new Stack<string>();
        for (SymbolResult? at = result; at is CommandResult { Parent: not null } command; at = at.Parent)
        {
            words.Push(command.Command.Name);
        }

        return string.Join(' ', words);
    }
}
