using System.CommandLine;
using Bostel.Core.Segmentation;

namespace Bostel.Cli.Commands;

internal static class FeaturesCommand
{
    public static Command Build()
    {
        var nominal = Arguments.Nominal();
        var command = new Command("features", "Lists the recognised faces of a nominal.") { nominal };
        command.SetAction(async (parsed, cancel) =>
        {
            var model = await Files.ReadNominalAsync(parsed.GetValue(nominal)!, cancel);
            Files.Print(new
            {
                faces = model.Faces.Select(f => new
                {
                    id = f.Id,
                    kind = f.Kind,
                    parameters = NominalModelStore.Numbers(f.Shape),
                    area = f.Area,
                    @internal = f.Internal,
                    start = f.Start,
                    end = f.End,
                    sweep = f.Sweep,
                    center = f.Center.ToArray(),
                }),
                remarks = model.Remarks,
            });
            return ExitCode.Done;
        });
        return command;
    }
}
