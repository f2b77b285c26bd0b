using System.CommandLine;
using Bostel.Core.Plans;

namespace Bostel.Cli.Commands;

internal static class SchemaCommand
{
    public static Command Build()
    {
        var command = new Command("schema", "Prints the JSON schema of an inspection plan.");
        command.SetAction(_ =>
        {
            Console.Out.WriteLine(InspectionPlan.SchemaJson());
            return ExitCode.Done;
        });
        return command;
    }
}
