using System.CommandLine;
using System.Diagnostics;
using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.ReferenceCases;

namespace Bostel.Cli.Commands;

internal static class FitCommand
{
    public static Command Build()
    {
        var type = new Option<string?>("--type") { Description = "line, plane, circle, sphere, cylinder, cone, torus or slot." }
            .OneOf("line", "plane", "circle", "sphere", "cylinder", "cone", "torus", "slot");
        var method =
            new Option<string>("--method")
            {
                Description = "least-squares, minimum-zone, minimum-circumscribed, maximum-inscribed or outer-tangent.",
                DefaultValueFactory = _ => "least-squares"
            }.OneOf("least-squares", "minimum-zone", "minimum-circumscribed", "maximum-inscribed", "outer-tangent");
        var points = new Option<string?>("--points") { Description = "Text file, one point a line." };
        var normal = new Option<string?>("--normal") { Description = "x,y,z: normal of the known plane of a line, circle or slot." };
        var outward = new Option<string?>("--outward") { Description = "x,y,z: out of the material, for an outer tangent." };
        var direction = new Option<string?>("--direction")
        { Description = "x,y,z: held normal of a plane, direction of a line, axis or slot. For a circle its normal." };
        var radius = new Option<double?>("--radius") { Description = "Held radius, mm." };
        var angle = new Option<double?>("--half-angle") { Description = "Held half angle of a cone, rad." };
        var on = new Option<string?>("--on") { Description = "x,y,z,dx,dy,dz: the axis it lies on, or its centre." };
        var robust =
            new Option<string?>("--robust") { Description = "tukey, three-sigma, or trimmed with the share used, as trimmed:0.8." };
        var weights = new Option<string?>("--weights") { Description = "Text file, one weight a point." };
        var cases = new Option<string?>("--cases") { Description = "Folder of JSON cases; one JSON line a case is printed." };
        var command = new Command("fit", "Fits an ideal feature to points.") { type, method, points, normal, outward, direction, radius,
            angle, on, robust, weights, cases };
        command.SetAction(parsed =>
        {
            if (parsed.GetValue(cases) is { } folder)
            {
                return Files.EachCase(folder, RunCase);
            }

            if (parsed.GetValue(type) is not { } kind || parsed.GetValue(points) is not { } file)
            {
                throw new BadInputException("fit: --type and --points are needed, or --cases.");
            }

            Vector3D? Get(Option<string?> option) => parsed.GetValue(option) is { } text ? Arguments.Vector(option.Name, text) : null;
            var known = new Known
            {
                Normal = Get(normal) ?? (kind == "circle" ? Get(direction) : null),
                Outward = Get(outward),
                Direction = kind == "circle" ? null : Get(direction),
                Radius = parsed.GetValue(radius),
                HalfAngle = parsed.GetValue(angle),
                On = parsed.GetValue(on) is { } line ? Line(line) : null,
            };
            var coordinates = Files.ReadMesh(file, "mm").Mesh.Coordinates;
            var factors = parsed.GetValue(weights) is { } list
                ? Arguments.Numbers(
                    "--weights", string.Join(',', Files.ReadText(list).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)))
                : null;
            Files.Print(Run(Path.GetFileNameWithoutExtension(file), kind, MethodOf(parsed.GetValue(method)!), coordinates, known, factors,
                RobustOf(parsed.GetValue(robust))));
            return ExitCode.Done;
        });
        return command;
    }

    private static object RunCase(string file)
    {
        var test = FitCase.Read(
            JsonDocument.Parse(File.ReadAllText(file)).RootElement, file,
            beside => Files.ReadMesh(Path.Combine(Path.GetDirectoryName(file)!, beside), "mm").Mesh.Coordinates);
        return Run(test.Id, test.Type, test.Criterion, test.Points, test.Known, null, null);
    }

    private static object Run(string id, string kind, Criterion criterion, double[] points, Known known, double[]? weights, Robust? robust)
    {
        var clock = Stopwatch.StartNew();
        var fit = Association.Fit(kind, criterion, points, known, weights, robust);
        var elapsed = clock.Elapsed.TotalMilliseconds;
        var r = fit.Residuals;
        return new
        {
            id,
            type = kind,
            method = criterion,
            parameters = Parameters(fit.Shape),
            form = fit.Form,
            residuals = new { min = r.Min(), max = r.Max(), scatter = fit.Scatter, rms = Math.Sqrt(r.Sum(v => v * v) / r.Length) },
            uncertainty = FitUncertainty.Of(fit, points) is { } u ? new
            {
                effectivePoints = u.EffectivePoints,
                coverageFactor = u.CoverageFactor,
                position = u.CoverageFactor * u.Position,
                direction = u.CoverageFactor * u.Direction,
                diameter = u.Diameter,
            } : null,
            ending = fit.Ending,
            points = fit.Points,
            rejected = fit.Rejected,
            ms = elapsed,
        };
    }

    private static object Parameters(Shape shape) => shape switch
    {
        Plane3D s => new { point = s.Point.ToArray(), normal = s.Normal.ToArray() },
        Line3D s => new { point = s.Point.ToArray(), direction = s.Direction.ToArray() },
        Circle3D s => new { center = s.Center.ToArray(), normal = s.Normal.ToArray(), radius = s.Radius },
        Sphere3D s => new { center = s.Center.ToArray(), radius = s.Radius },
        Cylinder3D s => new { point = s.Point.ToArray(), axis = s.Axis.ToArray(), radius = s.Radius },
        Cone3D s => new { apex = s.Apex.ToArray(), axis = s.Axis.ToArray(), halfAngle = s.HalfAngle },
        Slot3D s => new
        {
            center = s.Center.ToArray(),
            normal = s.Normal.ToArray(),
            direction = s.Direction.ToArray(),
            length = s.Length,
            width = s.Width
        },
        Torus3D s =>
            (object)new { center = s.Center.ToArray(), axis = s.Axis.ToArray(), majorRadius = s.MajorRadius, minorRadius = s.MinorRadius },
        _ => new { },
    };

    private static Criterion MethodOf(string name)
    {
        try
        {
            return JsonSerializer.Deserialize<Criterion>($"\"{name}\"");
        }
        catch (JsonException)
        {
            throw new BadInputException($"method: '{name}' is not a criterion known here.");
        }
    }

    private static Robust? RobustOf(string? text)
    {
        if (text is null)
        {
            return null;
        }

        var parts = text.Split(':');
        var share = parts.Length > 1 ? Arguments.Numbers("--robust", parts[1], 1)[0] : 0.9;
        return parts[0] switch
        {
            "tukey" => new(RobustMethod.Tukey),
            "three-sigma" => new(RobustMethod.ThreeSigma),
            "trimmed" => new(RobustMethod.Trimmed, share),
            _ => throw new BadInputException($"--robust: '{text}' is not tukey, three-sigma or trimmed:SHARE."),
        };
    }

    private static Line3D Line(string text)
    {
        var v = Arguments.Numbers("--on", text, 6);
        return new(new(v[0], v[1], v[2]), new(v[3], v[4], v[5]));
    }
}
