using System.CommandLine;
using Bostel.Core;
using Bostel.Core.Alignment;
using Bostel.Core.Geometry;

namespace Bostel.Cli.Commands;

internal static class TransformCommand
{
    public static Command Build()
    {
        var files = new Argument<string[]>(
            "files")
        { Description = "Transform files, applied in this order.", Arity = ArgumentArity.ZeroOrMore };
        var axes = new Option<string?>("--axes")
        {
            Description =
            "Names of the two axes of a system built on geometry and applied last, as z,x; with --origin, --first and --second."
        };
        var origin = new Option<string>("--origin") { Description = "x,y,z that becomes its origin.", DefaultValueFactory = _ => "0,0,0" };
        var first = new Option<string?>("--first") { Description = "x,y,z along which the first axis runs." };
        var second = new Option<string?>("--second") { Description = "x,y,z to whose side the second axis turns." };
        var inverse = new Option<bool>("--inverse") { Description = "The inverse of the whole." };
        var command =
            new Command("transform", "Composes transform files and inverts them; makes one from an origin and two directions.") { files,
                axes, origin, first, second, inverse };
        command.SetAction(parsed =>
        {
            var whole = parsed.GetValue(files)!.Select(Files.ReadTransform)
                .Aggregate(RigidTransform.Identity, (before, next) => next.After(before));
            if (parsed.GetValue(axes) is { } names)
            {
                var pair = names.Split(',') is [var a, var b]
                    ? (First: a, Second: b)
                    : throw new BadInputException($"--axes: '{names}' is not two axes, as z,x.");
                Vector3D Direction(Option<string?> option) =>
                    Arguments.Vector(
                        option.Name, parsed.GetValue(option) ?? throw new BadInputException($"{option.Name}: is needed with --axes."));
                whole = AxisSystem.From(Arguments.Vector("--origin", parsed.GetValue(origin)!), Direction(first), Direction(second),
                    pair.First, pair.Second).After(whole);
            }

            Files.Print(new { transform = (parsed.GetValue(inverse) ? whole.Inverse() : whole).ToArray() });
            return ExitCode.Done;
        });
        return command;
    }
}
