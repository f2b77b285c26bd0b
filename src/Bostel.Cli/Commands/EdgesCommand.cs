using System.CommandLine;
using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Cli.Commands;

internal static class EdgesCommand
{
    public static Command Build()
    {
        var mesh = new Option<string>("--mesh") { Description = "Scan of a sheet part: a mesh, or a cloud.", Required = true };
        var unit = Arguments.Unit();
        var fewest = new Option<int>("--fewest") { Description = "Edges of fewer points are left out.", DefaultValueFactory = _ => 12 };
        var command = new Command("edges", "Finds the edges of a sheet part, with the circles and slots they make.") { mesh, unit, fewest };
        command.SetAction(parsed =>
        {
            var edges = SheetEdges.Find(Files.ReadMesh(parsed.GetValue(mesh)!, parsed.GetValue(unit)!).Mesh, parsed.GetValue(fewest));
            Files.Print(new
            {
                edges = edges.Select(e => new
                {
                    closed = e.Closed,
                    points = Enumerable.Range(0, e.Count).Select(i => e.Points[(3 * i)..((3 * i) + 3)]),
                    kind = e.Shape?.Kind ?? "trim line",
                    circle = e.Shape is Circle3D c
                        ? new { center = c.Center.ToArray(), normal = c.Normal.ToArray(), radius = c.Radius }
                        : null,
                    slot = e.Shape is Slot3D s
                        ? new
                        {
                            center = s.Center.ToArray(),
                            normal = s.Normal.ToArray(),
                            direction = s.Direction.ToArray(),
                            length = s.Length,
                            width = s.Width
                        }
                        : null,
                    scatter = e.Shape is null ? (double?)null : e.Scatter,
                    sigma = e.Sigma,
                }),
            });
            return ExitCode.Done;
        });
        return command;
    }
}
