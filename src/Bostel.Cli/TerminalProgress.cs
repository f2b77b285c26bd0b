using System.Globalization;
using Bostel.Core.Plans;

namespace Bostel.Cli;

/// <summary>
/// What is being done, on standard error: one line that is written over on a terminal, a line for each stage elsewhere, so that a log stays
/// readable.
/// </summary>
internal sealed class TerminalProgress(string subject) : IProgress<RunProgress>, IDisposable
{
    private readonly bool _live = !Console.IsErrorRedirected;
    private readonly Lock _gate = new();
    private string _last = "";

    public void Report(RunProgress value)
    {
        lock (_gate)
        {
            var line = _live
                ? string.Create(CultureInfo.InvariantCulture, $"{subject}: {value.What} {100 * value.Share:0} %")
                : $"{subject}: {value.What}";
            if (line == _last)
            {
                return;
            }

            if (_live)
            {
                Console.Error.Write($"\r{line.PadRight(_last.Length)}");
            }
            else
            {
                Console.Error.WriteLine(line);
            }

            _last = line;
        }
    }

    /// <summary>Takes the line away, so that what is said next stands by itself.</summary>
    public void Dispose()
    {
        if (_live && _last.Length > 0)
        {
            Console.Error.Write($"\r{new string(' ', _last.Length)}\r");
        }
    }
}
