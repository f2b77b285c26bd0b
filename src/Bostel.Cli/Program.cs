using System.CommandLine;
using Bostel.Cli;
using Bostel.Cli.Commands;
using Bostel.Core;

var root = new RootCommand(
    "Bostel: dimensional inspection of scans against their nominal. JSON on standard output, messages on standard error.")
{
    InfoCommand.Build(), ConvertCommand.Build(), PrepareCommand.Build(), FitCommand.Build(), EvaluateCommand.Build(),
    CertifyCommand.Build(), AlignCommand.Build(), TransformCommand.Build(), SymmetryCommand.Build(), CompareCommand.Build(),
    FeaturesCommand.Build(), ReferenceCommand.Build(), InspectCommand.Build(), ScanCommand.Build(),
    BenchCommand.Build(), SchemaCommand.Build(),
    SectionCommand.Build(), EdgesCommand.Build(), ThicknessCommand.Build(),
    PlanCommand.Build(), UserCommand.Build(), VerifyCommand.Build(), CompletionCommand.Build(),
};

var parsed = root.Parse(args);

// Half a line is all a shell has when it asks how it may go on.
var completes = args is [['[', 's', 'u', 'g', 'g', 'e', 's', 't', ..], ..];
if (parsed.Errors.Count > 0 && !completes)
{
    Console.Error.WriteLine(parsed.Errors[0].Message);
    return ExitCode.BadInput;
}

try
{
    var code = await parsed.InvokeAsync(new InvocationConfiguration { EnableDefaultExceptionHandler = false });
    Examples.PrintUnderHelp(parsed);
    return code;
}
catch (BadInputException e)
{
    Console.Error.WriteLine(e.Message);
    return ExitCode.BadInput;
}
catch (IOException e)
{
    Console.Error.WriteLine(e.Message);
    return ExitCode.BadInput;
}
catch (OperationCanceledException)
{
    Console.Error.WriteLine("Cancelled.");
    return ExitCode.Internal;
}
#pragma warning disable CA1031 // The last resort: anything else is an internal error, said in one line.
catch (Exception e)
{
    Console.Error.WriteLine($"Internal error: {e.Message}");
    return ExitCode.Internal;
}
