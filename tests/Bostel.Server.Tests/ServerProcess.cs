using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;

namespace Bostel.Server.Tests;

/// <summary>The server as a process of its own, which can be killed, on a database cluster of its own, which can be killed too.</summary>
public sealed class ServerProcess : IAsyncDisposable
{
    private readonly string _connection;
    private Process? _process;

    private ServerProcess(string folder, int port, int databasePort, string connection)
    {
        (Folder, Port, DatabasePort, _connection) = (folder, port, databasePort, connection);
        Client = new(new SocketsHttpHandler
        {
            CookieContainer = new(),
            UseCookies = true,
            ConnectTimeout = TimeSpan.FromSeconds(
            2)
        })
        { BaseAddress = new($"http://127.0.0.1:{port}"), Timeout = TimeSpan.FromSeconds(60) };
    }

    public string Folder { get; }
    public int Port { get; }
    public int DatabasePort { get; }
    public string Connection => _connection;
    public HttpClient Client { get; }
    public int Id => _process!.Id;

    /// <summary>Further settings of the server's environment.</summary>
    public Dictionary<string, string> Settings { get; } = [];

    /// <summary>Highest memory the process has used, bytes.</summary>
    public long Peak => 1024 * long.Parse(
        File.ReadLines($"/proc/{Id}/status").Single(l => l.StartsWith("VmHWM", StringComparison.Ordinal)).Split(
            ' ', StringSplitOptions.RemoveEmptyEntries)[1], CultureInfo.InvariantCulture);

    public static async Task<ServerProcess> CreateAsync(string name)
    {
        var folder = Directory.CreateTempSubdirectory($"bostel-{name}-").FullName;
        await ShellAsync($"chmod 755 '{folder}'");
        var databasePort = FreePort();
        await ShellAsync($"start_postgres '{folder}/postgres' {databasePort} '{folder}/secrets'");
        return new(folder, FreePort(), databasePort, (await ShellAsync($"pg_connection '{folder}/secrets' {databasePort}")).Trim());
    }

    /// <summary>Starts the server and waits until it answers; one that stops while starting is started again, as ./start does.</summary>
    public async Task StartAsync()
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                await StartOnceAsync();
                return;
            }
            catch (HttpRequestException) when (tries < 5)
            {
                await Task.Delay(500);
            }
        }
    }

    private async Task StartOnceAsync()
    {
        var start = new ProcessStartInfo("dotnet")
        {
            WorkingDirectory = Path.Combine(ServerFixture.Root, "src", "Bostel.Server"),
            RedirectStandardOutput = true,
            RedirectStandardError = true
        };
        start.ArgumentList.Add(Path.Combine(start.WorkingDirectory, "bin", "Release", "net10.0", "Bostel.Server.dll"));
        foreach (var (key, value) in new[] { ("Bostel__Database", _connection), ("Bostel__Data", Folder),
            ("Bostel__FirstPassword", ServerFixture.Password), ("ASPNETCORE_URLS", $"http://127.0.0.1:{Port}") })
        {
            start.Environment[key] = value;
        }

        foreach (var (key, value) in Settings)
        {
            start.Environment[key] = value;
        }

        _process = Process.Start(start)!;
        _process.OutputDataReceived += (_, e) => Log(e.Data);
        _process.ErrorDataReceived += (_, e) => Log(e.Data);
        _process.BeginOutputReadLine();
        _process.BeginErrorReadLine();

        // It starts beside all other tests, after a kill with a database to recover: on a busy machine that takes its time.
        for (var i = 0; i < 1800; i++)
        {
            try
            {
                using var answer = await Client.GetAsync("/api/session");
                return;
            }
            catch (HttpRequestException) when (!_process.HasExited)
            {
                await Task.Delay(100);
            }
        }

        throw new TimeoutException("The server did not start within three minutes: " + string.Join('\n', Messages.TakeLast(20)));
    }

    public List<string> Messages { get; } = [];

    public async Task SignInAsync() =>
        (await Client.PostAsJsonAsync("/api/session", new { user = "administrator", password = ServerFixture.Password }))
            .EnsureSuccessStatusCode();

    /// <summary>As the system kills it: nothing of it runs any more, nothing is put in order.</summary>
    public async Task KillAsync()
    {
        _process!.Kill();
        await GoneAsync();
    }

    /// <summary>Not by its output's end: children that outlive it hold that open.</summary>
    private async Task GoneAsync()
    {
        for (var i = 0; i < 300 && !_process!.HasExited; i++)
        {
            await Task.Delay(50);
        }
    }

    /// <summary>Stops the database without any warning, and starts it again after a while.</summary>
    public async Task KillDatabaseAsync(TimeSpan away)
    {
        await ShellAsync($"pg_run \"$(pg_bin)/pg_ctl\" -D '{Folder}/postgres/cluster' -m immediate stop >/dev/null");
        await Task.Delay(away);
        await ShellAsync($"start_postgres '{Folder}/postgres' {DatabasePort} '{Folder}/secrets'");
    }

    public async ValueTask DisposeAsync()
    {
        if (_process is { HasExited: false })
        {
            _process.Kill(entireProcessTree: true);
            await GoneAsync();
        }

        Client.Dispose();
        await ShellAsync($"stop_postgres '{Folder}/postgres'");
        await ShellAsync($"rm -rf '{Folder}'");
    }

    private static async Task<string> ShellAsync(string command)
    {
        var start = new ProcessStartInfo("bash") { RedirectStandardOutput = true };
        start.ArgumentList.Add("-c");
        start.ArgumentList.Add($". '{ServerFixture.Root}/tools/common.sh'; pg_started=0 pg_new=0; {command}");
        using var shell = Process.Start(start)!;
        var output = await shell.StandardOutput.ReadToEndAsync();
        await shell.WaitForExitAsync();
        return shell.ExitCode == 0 ? output : throw new InvalidOperationException($"{command}: exit code {shell.ExitCode}");
    }

    /// <summary>Below the range of outgoing connections, which may end up connected to themselves.</summary>
    private static int FreePort()
    {
        while (true)
        {
            var port = Random.Shared.Next(20000, 32000);
            try
            {
                using var listener = new TcpListener(IPAddress.Loopback, port);
                listener.Start();
                return port;
            }
            catch (SocketException)
            {
                // Taken: another one.
            }
        }
    }

    private void Log(string? line)
    {
        lock (Messages)
        {
            Messages.Add(line ?? "");
        }
    }
}
