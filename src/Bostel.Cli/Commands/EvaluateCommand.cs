using System.CommandLine;
using System.Diagnostics;
using System.Text.Json;
using Bostel.Core.ReferenceCases;

namespace Bostel.Cli.Commands;

/// <summary>Evaluates tolerance cases: points and a callout in, one JSON line a case out.</summary>
internal static class EvaluateCommand
{
    public static Command Build()
    {
        var cases = new Option<string>("--cases")
        { Description = "Folder of JSON cases (docs/formats.md); one JSON line a case is printed.", Required = true };
        var command = new Command("evaluate",
            "Evaluates tolerances, decisions and statistics given as cases, by the functions that evaluate the characteristics of a plan.")
        { cases };
        command.SetAction(parsed => Files.EachCase(parsed.GetValue(cases)!, file =>
        {
            var json = JsonDocument.Parse(File.ReadAllText(file)).RootElement;
            var clock = Stopwatch.StartNew();
            var result = ToleranceCase.Evaluate(json);
            return new { id = ToleranceCase.IdOf(json, file), result, ms = clock.Elapsed.TotalMilliseconds };
        }));
        return command;
    }
}
