using System.CommandLine;
using System.Globalization;
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
        var plane = new Option<string?>("--plane")
        { Description = "nx,ny,nz,d: the plane n·x = d, n taken at length 1, mm. With --nominal in nominal coordinates." };
        var repeat = new Option<string?>("--repeat")
        { Description = "With --plane: step,count, as many parallel planes a step (mm) apart, in one pass." };
        var polar = new Option<string?>("--polar")
        { Description = "x,y,z,dx,dy,dz,count: planes through an axis, evenly over half a turn; instead of --plane." };
        var unit = Arguments.Unit();
        var output = new Option<string?>("--out") { Description = "Outlines as .csv or .dxf, mm." };
        var nominal = new Option<string?>("--nominal")
        { Description = "Its nominal: the deviation of each point of the outline from the nominal's is given too." };
        var transform = Arguments.Transform();
        var tolerance = new Option<double?>("--parts")
        { Description = "Take the outlines apart into lines and arcs that hold their points within this, mm." };
        var between = new Option<string?>("--between")
        { Description = "With --parts: two of them as outline/part, as 0/1,0/4; their distance and angle." };
        var command =
            new Command("section",
                "Cuts a mesh with a plane into ordered outlines; compares them with the nominal's; finds their lines and arcs.") { mesh,
                plane, repeat, polar, unit, output, nominal, transform, tolerance, between };
        command.SetAction(async (parsed, cancel) =>
        {
            var cut = Planes(parsed.GetValue(plane), parsed.GetValue(repeat), parsed.GetValue(polar));
            var motion = parsed.GetValue(transform) is { } file ? Files.ReadTransform(file) : RigidTransform.Identity;
            var sections = cut((await Files.ReadSurfaceAsync(parsed.GetValue(mesh)!, parsed.GetValue(unit)!, cancel)).Transformed(motion));
            if (parsed.GetValue(output) is { } target)
            {
                using var text = new StringWriter();
                OutlineFormats.Write(text, target, [.. sections.SelectMany(s => s.Outlines).Select(o => (o.Points, o.Closed))]);
                await File.WriteAllTextAsync(target, text.ToString(), cancel);
            }

            IReadOnlyList<Section>? references = null;
            var reach = 1.0;
            if (parsed.GetValue(nominal) is { } reference)
            {
                var solid = await Files.ReadSurfaceAsync(reference, Files.AsStated, cancel);
                (references, reach) = (cut(solid), Math.Max(1, 0.02 * solid.Bounds.Diagonal));
            }

            var printed = sections.Select(
                (s, i) => Described(s, references?[i], reach, parsed.GetValue(tolerance), parsed.GetValue(between))).ToList();
            Files.Print(parsed.GetValue(repeat) is null && parsed.GetValue(polar) is null ? printed[0] : new { sections = printed });
            return ExitCode.Done;
        });
        return command;
    }

    private sealed record Section(Vector3D Normal, double Offset, IReadOnlyList<SectionOutline> Outlines);

    /// <summary>What to cut a mesh with.</summary>
    private static Func<TriangleMesh, IReadOnlyList<Section>> Planes(string? plane, string? repeat, string? polar)
    {
        if ((plane is null) == (polar is null) || (repeat is not null && plane is null))
        {
            throw new BadInputException("section: one of --plane and --polar is needed; --repeat goes with --plane.");
        }

        if (polar is not null)
        {
            var v = Arguments.Numbers("--polar", polar, 7);
            var (point, axis) = (new Vector3D(v[0], v[1], v[2]), new Vector3D(v[3], v[4], v[5]));
            var angles = Enumerable.Range(0, Count("--polar", v[6])).Select(i => i * Math.PI / v[6]).ToArray();
            var from = axis.LengthSquared > 0 ? axis.Normalized().Perpendicular() : axis;
            return mesh => [.. PlaneSection.Polar(mesh, point, axis, from, angles).Select((outlines, i) =>
            {
                var normal = RigidTransform.FromAxisAngle(axis, angles[i] + (Math.PI / 2)).Rotate(from);
                return new Section(normal, normal.Dot(point), outlines);
            })];
        }

        var numbers = Arguments.Numbers("--plane", plane!, 4);
        var (n, first) = (new Vector3D(numbers[0], numbers[1], numbers[2]), numbers[3]);
        var (step, count) = repeat is null ? (0, 1) : Arguments.Numbers("--repeat", repeat, 2) is var r
            ? (r[0], Count("--repeat", r[1]))
            : default;
        var offsets = Enumerable.Range(0, count).Select(i => first + (i * step)).ToArray();
        return mesh => [.. PlaneSection.Cut(mesh, n, offsets).Select((outlines, i) => new Section(n, offsets[i], outlines))];
    }

    private static int Count(string option, double value) =>
        value is >= 1 and <= 100_000 && value == Math.Floor(value)
            ? (int)value
            : throw new BadInputException($"{option}: {value} is not a number of planes.");

    private static object Described(Section section, Section? reference, double reach, double? tolerance, string? between)
    {
        var deviations = reference is null ? null : SectionDeviation.Of(section.Outlines, reference.Outlines, section.Normal, new(reach));
        var parts = tolerance is { } within ? section.Outlines.Select(o => OutlineParts.Split(o, section.Normal, within)).ToArray() : null;
        var pair = between is not null ? Pair(between, parts) : ((double Distance, double Angle)?)null;
        return new
        {
            plane = (double[])[.. section.Normal.Normalized().ToArray(), section.Offset],
            between = pair is { } p ? new { distance = p.Distance, angle = p.Angle } : null,
            outlines = section.Outlines.Select((o, i) => new
            {
                o.Closed,
                length = o.Length(),
                points = Enumerable.Range(0, o.Count).Select(k => o.Point(k).ToArray()),
                deviations = deviations?[i].Values,
                parts = parts?[i].Select(Printed),
            }),
            statistics = deviations is null
                ? null
                : SectionDeviation.Statistics(deviations, double.NegativeInfinity, double.PositiveInfinity),
        };
    }

    private static (double Distance, double Angle) Pair(string text, IReadOnlyList<OutlinePart>[]? parts)
    {
        if (parts is null)
        {
            throw new BadInputException("--between: names parts, and needs --parts.");
        }

        var names = text.Split(',');
        return names.Length == 2 ? OutlineParts.Between(
            Part(names[0]), Part(names[1])) : throw new BadInputException($"--between: '{text}' is not two parts as 0/1,0/4.");

        OutlinePart Part(string name)
        {
            var numbers = name.Split('/').Select(n => int.TryParse(n, CultureInfo.InvariantCulture, out var i) ? i : -1).ToArray();
            return numbers.Length == 2 && numbers[0] >= 0 && numbers[0] < parts.Length && numbers[1] >= 0
                && numbers[1] < parts[numbers[0]].Count
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
}
