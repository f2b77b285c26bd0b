using System.CommandLine;
using Bostel.Core;
using Bostel.Core.Alignment;

namespace Bostel.Cli.Commands;

internal static class SymmetryCommand
{
    public static Command Build()
    {
        var mesh = new Argument<string>("mesh") { Description = "Scan, mesh or CAD file." };
        var unit = Arguments.Unit();
        var command = new Command("symmetry", "Finds planes of symmetry and the rotation axis of a surface.") { mesh, unit };
        command.SetAction(async (parsed, cancel) =>
        {
            var scan = await Files.ReadSurfaceAsync(parsed.GetValue(mesh)!, parsed.GetValue(unit)!, cancel);
            var planes = SymmetryPlane.Find(scan, cancel);
            FoundAxis? axis = null;
            try
            {
                axis = RotationAxis.Find(scan);
            }
            catch (BadInputException none)
            {
                Files.Say(none.Message);
            }

            Files.Print(new
            {
                planes = planes.Select(
                    p => new { point = p.Plane.Point.ToArray(), normal = p.Plane.Normal.ToArray(), share = p.Share, rms = p.Rms }),
                axis = axis is null
                    ? null
                    : new
                    {
                        point = axis.Axis.Point.ToArray(),
                        direction = axis.Axis.Direction.ToArray(),
                        share = axis.Share,
                        rms = axis.Rms
                    },
            });
            return ExitCode.Done;
        });
        return command;
    }
}
