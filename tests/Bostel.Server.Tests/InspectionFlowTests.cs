using System.IO.Compression;
using System.Security.Cryptography;
using System.Net.Http.Json;
using System.Text.Json;
using Bostel.Cad;
using Bostel.Core.Formats;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>The whole path through the server, and its promises: same numbers as the core, frozen reports, jobs that survive.</summary>
public class InspectionFlowTests(ServerFixture server)
{
    [Fact]
    public async Task ARunGivesTheCoresNumbersToTheLastDigitAndItsReportIsFrozen()
    {
        var part = await server.ClampAsync("FLOW-1");
        var piece = await server.CaptureAsync(part, "0001");
        await SavePlanAsync(part);
        var ended = await server.EndedAsync(await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind = "run-plan" }));
        Assert.Null(ended.GetProperty("error").GetString());
        var view = await server.GetAsync($"/api/pieces/{piece}");
        var rows = view.GetProperty("run").GetProperty("characteristics").EnumerateArray().ToList();
        Assert.Equal(3, rows.Count);

        await using var scope = server.Factory.Services.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<BostelContext>();
        var stored = await context.Pieces.SingleAsync(p => p.Id == Guid.Parse(piece));
        var plan = InspectionPlan.Parse((await server.GetAsync($"/api/parts/{part}/plan")).GetProperty("plan").GetRawText());
        var (nominal, _) = await NominalReader.ReadAsync(
            Directory.GetFiles(Path.Combine(ServerFixture.Root, "demo", "nominal"), "RC-077*.step").Single(), "RC-077.step");
        var blobs = scope.ServiceProvider.GetRequiredService<BlobStore>();
        await using var stream = File.OpenRead(await blobs.FileAsync(stored.FileSha));
        var direct = new InspectionRunner(nominal).Run(MeshFormats.Read(stream, "a.stl").Mesh, plan);
        Assert.All(direct.Characteristics, c => Assert.NotNull(c.Measured));
        Assert.Equal(direct.Characteristics.Select(c => c.Measured), rows.Select(r => (double?)r.GetProperty("measured").GetDouble()));

        Assert.Equal(direct.Characteristics.Select(c => c.Budget.Select(b => b.Sigma)),
            rows.Select(r => r.GetProperty("budget").EnumerateArray().Select(b => b.GetProperty("sigma").GetDouble())));

        // What the stage marks is what the number rests on.
        var evidence = await server.GetAsync($"/api/pieces/{piece}/evidence/3");
        Assert.Equal(rows[2].GetProperty("points").GetInt32(), evidence.GetProperty("used").GetArrayLength());
        Assert.Equal(System.Net.HttpStatusCode.BadRequest, (await server.Client.GetAsync($"/api/pieces/{piece}/evidence/99")).StatusCode);

        await TryOthersAsync(piece);
        Assert.Equal(view.GetRawText(), (await server.GetAsync($"/api/pieces/{piece}")).GetRawText());

        await server.IssueAsync(piece);
        var report = (await server.GetAsync("/api/reports")).EnumerateArray().Single(r => r.GetProperty("pieceId").GetString() == piece);
        var pdf = await server.Client.GetByteArrayAsync($"/api/reports/{report.GetProperty("id").GetString()}/pdf");
        Assert.Equal("%PDF"u8.ToArray(), pdf[..4]);
        Assert.Equal(report.GetProperty("pdfSha").GetString(), Convert.ToHexStringLower(SHA256.HashData(pdf)));
        var csv = await server.Client.GetStringAsync($"/api/reports/{report.GetProperty("id").GetString()}/csv");
        Assert.Contains(direct.Characteristics[0].Measured!.Value.ToString("R", System.Globalization.CultureInfo.InvariantCulture), csv,
            StringComparison.Ordinal);
        var xlsx = await server.Client.GetByteArrayAsync($"/api/reports/{report.GetProperty("id").GetString()}/xlsx");
        using var zip = new ZipArchive(new MemoryStream(xlsx));
        Assert.Contains(zip.Entries, e => e.FullName == "xl/workbook.xml");

        // Evaluating again what has not changed changes nothing; what has changed gives another run and leaves the one behind the report as
        // it was.
        var frozen = view.GetProperty("run").GetProperty("id").GetString();
        await server.EndedAsync(await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind = "evaluate" }));
        Assert.Equal(frozen, (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("id").GetString());
        await SavePlanAsync(part, basedOn: 2, flatness: 0.2);
        await server.EndedAsync(await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind = "evaluate" }));
        Assert.NotEqual(frozen, (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("id").GetString());
        Assert.Equal(3, await server.ScalarAsync<long>($"SELECT count(*) FROM \"Characteristics\" WHERE \"RunId\" = '{frozen}'"));
        Assert.True(await server.ScalarAsync<long>($"SELECT count(*) FROM \"Audit\" WHERE \"Action\" = 'issued a report' AND \"Detail\" "
            + $"LIKE '%{report.GetProperty("pdfSha").GetString()}%'") == 1);
    }

    [Fact]
    public async Task AScanOfAnotherPartGetsNoVerdict()
    {
        var part = await server.ClampAsync("FLOW-2");
        await SavePlanAsync(part);
        var ball = Ball(30, 60);
        var upload = await server.UploadAsync("ball.stl", ServerFixture.Stl(ball));
        var piece = await server.PostAsync("/api/pieces",
            new { partId = part, serial = "1", sha = upload.GetProperty("sha").GetString(), fileName = "ball.stl", unit = "mm" });
        await server.EndedAsync(piece.GetProperty("jobs")[0]);
        var id = piece.GetProperty("id").GetString();
        await server.EndedAsync(await server.PostAsync($"/api/pieces/{id}/jobs", new { kind = "run-plan" }));
        var run = (await server.GetAsync($"/api/pieces/{id}")).GetProperty("run");
        Assert.False(run.GetProperty("alignment").GetProperty("resembles").GetBoolean());
        Assert.All(run.GetProperty("characteristics").EnumerateArray(), c =>
        {
            Assert.Equal("not-measured", c.GetProperty("verdict").GetString());
            Assert.Contains("does not resemble", c.GetProperty("remark").GetString(), StringComparison.Ordinal);
        });
    }

    [Fact]
    public async Task AWrongUnitIsNoticedAndChangedWithOneCall()
    {
        var part = await server.ClampAsync("FLOW-3");
        var captured = await server.CaptureAsync(new(Guid.Parse(part), "inch", 4, 1.5, 0.01, "inch", 0, false, []));
        await ServerFixture.JsonAsync(
            await server.Client.PostAsync($"/api/pieces/{captured}/unit", System.Net.Http.Json.JsonContent.Create(new { unit = "mm" })));
        var guess = (await server.GetAsync($"/api/pieces/{captured}")).GetProperty("guess");
        Assert.Equal(("inch", false), (guess.GetProperty("unit").GetString(), guess.GetProperty("agrees").GetBoolean()));
        await ServerFixture.JsonAsync(
            await server.Client.PostAsync($"/api/pieces/{captured}/unit", System.Net.Http.Json.JsonContent.Create(new { unit = "inch" })));
        Assert.True((await server.GetAsync($"/api/pieces/{captured}")).GetProperty("guess").GetProperty("agrees").GetBoolean());
    }

    [Fact]
    public async Task AJobWhoseProcessDiedIsRunAgainAndACancelledOneIsNot()
    {
        var part = await server.ClampAsync("FLOW-4");
        var piece = Guid.Parse(await server.CaptureAsync(part, "0001"));

        // As killed processes leave them: marked running, the lease ended, never finished.
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<BostelContext>();
        var orphan = Row(piece, JobState.Running, attempts: 1);
        var unwanted = Row(piece, JobState.Running, attempts: 1);
        unwanted.CancelRequested = true;
        var hopeless = Row(piece, JobState.Running, attempts: 5);
        context.Jobs.AddRange(orphan, unwanted, hopeless);
        await context.SaveChangesAsync();
        foreach (var job in new[] { orphan, unwanted, hopeless })
        {
            await server.EndedAsync(await server.GetAsync($"/api/jobs/{job.Id}"));
        }

        Assert.Equal("done", (await server.GetAsync($"/api/jobs/{orphan.Id}")).GetProperty("state").GetString());
        Assert.Equal("cancelled", (await server.GetAsync($"/api/jobs/{unwanted.Id}")).GetProperty("state").GetString());
        Assert.Equal("failed", (await server.GetAsync($"/api/jobs/{hopeless.Id}")).GetProperty("state").GetString());
    }

    [Fact]
    public async Task BlobsComeBackFromTheDatabaseWhenTheLocalCacheIsGone()
    {
        var content = RandomNumberGenerator.GetBytes((5 << 20) + 17);
        var blobs = server.Factory.Services.GetRequiredService<BlobStore>();
        var sha = await blobs.SaveAsync(content);
        File.Delete(Path.Combine(server.BlobFolder, sha));
        Assert.Equal(content, await blobs.BytesAsync(sha));
        Assert.Equal(6, await server.ScalarAsync<long>($"SELECT count(*) FROM \"BlobChunks\" WHERE \"Sha\" = '{sha}'"));
    }

    [Fact]
    public async Task TheOpenApiTypesOfTheWebAreCurrent()
    {
        var served = JsonDocument.Parse(await server.Client.GetStringAsync("/openapi/v1.json")).RootElement;
        var kept = JsonDocument.Parse(
            await File.ReadAllTextAsync(Path.Combine(ServerFixture.Root, "web", "src", "api", "openapi.json"))).RootElement;
        foreach (var part in (string[])["paths", "components"])
        {
            Assert.True(JsonElement.DeepEquals(served.GetProperty(part), kept.GetProperty(part)),
                $"'{part}' of the API changed: run tools/generate-api.sh.");
        }
    }

    private static Job Row(Guid piece, JobState state, int attempts) => new()
    {
        Id = Guid.NewGuid(),
        Kind = JobKind.Prepare,
        Claim = Guid.NewGuid().ToString(),
        SubjectId = piece,
        Arguments = "{}",
        State = state,
        Attempts = attempts,
        CreatedBy = "inspector",
        CreatedAt = DateTimeOffset.UtcNow,
    };

    /// <summary>What is only tried, on a piece whose bottom lies at z = 0 and faces down.</summary>
    private async Task TryOthersAsync(string piece)
    {
        var trial = await server.PostAsync(
            $"/api/pieces/{piece}/align/try", new { align = new { method = "datums", datums = new[] { "A" } }, verdicts = true });
        var motions = trial.GetProperty("alignment").GetProperty("motions").EnumerateArray()
            .ToDictionary(m => m.GetProperty("motion").GetString()!, m => m.GetProperty("by").GetString());
        Assert.Equal("datum A", motions["shift-z"]);
        Assert.Null(motions["turn-z"]);
        Assert.InRange(trial.GetProperty("change").GetProperty("moves").GetDouble(), 0, 0.1);
        using var wrong = await server.Client.PostAsJsonAsync(
            $"/api/pieces/{piece}/align/try", new { align = new { method = "datums", datums = new[] { "Q" } }, verdicts = false });
        Assert.Equal(System.Net.HttpStatusCode.BadRequest, wrong.StatusCode);
        object Raised(string from) =>
            new { construction = new { kind = "offset-plane", id = "r", name = "Raised", from = new[] { from }, distance = 5 } };
        var raised = (await server.PostAsync($"/api/pieces/{piece}/measure", Raised("bottom"))).GetProperty("feature");
        Assert.Equal(-5, raised.GetProperty("measured")[2].GetDouble(), 0.05);
        using var bore = await server.Client.PostAsJsonAsync($"/api/pieces/{piece}/measure", Raised("bore"));
        Assert.Equal(System.Net.HttpStatusCode.UnprocessableEntity, bore.StatusCode);
        var offers = await server.PostAsync(
            $"/api/parts/{(await server.GetAsync($"/api/pieces/{piece}")).GetProperty("partId").GetString()}/plan/constructions",
            new { features = new[] { "bottom" } });
        Assert.Contains(offers.EnumerateArray(), o => o.GetProperty("construction").GetProperty("kind").GetString() == "offset-plane");
    }

    private async Task SavePlanAsync(string part, int basedOn = 1, double flatness = 0.1)
    {
        var nominal = await server.GetAsync($"/api/parts/{part}/nominal");
        int Face(Func<JsonElement, bool> which) => nominal.GetProperty("faces").EnumerateArray().First(which).GetProperty("id").GetInt32();
        var bore = Face(
            f => f.GetProperty("kind").GetString() == "cylinder" && Math.Abs(f.GetProperty("numbers")[6].GetDouble() - 4) < 1e-6);
        var bottom = Face(f => f.GetProperty("kind").GetString() == "plane" && f.GetProperty("numbers")[5].GetDouble() < -0.999);
        var plan = new InspectionPlan
        {
            Part = "RC-077",
            Revision = "A",
            Features = [new("bottom", "Bottom", [bottom]), new("bore", "Bore", [bore]) { EdgeMargin = 1 }],
            Datums = [new("A", ["bottom"])],
            Characteristics =
            [
                new FlatnessPlan(1, "Flatness") { Features = ["bottom"], Tolerance = flatness },
                new DiameterPlan(2, "Bore") { Features = ["bore"], Nominal = 8, Lower = -0.1, Upper = 0.1 },
                new ParallelismPlan(3, "Bore to bottom") { Features = ["bore"], Tolerance = 0.1, Datums = ["A"] },
            ],
        };
        var body = new System.Text.Json.Nodes.JsonObject
        {
            ["basedOn"] = basedOn,
            ["plan"] = System.Text.Json.Nodes.JsonNode.Parse(plan.ToJson())
        };
        await ServerFixture.JsonAsync(
            await server.Client.PutAsync($"/api/parts/{part}/plan", System.Net.Http.Json.JsonContent.Create(body)));
    }

    private static Core.Meshes.TriangleMesh Ball(double radius, int n)
    {
        var coordinates = new List<double>();
        var indices = new List<int>();
        for (var i = 0; i <= n; i++)
        {
            for (var j = 0; j < 2 * n; j++)
            {
                var (u, v) = (Math.PI * i / n, Math.PI * j / n);
                coordinates.AddRange([radius * Math.Sin(u) * Math.Cos(v), radius * Math.Sin(u) * Math.Sin(v), radius * Math.Cos(u)]);
                if (i < n)
                {
                    var (a, b) = ((i * 2 * n) + j, (i * 2 * n) + ((j + 1) % (2 * n)));
                    indices.AddRange([a, a + (2 * n), b + (2 * n), a, b + (2 * n), b]);
                }
            }
        }

        return new([.. coordinates], [.. indices]);
    }
}
