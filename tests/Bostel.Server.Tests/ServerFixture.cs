using System.Net.Http.Json;
using System.Text.Json;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Data;
using Bostel.Server.Endpoints;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

[assembly: AssemblyFixture(typeof(Bostel.Server.Tests.ServerFixture))]

namespace Bostel.Server.Tests;

/// <summary>
/// The whole server on a real PostgreSQL, in a database of its own. ./test starts the cluster and names it in BOSTEL_TEST_DATABASE.
/// </summary>
public sealed class ServerFixture : IAsyncLifetime
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bostel-test-").FullName;
    private readonly string _database = "test_" + Guid.NewGuid().ToString("N");
    private string _admin = "";
    private HttpClient? _approver;

    public WebApplicationFactory<Program> Factory { get; private set; } = null!;
    public HttpClient Client { get; private set; } = null!;
    public string Connection { get; private set; } = "";
    public string IntakeFolder => Path.Combine(_folder, "intake");
    public string OutboxFolder => Path.Combine(_folder, "outbox");
    public string DeliveryFolder => Path.Combine(_folder, "delivery");
    public string BlobFolder => Path.Combine(_folder, "blobs");

    public const string Password = "a-password-for-tests";

    public static string Root { get; } = Find();

    public async ValueTask InitializeAsync()
    {
        _admin = Environment.GetEnvironmentVariable("BOSTEL_TEST_DATABASE")
            ?? throw new InvalidOperationException("Run the tests through ./test: it starts PostgreSQL and sets BOSTEL_TEST_DATABASE.");
        var application = new NpgsqlConnectionStringBuilder(
            Environment.GetEnvironmentVariable("BOSTEL_TEST_APPLICATION"))
        { Database = _database, MaxPoolSize = 30 };
        await ExecuteAsync($"CREATE DATABASE {_database} OWNER {application.Username}");
        Connection = application.ConnectionString;
        Factory = Create(jobs: true);
        await AddPeopleAsync(Factory.Services);
        Client = await SignedInAsync(Factory, "inspector");
    }

    public async ValueTask DisposeAsync()
    {
        await Factory.DisposeAsync();
        NpgsqlConnection.ClearAllPools();
        await ExecuteAsync($"DROP DATABASE {_database} WITH (FORCE)");
        Directory.Delete(_folder, recursive: true);
    }

    /// <summary>A piece of a clamp with one profile over a face, judged.</summary>
    public async Task<string> JudgedPieceAsync(string number, bool evaluated = true)
    {
        var part = await ClampAsync(number);
        var piece = await CaptureAsync(part, "1", number.Length + number[^1]);
        if (evaluated)
        {
            var stored = await GetAsync($"/api/parts/{part}/plan");
            var plan = System.Text.Json.Nodes.JsonNode.Parse(stored.GetProperty("plan").GetRawText())!;
            plan["features"] = System.Text.Json.Nodes.JsonNode.Parse("""[{"id":"f","name":"F","faces":[0]}]""");
            plan["characteristics"] = System.Text.Json.Nodes.JsonNode.Parse(
                """[{"no":1,"name":"P","kind":"profile-of-a-surface","faces":[0],"tolerance":1}]""");
            await JsonAsync(await Client.PutAsJsonAsync($"/api/parts/{part}/plan", new { basedOn = 1, plan }));
            await EndedAsync(await PostAsync($"/api/pieces/{piece}/jobs", new { kind = "run-plan" }));
        }

        return piece;
    }

    public WebApplicationFactory<Program> Create(bool jobs) => new WebApplicationFactory<Program>().WithWebHostBuilder(b =>
    {
        b.UseSetting("Bostel:Database", Connection);
        b.UseSetting("Bostel:Data", _folder);
        b.UseSetting("Bostel:Jobs", jobs ? "true" : "false");
        b.UseSetting("Bostel:IntakeEvery", "400");
        b.UseSetting("Bostel:OwnTemp", "false");
        b.UseSetting("Bostel:Demo", "");
        b.UseSetting("Bostel:FirstPassword", Password);
    });

    /// <summary>One account a role; the administrator is made by the server itself.</summary>
    public static async Task AddPeopleAsync(IServiceProvider services)
    {
        await using var scope = services.CreateAsyncScope();
        var accounts = scope.ServiceProvider.GetRequiredService<Accounts>();
        foreach (var role in (Role[])[Role.Reader, Role.Inspector, Role.Approver])
        {
            await accounts.AddAsync(role.ToString().ToLowerInvariant(), Password, role, mustChange: false);
        }

        await scope.ServiceProvider.GetRequiredService<BostelContext>().SaveChangesAsync();
    }

    public static async Task<HttpClient> SignedInAsync(WebApplicationFactory<Program> factory, string user)
    {
        var client = factory.CreateClient();
        var answer = await client.PostAsJsonAsync("/api/session", new { user, password = Password });
        answer.EnsureSuccessStatusCode();
        return client;
    }

    /// <summary>A JSON answer, or the failure's own sentence.</summary>
    public static async Task<JsonElement> JsonAsync(HttpResponseMessage answer)
    {
        var text = await answer.Content.ReadAsStringAsync();
        Assert.True(answer.IsSuccessStatusCode, $"{answer.RequestMessage?.RequestUri}: {answer.StatusCode} {text}");
        return text.Length == 0 ? default : JsonDocument.Parse(text).RootElement;
    }

    public async Task<JsonElement> GetAsync(string url) => await JsonAsync(await Client.GetAsync(url));

    public async Task<JsonElement> PostAsync(string url, object body) => await JsonAsync(await Client.PostAsJsonAsync(url, body));

    public async Task<byte[]> BytesAsync(string url, object body)
    {
        var answer = await Client.PostAsJsonAsync(url, body);
        answer.EnsureSuccessStatusCode();
        return await answer.Content.ReadAsByteArrayAsync();
    }

    public async Task<JsonElement> UploadAsync(string name, byte[] content)
    {
        using var body = new ByteArrayContent(content);
        return await JsonAsync(await Client.PostAsync($"/api/uploads?name={Uri.EscapeDataString(name)}", body));
    }

    /// <summary>Waits until a job has ended, whichever way; a minute at most.</summary>
    public async Task<JsonElement> EndedAsync(JsonElement job)
    {
        var id = job.GetProperty("id").GetString();
        for (var i = 0; i < 600; i++)
        {
            var now = await GetAsync($"/api/jobs/{id}");
            if (now.GetProperty("state").GetString() is "done" or "failed" or "cancelled")
            {
                return now;
            }

            await Task.Delay(100);
        }

        throw new TimeoutException($"The job {id} did not end within a minute.");
    }

    /// <summary>An approver releases the plan in force of a piece's part.</summary>
    public async Task ReleaseAsync(string piece)
    {
        var part = (await GetAsync($"/api/pieces/{piece}")).GetProperty("partId").GetString();
        var number = (await GetAsync($"/api/parts/{part}/plan")).GetProperty("number").GetInt32();
        await JsonAsync(await (_approver ??= await SignedInAsync(Factory, "approver"))
            .PostAsJsonAsync($"/api/parts/{part}/plan/release", new { number }));
    }

    /// <summary>
    /// Issues the report of a piece, its plan released: the job that has ended, or the answer that says what stands in the way.
    /// </summary>
    public async Task<JsonElement> IssueAsync(string piece, HttpClient? who = null)
    {
        await ReleaseAsync(piece);
        var answer = Assert.Single((await JsonAsync(await (who ?? Client).PostAsJsonAsync(
            "/api/issuing", new { pieces = new[] { piece }, password = Password }))).EnumerateArray());
        return answer.GetProperty("job") is { ValueKind: JsonValueKind.Object } job ? await EndedAsync(job) : answer;
    }

    /// <summary>A new part with the ridge clamp's nominal, a small and quick one.</summary>
    public async Task<string> ClampAsync(string number)
    {
        var part = (await PostAsync("/api/parts", new { number, name = "Ridge clamp", revision = "A" })).GetProperty("id").GetString()!;
        var file = Directory.GetFiles(Path.Combine(Root, "demo", "nominal"), "RC-077*.step").Single();
        var upload = await UploadAsync("RC-077.step", await File.ReadAllBytesAsync(file));
        var job = await PostAsync(
            $"/api/parts/{part}/nominal", new { sha = upload.GetProperty("sha").GetString(), fileName = "RC-077.step", unit = "mm" });
        Assert.Equal("done", (await EndedAsync(job)).GetProperty("state").GetString());
        return part;
    }

    /// <summary>Captures a piece with the simulated scanner and returns its id.</summary>
    public Task<string> CaptureAsync(string part, string serial, int seed = 3) =>
        CaptureAsync(new Capture(Guid.Parse(part), serial, seed, 0.8, 0.01, "mm", 2, true, []));

    public async Task<string> CaptureAsync(Capture capture)
    {
        var ended = await EndedAsync(await PostAsync("/api/captures", capture));
        Assert.Equal("done", ended.GetProperty("state").GetString());
        return (await GetAsync($"/api/pieces?part={capture.PartId}")).GetProperty("pieces").EnumerateArray()
            .Single(p => p.GetProperty("serial").GetString() == capture.Serial)
            .GetProperty("id").GetString()!;
    }

    public static byte[] Stl(TriangleMesh mesh)
    {
        using var memory = new MemoryStream();
        MeshFormats.Write(memory, "test.stl", mesh);
        return memory.ToArray();
    }

    public async Task<T> ScalarAsync<T>(string sql)
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        return (T)(await command.ExecuteScalarAsync())!;
    }

    /// <summary>In the server's own database.</summary>
    public async Task ExecuteInAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(Connection);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    /// <summary>As the administrator of the cluster.</summary>
    public Task AdminAsync(string sql) => ExecuteAsync(sql);

    private async Task ExecuteAsync(string sql)
    {
        await using var connection = new NpgsqlConnection(_admin);
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync();
    }

    private static string Find()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Bostel.slnx")))
        {
            folder = folder.Parent ?? throw new DirectoryNotFoundException("The root of the repository was not found.");
        }

        return folder.FullName;
    }
}
