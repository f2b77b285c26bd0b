using System.CommandLine;
using Bostel.Core.Preparation;

namespace Bostel.Cli.Commands;

internal static class PrepareCommand
{
    public static Command Build()
    {
        var input = Arguments.In("Scan.");
        var output = Arguments.Out("Cleaned scan, in mm.");
        var unit = Arguments.Unit();
        var below = new Option<int?>("--drop-pieces-below") { Description = "Drop connected pieces with fewer triangles; without it all but the largest piece are dropped." };
        var command = new Command("prepare", "Drops loose pieces and says what was done.") { input, output, unit, below };
        command.SetAction(parsed =>
        {
            var mesh = Files.ReadMesh(parsed.GetValue(input)!, parsed.GetValue(unit)!).Mesh;
            var (kept, record) = parsed.GetValue(below) is { } least ? LoosePieces.DropBelow(mesh, least) : LoosePieces.DropAllButPart(mesh, null);
            Files.WriteMesh(parsed.GetValue(output)!, kept);
            Files.Print(record);
            return ExitCode.Done;
        });
        return command;
    }
}
