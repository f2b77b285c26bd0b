using System.Diagnostics;
using System.Text.Json;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;

namespace Bostel.Core.Tests.CommandLine;

/// <summary>Runs `bostel` as a process in a folder of its own.</summary>
public abstract class CommandLineProgram : IDisposable
{
    private static readonly string Program = Path.Combine(DemoParts.Root, "src", "Bostel.Cli", "bin", "Release", "net10.0", "bostel.dll");

    protected DirectoryInfo Folder { get; } = Directory.CreateTempSubdirectory("bostel-cli-");

    public void Dispose()
    {
        Folder.Delete(recursive: true);
        GC.SuppressFinalize(this);
    }

    protected string At(string name) => Path.Combine(Folder.FullName, name);

    protected string Write(string name, TriangleMesh mesh)
    {
        using var stream = File.Create(At(name));
        MeshFormats.Write(stream, name, mesh);
        return At(name);
    }

    protected string WriteText(string name, string text)
    {
        File.WriteAllText(At(name), text);
        return At(name);
    }

    protected static TriangleMesh Read(string path)
    {
        using var stream = File.OpenRead(path);
        return MeshFormats.Read(stream, path).Mesh;
    }

    protected static (int Code, JsonElement Answer, string Messages) Run(params string[] arguments)
    {
        var (code, text, messages) = RunOn(null, arguments);
        return (code, text.Length > 0 && text[0] == '{' ? JsonDocument.Parse(text).RootElement : default, messages);
    }

    /// <summary>Runs with a number of processors; all of the machine's when null.</summary>
    protected static (int Code, string Text, string Messages) RunOn(int? processors, params string[] arguments)
    {
        var start = new ProcessStartInfo("dotnet", [Program, .. arguments]) { RedirectStandardOutput = true, RedirectStandardError = true };
        if (processors is { } count)
        {
            start.Environment["DOTNET_PROCESSOR_COUNT"] = count.ToString(System.Globalization.CultureInfo.InvariantCulture);
        }

        using var process = Process.Start(start)!;
        var messages = process.StandardError.ReadToEndAsync();
        var text = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        return (process.ExitCode, text, messages.Result);
    }
}
