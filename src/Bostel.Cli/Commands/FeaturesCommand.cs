using System.CommandLine;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;

namespace Bostel.Cli.Commands;

internal static class FeaturesCommand
{
    public static Command Build()
    {
        var nominal = Arguments.Nominal();
        var scan = new Option<bool>("--scan") { Description = "The file is a scan: small unordered triangles with noise." };
        var sensitivity =
            new Option<double>("--sensitivity")
            {
                Description = "For scans and meshes, 0.5 to 2: higher tells surfaces apart that differ less.",
                DefaultValueFactory = _ => 1
            };
        var command =
            new Command("features", "Lists the recognised faces of a nominal, or of a scan, and the features they make.") { nominal, scan,
                sensitivity };
        command.SetAction(async (parsed, cancel) =>
        {
            var model = parsed.GetValue(scan)
                ? ScanSegmentation.Recognise(
                    Files.ReadMesh(parsed.GetValue(nominal)!, Files.AsStated).Mesh, parsed.GetValue(sensitivity), cancel)
                : await Files.ReadNominalAsync(parsed.GetValue(nominal)!, cancel, parsed.GetValue(sensitivity));
            var borders = FaceBorders.Of(model);
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
                    adjoining = borders.Adjoining([f.Id]),
                }),
                features = NominalFeatures.Find(model).Select(f => new { kind = f.Kind, faces = f.Faces, adjoining = f.Adjoining }),
                remarks = model.Remarks,
            });
            return ExitCode.Done;
        });
        return command;
    }
}
