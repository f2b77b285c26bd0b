using System.CommandLine;
using Bostel.Core;
using Bostel.Core.Comparison;
using Bostel.Core.Spatial;

namespace Bostel.Cli.Commands;

internal static class ThicknessCommand
{
    public static Command Build()
    {
        var mesh = new Option<string>("--mesh") { Description = "Closed mesh or CAD file.", Required = true };
        var unit = Arguments.Unit();
        var by = new Option<string>("--by")
        { Description = "sphere (largest inscribed) or ray (along the inward normal).", DefaultValueFactory = _ => "sphere" };
        var limit = new Option<double>("--limit")
        { Description = "Walls thicker than this are not looked for, mm.", DefaultValueFactory = _ => 50 };
        var output = new Option<string?>("--out") { Description = "The mesh with its thickness as the property deviation: .ply or .xyz." };
        var command = new Command("thickness", "Wall thickness at every point of a closed mesh.") { mesh, unit, by, limit, output };
        command.SetAction(async (parsed, cancel) =>
        {
            var path = parsed.GetValue(mesh)!;
            var solid = await Files.ReadSurfaceAsync(path, parsed.GetValue(unit)!, cancel);
            var tree = new TriangleTree(solid);
            var values = parsed.GetValue(by) switch
            {
                "sphere" => WallThickness.BySphere(solid, tree, parsed.GetValue(limit), null, cancel),
                "ray" => WallThickness.ByRay(solid, tree, parsed.GetValue(limit), null, cancel),
                var other => throw new BadInputException($"--by: '{other}' is not sphere or ray."),
            };
            if (parsed.GetValue(output) is { } target)
            {
                Files.WriteMesh(target, solid, Array.ConvertAll(values, v => (float)v));
            }

            var known = DeviationStatistics.Of(values, solid.VertexAreas, 0, parsed.GetValue(limit));
            Files.Print(new
            {
                by = parsed.GetValue(by),
                known.Count,
                known.NoDataCount,
                known.Min,
                known.Max,
                known.Mean,
                known.Percentiles
            });
            return ExitCode.Done;
        });
        return command;
    }
}
