using System.CommandLine;
using System.Globalization;
using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Spatial;
using Bostel.Reports;

namespace Bostel.Cli.Commands;

internal static class CompareCommand
{
    private const int AreasShown = 100;

    public static Command Build()
    {
        var nominal = Arguments.Nominal();
        var scan = Arguments.Scan();
        var unit = Arguments.Unit();
        var transform = Arguments.Transform();
        var distance = new Option<double?>("--max-distance") { Description = "Farthest counterpart, mm." };
        var angle = new Option<double>("--max-angle")
        { Description = "Largest angle between normals, degrees.", DefaultValueFactory = _ => 60 };
        var tolerance = new Option<string>("--tolerance") { Description = "lower,upper in mm.", DefaultValueFactory = _ => "-0.2,0.2" };
        var bands = new Option<string?>("--bands")
        { Description = "Half widths as 0.05,0.1,0.2, mm: the share of the area within each, no data in none." };
        var output =
            new Option<string?>("--out") { Description = "Write the scan in nominal coordinates with its deviations: .ply, or .csv." };
        var direction = new Option<string>("--direction")
        {
            Description = "scan-to-nominal; nominal-to-scan: what of the nominal was measured, whole and by face; "
                + "scan-to-scan: the nominal is another scan, its border no counterpart.",
            DefaultValueFactory = _ => "scan-to-nominal"
        }.OneOf("scan-to-nominal", "nominal-to-scan", "scan-to-scan");
        var view = new Option<string?>("--view")
        { Description = "x,y,z toward the device, for clouds without normals: only surfaces facing it are counterparts." };
        var faces = new Option<bool>("--faces") { Description = "Of a mesh nominal recognise the faces, and tell of each; CAD has them." };
        var explain = new Option<bool>("--explain")
        { Description = "Take the deviation apart: what alignment, size, bend and single faces make of it, with uncertainties." };
        var command =
            new Command("compare", "Signed deviation of every scan point from the nominal, and the areas out of tolerance.") { nominal,
                scan, unit, transform, distance, angle, tolerance, bands, direction, output, view, faces, explain };
        command.SetAction(async (parsed, cancel) =>
        {
            var between = parsed.GetValue(direction) is "scan-to-scan";
            var model = between
                ? NominalModel.OfSurface(Files.ReadMesh(parsed.GetValue(nominal)!, parsed.GetValue(unit)!).Mesh)
                : await Files.ReadNominalAsync(parsed.GetValue(nominal)!, cancel, recognise: parsed.GetValue(faces));
            var mesh = Files.ReadMesh(parsed.GetValue(scan)!, parsed.GetValue(unit)!).Mesh;
            var motion = parsed.GetValue(transform) is { } file ? Files.ReadTransform(file) : RigidTransform.Identity;
            var (lower, upper) = Band(parsed.GetValue(tolerance)!);
            var options = new DeviationOptions(parsed.GetValue(distance) ?? DeviationOptions.For(model).MaxDistance, parsed.GetValue(angle))
            {
                BorderIsNoData = between,
                ViewDirection = parsed.GetValue(view) is { } text ? Arguments.Vector("--view", text) : null,
            };
            if (parsed.GetValue(direction) is "nominal-to-scan")
            {
                var coverage = NominalCoverage.Of(mesh, motion, model, options.MaxDistance, cancel: cancel);
                Files.Print(new { coverage = coverage.Whole, faces = coverage.OfFace.Select((share, id) => new { id, share }) });
                return ExitCode.Done;
            }

            if (!between && parsed.GetValue(direction) is not "scan-to-nominal")
            {
                throw new BadInputException(
                    $"--direction: '{parsed.GetValue(direction)}' is not scan-to-nominal, nominal-to-scan or scan-to-scan.");
            }

            var map = Deviation.Compute(mesh, motion, model, new TriangleTree(model.Mesh), options, null, cancel);
            if (map.Triangles.All(t => t < 0))
            {
                Files.Say(string.Create(CultureInfo.InvariantCulture, $"No point has a counterpart within {options.MaxDistance:0.###} "
                    + $"mm. Align the scan first and give the outcome with --transform."));
            }

            if (parsed.GetValue(output) is { } target)
            {
                Write(target, mesh.Transformed(motion), map);
            }

            var weights = InspectionRunner.WeightsOf(mesh);
            var answer = JsonSerializer.SerializeToNode(DeviationStatistics.Of(map.Values, weights, lower, upper), Files.Json)!.AsObject();
            if (parsed.GetValue(bands) is { } list)
            {
                var widths = Arguments.Numbers("--bands", list);
                var shares = OutOfTolerance.Shares(map.Values, weights, [.. widths.Select(w => (-w, w))]);
                answer["bands"] = JsonSerializer.SerializeToNode(
                    widths.Zip(shares).Select(b => new { within = b.First, share = b.Second }), Files.Json);
            }

            answer["areas"] = JsonSerializer.SerializeToNode(
                OutOfTolerance.Areas(new(mesh), map.Values, lower, upper).Take(AreasShown).Select(a =>
                    new { a.High, a.Area, a.Extreme, at = motion.Apply(mesh.Vertex(a.At)).ToArray(), points = a.Vertices.Length }),
                Files.Json);

            if (parsed.GetValue(explain))
            {
                var plan = new InspectionPlan { Compare = new() { Explain = true } };
                var explained = new InspectionRunner(model).Explained(new(mesh, motion, map), plan);
                answer["explained"] = JsonSerializer.SerializeToNode(TableWriters.Explained(explained), Files.Json);
            }

            if (model.Faces.Count > 1)
            {
                answer["faces"] = JsonSerializer.SerializeToNode(
                    FaceStatistics.OfFaces(map, weights, model, lower, upper).Select(
                        (s, id) => new { id, s.Count, s.Min, s.Max, s.Mean, s.Std, s.Rms, s.WithinTolerance }), Files.Json);
                answer["features"] = JsonSerializer.SerializeToNode(
                    NominalFeatures.Find(model).Where(f => f.Faces.Length > 1)
                        .Select(f => (Feature: f, Of: FaceStatistics.OfFeature(map, weights, model, f.Faces, lower, upper)))
                        .Select(p => new
                        {
                            kind = p.Feature.Kind,
                            faces = p.Feature.Faces,
                            p.Of.Count,
                            p.Of.Min,
                            p.Of.Max,
                            p.Of.Mean,
                            p.Of.Std,
                            p.Of.Rms,
                            p.Of.WithinTolerance
                        }), Files.Json);
            }

            Files.Print(answer);
            return ExitCode.Done;
        });
        return command;
    }

    private static (double Lower, double Upper) Band(string text)
    {
        var parts = text.Split(',');
        return parts.Length == 2 && double.TryParse(parts[0], CultureInfo.InvariantCulture, out var low)
            && double.TryParse(parts[1], CultureInfo.InvariantCulture, out var high) && low < high
            ? (low, high)
            : throw new BadInputException($"--tolerance: '{text}' is not lower,upper.");
    }

    private static void Write(string target, Core.Meshes.TriangleMesh mesh, DeviationMap map)
    {
        if (!target.EndsWith(".csv", StringComparison.OrdinalIgnoreCase))
        {
            Files.WriteMesh(target, mesh, Array.ConvertAll(map.Values, v => (float)v));
            return;
        }

        Files.Write(target, stream =>
        {
            using var writer = new StreamWriter(stream) { NewLine = "\n" };
            writer.WriteLine("x,y,z,deviation");
            for (var i = 0; i < map.Values.Length; i++)
            {
                var p = mesh.Vertex(i);
                double? value = double.IsNaN(map.Values[i]) ? null : map.Values[i];
                writer.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{p.X:R},{p.Y:R},{p.Z:R},{value:R}"));
            }
        });
    }
}
