using System.CommandLine;
using System.Diagnostics;
using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Cli.Commands;

internal static class FitCommand
{
    public static Command Build()
    {
        var type = new Option<string?>("--type") { Description = "line, plane, circle, sphere, cylinder, cone, torus or slot." };
        var method = new Option<string>("--method") { Description = "least-squares, minimum-zone, minimum-circumscribed, maximum-inscribed or outer-tangent.", DefaultValueFactory = _ => "least-squares" };
        var points = new Option<string?>("--points") { Description = "Text file, one point a line." };
        var direction = new Option<string?>("--direction") { Description = "x,y,z: plane normal of a line or circle, outward side of a tangent plane." };
        var cases = new Option<string?>("--cases") { Description = "Folder of JSON cases; one JSON line a case is printed." };
        var command = new Command("fit", "Fits an ideal feature to points.") { type, method, points, direction, cases };
        command.SetAction(parsed =>
        {
            if (parsed.GetValue(cases) is { } folder)
            {
                return RunCases(folder);
            }

            if (parsed.GetValue(type) is not { } kind || parsed.GetValue(points) is not { } file)
            {
                throw new BadInputException("fit: --type and --points are needed, or --cases.");
            }

            Vector3D? along = parsed.GetValue(direction) is { } text ? Vector(text) : null;
            var coordinates = Files.ReadMesh(file, "mm").Mesh.Coordinates;
            Files.Print(Run(Path.GetFileNameWithoutExtension(file), kind, MethodOf(parsed.GetValue(method)!), coordinates, new(Normal: along, Outward: along)));
            return ExitCode.Done;
        });
        return command;
    }

    private static int RunCases(string folder)
    {
        if (!Directory.Exists(folder))
        {
            throw new BadInputException($"{folder}: there is no such folder.");
        }

        var exit = ExitCode.Done;
        foreach (var file in Directory.GetFiles(folder, "*.json").Order(StringComparer.Ordinal))
        {
            try
            {
                Files.Print(RunCase(file));
            }
            catch (Exception e) when (e is BadInputException or JsonException or KeyNotFoundException or InvalidOperationException)
            {
                Files.Print(new { id = Path.GetFileNameWithoutExtension(file), error = e.Message });
                Files.Say($"{Path.GetFileName(file)}: {e.Message}");
                exit = ExitCode.BadInput;
            }
        }

        return exit;
    }

    private static object RunCase(string file)
    {
        var json = JsonDocument.Parse(File.ReadAllText(file)).RootElement;
        var coordinates = json.TryGetProperty("points", out var list)
            ? list.EnumerateArray().SelectMany(p => p.EnumerateArray().Take(3).Select(v => v.GetDouble())).ToArray()
            : Files.ReadMesh(Path.Combine(Path.GetDirectoryName(file)!, json.GetProperty("pointsFile").GetString()!), "mm").Mesh.Coordinates;
        Vector3D? Get(string key) => json.TryGetProperty(key, out var v) ? new Vector3D(v[0].GetDouble(), v[1].GetDouble(), v[2].GetDouble()) : null;
        var known = new Association.Known(
            Normal: Get("normal"), Outward: Get("outward"), LeastSum: !json.TryGetProperty("criterion", out var c) || c.GetString() != "max");
        var id = json.TryGetProperty("id", out var name) ? name.GetString()! : Path.GetFileNameWithoutExtension(file);
        return Run(id, json.GetProperty("type").GetString()!, MethodOf(json.GetProperty("method").GetString()!), coordinates, known);
    }

    private static object Run(string id, string kind, Criterion criterion, double[] points, Association.Known known)
    {
        var clock = Stopwatch.StartNew();
        var fit = Association.Fit(kind, criterion, points, known);
        var r = fit.Residuals;
        return new
        {
            id,
            type = kind,
            method = criterion,
            parameters = Parameters(fit.Shape),
            form = fit.Form,
            residuals = new { min = r.Min(), max = r.Max(), rms = Math.Sqrt(r.Sum(v => v * v) / r.Length) },
            uncertainty = fit.Covariance is { } v2 ? new { sigma = Enumerable.Range(0, v2.GetLength(0)).Select(i => Math.Sqrt(Math.Max(0, v2[i, i]))).ToArray() } : null,
            points = fit.Points,
            ms = clock.Elapsed.TotalMilliseconds,
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
        Slot3D s => new { center = s.Center.ToArray(), normal = s.Normal.ToArray(), direction = s.Direction.ToArray(), length = s.Length, width = s.Width },
        Torus3D s => (object)new { center = s.Center.ToArray(), axis = s.Axis.ToArray(), majorRadius = s.MajorRadius, minorRadius = s.MinorRadius },
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

    private static Vector3D Vector(string text)
    {
        var parts = text.Split(',').Select(p => double.TryParse(p, System.Globalization.CultureInfo.InvariantCulture, out var v) ? v : double.NaN).ToArray();
        return parts.Length == 3 && parts.All(double.IsFinite) ? Vector3D.FromArray(parts) : throw new BadInputException($"--direction: '{text}' is not x,y,z.");
    }
}
