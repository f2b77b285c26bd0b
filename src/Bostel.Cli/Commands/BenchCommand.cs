using System.CommandLine;

namespace Bostel.Cli.Commands;

internal static class BenchCommand
{
    public static Command Build()
    {
        var command = new Command("bench", "Times the core's work on generated data and prints a table.");
        command.SetAction(_ => ExitCode.Done);
        return command;
    }
}
