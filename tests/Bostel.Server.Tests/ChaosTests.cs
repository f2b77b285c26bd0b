using System.Collections.Concurrent;
using System.Globalization;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bostel.Core.Formats;
using Npgsql;

namespace Bostel.Server.Tests;

/// <summary>
/// A working day with the server and the database killed at random moments. Shortened here; BOSTEL_KILLS=100 makes it the long one,
/// BOSTEL_LOAD_SECONDS=300 the load.
/// </summary>
public class ChaosTests
{
    private static int Setting(string name, int otherwise) =>
        int.TryParse(Environment.GetEnvironmentVariable(name), CultureInfo.InvariantCulture, out var n) ? n : otherwise;

    [Fact]
    public async Task NothingAcknowledgedIsLostHoweverOftenServerAndDatabaseAreKilled()
    {
        var kills = Setting("BOSTEL_KILLS", 2);
        await using var server = await ServerProcess.CreateAsync("chaos");
        await server.StartAsync();
        await server.SignInAsync();
        var (part, scan) = await PartAsync(server);
        var done = new Acknowledged();
        await ReceiveAsync(server, part, scan, new(1), done, CancellationToken.None);
        var first = done.Pieces.Keys.Single();
        await FinishAsync(server, first, "run-plan");
        using var over = new CancellationTokenSource();
        var day = Task.WhenAll(
            WorkAsync(server, done, over.Token, (random, cancel) =>
                done.Pieces.Count < MostPieces + (kills / 2)
                    ? ReceiveAsync(server, part, scan, random, done, cancel)
                    : Task.Delay(500, cancel)),
            WorkAsync(server, done, over.Token, (random, _) => EditAsync(server, part, random, done)),
            WorkAsync(server, done, over.Token, (random, _) => JobAsync(server, random, done)));
        var random = new Random(12);
        for (var kill = 0; kill < kills; kill++)
        {
            await Task.Delay(random.Next(300, 9000));
            if (kill % 6 == 2)
            {
                await server.KillDatabaseAsync(TimeSpan.FromMilliseconds(random.Next(100, 1500)));
            }
            else
            {
                await server.KillAsync();
                await server.StartAsync();
            }
        }

        await over.CancelAsync();
        await day;
        await server.SignInAsync();
        var reports = await CheckAsync(server, done);

        // And work goes on: a report of the first piece.
        await EditAsync(server, part, random, done);
        Assert.Equal("done", await FinishAsync(server, first, "run-plan"));
        var issued = await JsonAsync(await server.Client.PostAsJsonAsync("/api/issuing", Issuing(first)));
        Assert.Equal("done", await EndedAsync(server, issued[0].GetProperty("job").GetProperty("id").GetString()!));
        TestContext.Current.TestOutputHelper?.WriteLine(
            $"{kills} kills; acknowledged: {done.Pieces.Count} pieces, {done.Revisions.Count} plan revisions, {done.Jobs.Count} jobs; "
                + $"{reports} reports; {done.Failures} requests met no server");
    }

    [Fact]
    public async Task ManyReadersAndSomeWorkersMeetNoError()
    {
        var seconds = Setting("BOSTEL_LOAD_SECONDS", 5);
        await using var server = await ServerProcess.CreateAsync("load");
        await server.StartAsync();
        await server.SignInAsync();
        var (part, scan) = await PartAsync(server);
        var done = new Acknowledged();
        await ReceiveAsync(server, part, scan, new(1), done, CancellationToken.None);
        var piece = done.Pieces.Keys.Single();
        await FinishAsync(server, piece, "run-plan");
        using var over = new CancellationTokenSource(TimeSpan.FromSeconds(seconds));
        var times = new ConcurrentBag<double>();
        var errors = new ConcurrentBag<string>();
        string[] urls = ["/api/floor", $"/api/pieces/{piece}", $"/api/parts/{part}/plan", "/api/reports", "/api/log"];
        var readers = Enumerable.Range(0, 100)
            .Select(i => Task.Run(() => AskAsync(server, () => urls[Random.Shared.Next(urls.Length)], times, errors, over.Token)));
        var workers = Enumerable.Range(0, 10).Select(i => Task.Run(async () =>
        {
            while (!over.IsCancellationRequested)
            {
                await ReceiveAsync(server, part, scan, Random.Shared, done, CancellationToken.None);
                await JobAsync(server, Random.Shared, done);

                // Receiving, looking and running a plan takes a person half a minute or so; on a short run each does it once or twice.
                await Task.Delay(
                    Random.Shared.Next(1000 * Math.Min(15, seconds / 4), 1000 * Math.Min(45, seconds)), CancellationToken.None);
            }
        }));
        await Task.WhenAll(readers.Concat(workers));
        Assert.Empty(errors);
        Assert.Equal(0, done.Failures);
        var sorted = times.Order().ToArray();
        TestContext.Current.TestOutputHelper?.WriteLine(string.Create(
            CultureInfo.InvariantCulture,
            $"{sorted.Length} answers in {seconds} s; half within {sorted[sorted.Length / 2]:0} ms, 95 % within "
                + $"{sorted[(int)(0.95 * sorted.Length)]:0} ms; {done.Jobs.Count} jobs; memory at most {server.Peak / 1e6:0} MB"));
    }

    /// <summary>Few enough that work comes back to each of them.</summary>
    private const int MostPieces = 4;

    private sealed class Acknowledged
    {
        public ConcurrentDictionary<string, string> Pieces { get; } = new();
        public ConcurrentBag<int> Revisions { get; } = [];
        public ConcurrentBag<string> Jobs { get; } = [];
        public int Failures;
        public int Serial;
    }

    /// <summary>Reads like somebody who looks about: a page, a moment, the next.</summary>
    private static async Task AskAsync(
        ServerProcess server, Func<string> url, ConcurrentBag<double> times, ConcurrentBag<string> errors, CancellationToken over)
    {
        while (!over.IsCancellationRequested)
        {
            var clock = System.Diagnostics.Stopwatch.StartNew();
            using var answer = await server.Client.GetAsync(url(), CancellationToken.None);
            await answer.Content.ReadAsByteArrayAsync(CancellationToken.None);
            times.Add(clock.Elapsed.TotalMilliseconds);
            if (!answer.IsSuccessStatusCode)
            {
                errors.Add($"{answer.RequestMessage!.RequestUri}: {answer.StatusCode}");
            }

            await Task.Delay(Random.Shared.Next(500, 3500), CancellationToken.None);
        }
    }

    private static async Task WorkAsync(
        ServerProcess server, Acknowledged done, CancellationToken over, Func<Random, CancellationToken, Task> act)
    {
        var random = new Random(act.GetHashCode());
        while (!over.IsCancellationRequested)
        {
            try
            {
                await act(random, over);
            }
            catch (Exception e) when (e is HttpRequestException or TaskCanceledException or IOException or JsonException)
            {
                Interlocked.Increment(ref done.Failures);
                await SignInQuietlyAsync(server);
            }

            await Task.Delay(random.Next(20, 200), CancellationToken.None);
        }
    }

    private static async Task ReceiveAsync(
        ServerProcess server, string part, byte[] scan, Random random, Acknowledged done, CancellationToken over)
    {
        // No two scans alike, so that every upload is stored.
        var content = (byte[])scan.Clone();
        content[random.Next(0, 80)] ^= (byte)random.Next(1, 255);
        var serial = $"S{Interlocked.Increment(ref done.Serial):0000}";
        using var body = new ByteArrayContent(content);
        var upload = await JsonAsync(await server.Client.PostAsync("/api/uploads?name=scan.stl", body, over));
        var piece = await JsonAsync(await server.Client.PostAsJsonAsync("/api/pieces",
            new { partId = part, serial, sha = upload.GetProperty("sha").GetString(), fileName = "scan.stl", unit = "mm" }, over));
        done.Pieces[piece.GetProperty("id").GetString()!] = serial;
    }

    private static async Task EditAsync(ServerProcess server, string part, Random random, Acknowledged done)
    {
        var stored = await JsonAsync(await server.Client.GetAsync($"/api/parts/{part}/plan"));
        var plan = JsonNode.Parse(stored.GetProperty("plan").GetRawText())!;

        // Another caption makes another report of the same verdicts: now and then the band changes too, and puts all out of date.
        var band = random.Next(8) == 0;
        plan[band ? "compare" : "figures"] = JsonSerializer.SerializeToNode<object>(band
            ? new { lower = -0.2, upper = 0.1 + (0.01 * random.Next(20)), maxAngle = 60 }
            : new[]
            {
                new
                {
                    camera = new { target = new[] { 0, 0, 0 }, direction = new[] { 0, 0, 1 }, up = new[] { 0, 1, 0 }, span = 200 },
                    caption = $"view {random.Next(1000)}",
                },
            });
        var saved = await JsonAsync(
            await server.Client.PutAsJsonAsync($"/api/parts/{part}/plan", new { basedOn = stored.GetProperty("number").GetInt32(), plan }));
        done.Revisions.Add(saved.GetProperty("number").GetInt32());
        await JsonAsync(await server.Client.PostAsJsonAsync(
            $"/api/parts/{part}/plan/release", new { number = saved.GetProperty("number").GetInt32() }));
        await Task.Delay(random.Next(1500, 4000));
    }

    private static async Task JobAsync(ServerProcess server, Random random, Acknowledged done)
    {
        var pieces = done.Pieces.ToArray().OrderBy(p => p.Value).Take(MostPieces).Select(p => p.Key).ToArray();
        var (piece, issue) = (random.GetItems(pieces, 1)[0], random.Next(4) > 0);
        using var answer = issue
            ? await server.Client.PostAsJsonAsync("/api/issuing", Issuing(piece))
            : await server.Client.PostAsJsonAsync($"/api/pieces/{piece}/jobs", new { kind = "run-plan" });
        if (answer.IsSuccessStatusCode)
        {
            var job = await JsonAsync(answer);
            job = issue ? job[0].GetProperty("job") : job;
            if (job.ValueKind == JsonValueKind.Object)
            {
                done.Jobs.Add(job.GetProperty("id").GetString()!);
            }
        }
        else if ((int)answer.StatusCode is not (400 or 409))
        {
            throw new HttpRequestException(answer.StatusCode.ToString());
        }
    }

    private static async Task<long> CheckAsync(ServerProcess server, Acknowledged done)
    {
        Assert.True(done.Pieces.Count > 1 && !done.Revisions.IsEmpty && !done.Jobs.IsEmpty,
            $"{done.Pieces.Count} pieces, {done.Revisions.Count} revisions, {done.Jobs.Count} jobs: hardly a working day");
        await using var source = NpgsqlDataSource.Create(server.Connection);
        async Task<long> CountAsync(string sql)
        {
            await using var command = source.CreateCommand(sql);
            return Convert.ToInt64(await command.ExecuteScalarAsync(), CultureInfo.InvariantCulture);
        }

        // Every job ends: those of killed processes are taken up again.
        for (var i = 0; i < 3000 && await CountAsync("SELECT count(*) FROM \"Jobs\" WHERE \"State\" IN ('Queued', 'Running')") > 0; i++)
        {
            await Task.Delay(100);
        }

        Assert.Equal(0, await CountAsync("SELECT count(*) FROM \"Jobs\" WHERE \"State\" IN ('Queued', 'Running')"));
        foreach (var (id, serial) in done.Pieces)
        {
            var piece = await JsonAsync(await server.Client.GetAsync($"/api/pieces/{id}"));
            Assert.Equal(serial, piece.GetProperty("serial").GetString());
            Assert.True(piece.GetProperty("vertices").GetInt32() > 0, $"piece {serial} was never received: {piece.GetProperty("problem")}");
        }

        foreach (var job in done.Jobs)
        {
            Assert.True(await CountAsync($"SELECT count(*) FROM \"Jobs\" WHERE \"Id\" = '{job}'") == 1, $"job {job} is gone");
        }

        foreach (var revision in done.Revisions)
        {
            Assert.True(await CountAsync($"SELECT count(*) FROM \"PlanRevisions\" WHERE \"Number\" = {revision}") == 1,
                $"plan revision {revision} is gone");
        }

        // One report a request and a content, numbered without a gap.
        Assert.Equal(
            0, await CountAsync("SELECT count(*) FROM (SELECT \"PieceId\", \"Key\" FROM \"Reports\" GROUP BY 1, 2 HAVING count(*) > 1) d"));
        var reports = await CountAsync("SELECT count(*) FROM \"Reports\"");
        Assert.Equal(1001 + reports, await CountAsync("SELECT \"Next\" FROM \"Counters\" WHERE \"Name\" = 'report'"));
        Assert.Equal(reports, await CountAsync("SELECT count(*) FROM \"Reports\" r JOIN \"Blobs\" b ON b.\"Sha\" = r.\"PdfSha\""));

        // Nothing is left over: no half-written files, no folders and no children of killed servers.
        Assert.Empty(Directory.GetFiles(Path.Combine(server.Folder, "blobs"), "*.partial"));
        var own = Assert.Single(Directory.GetDirectories(Path.Combine(server.Folder, "tmp")));
        var tmp = Path.Combine(server.Folder, "tmp") + "/";
        Assert.StartsWith($"{tmp}work-{server.Id}-", own, StringComparison.Ordinal);
        foreach (var process in Directory.GetDirectories("/proc")
            .Where(p => int.TryParse(Path.GetFileName(p), CultureInfo.InvariantCulture, out _)))
        {
            var line = CommandLine(process);
            Assert.True(!line.Contains(tmp, StringComparison.Ordinal) || line.Contains(own, StringComparison.Ordinal),
                $"a child of a killed server still runs: {line}");
        }

        return reports;
    }

    private static string CommandLine(string process)
    {
        try
        {
            return File.ReadAllText(Path.Combine(process, "cmdline"));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return "";
        }
    }

    private static async Task<(string Part, byte[] Scan)> PartAsync(ServerProcess server)
    {
        var part = (await JsonAsync(await server.Client.PostAsJsonAsync(
            "/api/parts", new { number = "DAY", name = "Ridge clamp", revision = "A" }))).GetProperty("id").GetString()!;
        var file = Directory.GetFiles(Path.Combine(ServerFixture.Root, "demo", "nominal"), "RC-077*.step").Single();
        using var body = new ByteArrayContent(await File.ReadAllBytesAsync(file));
        var sha = (await JsonAsync(await server.Client.PostAsync("/api/uploads?name=RC-077.step", body))).GetProperty("sha").GetString();
        var job = await JsonAsync(
            await server.Client.PostAsJsonAsync($"/api/parts/{part}/nominal", new { sha, fileName = "RC-077.step", unit = "mm" }));
        await EndedAsync(server, job.GetProperty("id").GetString()!);
        var (nominal, _) = await Cad.NominalReader.ReadAsync(file, "RC-077.step");
        var scan = Scanner.SimulatedScanner.Scan(nominal, Scanner.ScanRecipe.Parse("{\"seed\": 1, \"spacing\": 1.5}", "recipe")).Mesh;
        using var memory = new MemoryStream();
        MeshFormats.Write(memory, "scan.stl", scan);
        return (part, memory.ToArray());
    }

    /// <summary>Does work on a piece, after what is under way there, and says how it ended.</summary>
    private static object Issuing(string piece) => new { pieces = new[] { piece }, password = ServerFixture.Password };

    private static async Task<string> FinishAsync(ServerProcess server, string piece, string kind)
    {
        await EndedAsync(server, (await JsonAsync(await server.Client.GetAsync($"/api/pieces/{piece}"))).GetProperty(
            "jobs")[0].GetProperty("id").GetString()!);
        var job = (await JsonAsync(await server.Client.PostAsJsonAsync($"/api/pieces/{piece}/jobs", new { kind }))).GetProperty("id")
            .GetString()!;
        return await EndedAsync(server, job);
    }

    private static async Task<string> EndedAsync(ServerProcess server, string job)
    {
        for (var i = 0; i < 600; i++)
        {
            var state = (await JsonAsync(await server.Client.GetAsync($"/api/jobs/{job}"))).GetProperty("state").GetString()!;
            if (state is "done" or "failed" or "cancelled")
            {
                return state;
            }

            await Task.Delay(100);
        }

        throw new TimeoutException($"The job {job} did not end within a minute.");
    }

    private static async Task SignInQuietlyAsync(ServerProcess server)
    {
        try
        {
            await server.SignInAsync();
        }
        catch (Exception e) when (e is HttpRequestException or TaskCanceledException)
        {
            // Not there yet: the next try signs in.
        }
    }

    private static async Task<JsonElement> JsonAsync(HttpResponseMessage answer)
    {
        var text = await answer.Content.ReadAsStringAsync();
        return answer.IsSuccessStatusCode ? JsonDocument.Parse(
            text).RootElement : throw new HttpRequestException($"{answer.RequestMessage?.RequestUri}: {answer.StatusCode} {text}");
    }
}
