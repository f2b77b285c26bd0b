using System.CommandLine;
using System.Globalization;
using Bostel.Cad;
using Bostel.Core;
using Bostel.Core.Comparison;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Cli.Commands;

internal static class SectionCommand
{
    public static Command Build()
    {
        var mesh = new Option<string>("--mesh") { Description = "Mesh or CAD file.", Required = true };
        var plane = new Option<string>("--plane") { Description = "nx,ny,nz,d: the plane n·x = d, n taken at length 1, mm. With --nominal in nominal coordinates.", Required = true };
        var unit = Arguments.Unit();
        var output = new Option<string?>("--out") { Description = "Outlines as .csv or .dxf, mm." };
        var nominal = new Option<string?>("--nominal") { Description = "Its nominal: the deviation of each point of the outline from the nominal's is given too." };
        var transform = Arguments.Transform();
        var tolerance = new Option<double?>("--parts") { Description = "Take the outlines apart into lines and arcs that hold their points within this, mm." };
        var between = new Option<string?>("--between") { Description = "With --parts: two of them as outline/part, as 0/1,0/4; their distance and angle." };
        var command = new Command("section", "Cuts a mesh with a plane into ordered outlines; compares them with the nominal's; finds their lines and arcs.") { mesh, plane, unit, output, nominal, transform, tolerance, between };
        command.SetAction(async (parsed, cancel) =>
        {
            var numbers = Arguments.Numbers("--plane", parsed.GetValue(plane)!, 4);
            var normal = new Vector3D(numbers[0], numbers[1], numbers[2]);
            var motion = parsed.GetValue(transform) is { } file ? Files.ReadTransform(file) : RigidTransform.Identity;
            var outlines = PlaneSection.Cut((await SolidAsync(parsed.GetValue(mesh)!, parsed.GetValue(unit)!, cancel)).Transformed(motion), normal, numbers[3]);
            if (parsed.GetValue(output) is { } target)
            {
                using var text = new StringWriter();
                OutlineFormats.Write(text, target, [.. outlines.Select(o => (o.Points, o.Closed))]);
                await File.WriteAllTextAsync(target, text.ToString(), cancel);
            }

            IReadOnlyList<OutlineDeviation>? deviations = null;
            if (parsed.GetValue(nominal) is { } reference)
            {
                var solid = await SolidAsync(reference, Files.AsStated, cancel);
                deviations = SectionDeviation.Of(outlines, PlaneSection.Cut(solid, normal, numbers[3]), normal, new(Math.Max(1, 0.02 * solid.Bounds.Diagonal)));
            }

            var parts = parsed.GetValue(tolerance) is { } within ? outlines.Select(o => OutlineParts.Split(o, normal, within)).ToArray() : null;
            var pair = parsed.GetValue(between) is { } names ? Pair(names, parts) : ((double Distance, double Angle)?)null;
            Files.Print(new
            {
                between = pair is { } p ? new { distance = p.Distance, angle = p.Angle } : null,
                outlines = outlines.Select((o, i) => new
                {
                    o.Closed,
                    length = o.Length(),
                    points = Enumerable.Range(0, o.Count).Select(k => o.Point(k).ToArray()),
                    deviations = deviations?[i].Values,
                    parts = parts?[i].Select(Printed),
                }),
                statistics = deviations is null ? null : SectionDeviation.Statistics(deviations, double.NegativeInfinity, double.PositiveInfinity),
            });
            return ExitCode.Done;
        });
        return command;
    }

    private static (double Distance, double Angle) Pair(string text, IReadOnlyList<OutlinePart>[]? parts)
    {
        if (parts is null)
        {
            throw new BadInputException("--between: names parts, and needs --parts.");
        }

        var names = text.Split(',');
        return names.Length == 2 ? OutlineParts.Between(Part(names[0]), Part(names[1])) : throw new BadInputException($"--between: '{text}' is not two parts as 0/1,0/4.");

        OutlinePart Part(string name)
        {
            var numbers = name.Split('/').Select(n => int.TryParse(n, CultureInfo.InvariantCulture, out var i) ? i : -1).ToArray();
            return numbers.Length == 2 && numbers[0] >= 0 && numbers[0] < parts.Length && numbers[1] >= 0 && numbers[1] < parts[numbers[0]].Count
                ? parts[numbers[0]][numbers[1]]
                : throw new BadInputException($"--between: there is no part '{name}'.");
        }
    }

    private static object Printed(OutlinePart part) => new
    {
        kind = part.Kind,
        from = part.From,
        points = part.Count,
        radius = part.Radius,
        hollow = part.Kind == "arc" ? part.Internal : (bool?)null,
        center = (part.Fit.Shape as Circle3D)?.Center.ToArray(),
        point = (part.Fit.Shape as Line3D)?.Point.ToArray(),
        direction = part.Direction?.ToArray(),
        form = part.Fit.Form,
    };

    private static async Task<TriangleMesh> SolidAsync(string path, string unit, CancellationToken cancel) =>
        CadTranslator.Suffixes.Contains(Path.GetExtension(path).ToLowerInvariant()) ? (await Files.ReadNominalAsync(path, cancel)).Mesh : Files.ReadMesh(path, unit).Mesh;
}
