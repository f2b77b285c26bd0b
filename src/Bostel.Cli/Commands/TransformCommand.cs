using System.CommandLine;
using Bostel.Core.Geometry;

namespace Bostel.Cli.Commands;

internal static class TransformCommand
{
    public static Command Build()
    {
        var files = new Argument<string[]>("files") { Description = "Transform files, applied in this order.", Arity = ArgumentArity.OneOrMore };
        var inverse = new Option<bool>("--inverse") { Description = "The inverse of the whole." };
        var command = new Command("transform", "Composes transform files and inverts them.") { files, inverse };
        command.SetAction(parsed =>
        {
            var whole = parsed.GetValue(files)!.Select(Files.ReadTransform).Aggregate(RigidTransform.Identity, (before, next) => next.After(before));
            Files.Print(new { transform = (parsed.GetValue(inverse) ? whole.Inverse() : whole).ToArray() });
            return ExitCode.Done;
        });
        return command;
    }
}
