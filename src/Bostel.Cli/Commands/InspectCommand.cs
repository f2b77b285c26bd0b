using System.CommandLine;

namespace Bostel.Cli.Commands;

internal static class InspectCommand
{
    public static Command Build()
    {
        var command = new Command("inspect", "Replays a plan on scans and writes the reports.");
        command.SetAction(_ => ExitCode.Done);
        return command;
    }
}
