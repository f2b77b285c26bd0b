using System.CommandLine;
using System.Globalization;
using Bostel.Cad;
using Bostel.Core;
using Bostel.Core.Comparison;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;

namespace Bostel.Cli.Commands;

internal static class SectionCommand
{
    public static Command Build()
    {
        var mesh = new Option<string>("--mesh") { Description = "Mesh or CAD file.", Required = true };
        var plane = new Option<string>("--plane") { Description = "nx,ny,nz,d: the plane n·x = d, n taken at length 1, mm.", Required = true };
        var unit = Arguments.Unit();
        var output = new Option<string?>("--out") { Description = "Outlines as .csv or .dxf, mm." };
        var command = new Command("section", "Cuts a mesh with a plane into ordered outlines.") { mesh, plane, unit, output };
        command.SetAction(async (parsed, cancel) =>
        {
            var path = parsed.GetValue(mesh)!;
            var numbers = Numbers(parsed.GetValue(plane)!);
            var solid = CadTranslator.Suffixes.Contains(Path.GetExtension(path).ToLowerInvariant())
                ? (await Files.ReadNominalAsync(path, cancel)).Mesh
                : Files.ReadMesh(path, parsed.GetValue(unit)!).Mesh;
            var outlines = PlaneSection.Cut(solid, new(numbers[0], numbers[1], numbers[2]), numbers[3]);
            if (parsed.GetValue(output) is { } target)
            {
                using var text = new StringWriter();
                OutlineFormats.Write(text, target, [.. outlines.Select(o => (o.Points, o.Closed))]);
                await File.WriteAllTextAsync(target, text.ToString(), cancel);
            }

            Files.Print(new { outlines = outlines.Select(o => new { o.Closed, length = o.Length(), points = Enumerable.Range(0, o.Count).Select(i => o.Point(i).ToArray()) }) });
            return ExitCode.Done;
        });
        return command;
    }

    private static double[] Numbers(string text)
    {
        var numbers = text.Split(',').Select(w => double.TryParse(w, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v) ? v : double.NaN).ToArray();
        return numbers.Length == 4 && !numbers.Any(double.IsNaN) ? numbers : throw new BadInputException($"--plane: '{text}' is not four numbers nx,ny,nz,d.");
    }
}
