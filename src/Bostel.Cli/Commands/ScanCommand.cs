using System.CommandLine;
using System.Text;
using Bostel.Scanner;

namespace Bostel.Cli.Commands;

internal static class ScanCommand
{
    public static Command Build()
    {
        var nominal = Arguments.Nominal();
        var recipe = new Option<string?>("--recipe") { Description = "JSON recipe; without it the standard scan." };
        var output = Arguments.Out("Scan to write; its truth goes beside it as OUT.truth.json.");
        var command = new Command("scan", "The simulated scanner.") { nominal, recipe, output };
        command.SetAction(async (parsed, cancel) =>
        {
            var model = await Files.ReadNominalAsync(parsed.GetValue(nominal)!, cancel);
            var wanted = parsed.GetValue(recipe) is { } file
                ? ScanRecipe.Parse(Files.ReadText(file), Path.GetFileName(file))
                : new ScanRecipe();
            var scan = SimulatedScanner.Scan(model, wanted, null, cancel);
            var target = parsed.GetValue(output)!;
            Files.WriteMesh(target, scan.Mesh);
            Files.Write(target + ".truth.json", s => s.Write(Encoding.UTF8.GetBytes(scan.Truth.ToJson())));
            Files.Print(new
            {
                file = target,
                vertices = scan.Mesh.VertexCount,
                triangles = scan.Mesh.TriangleCount,
                partTriangles = scan.Truth.PartTriangles
            });
            return ExitCode.Done;
        });
        return command;
    }
}
