using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bostel.Core.Formats;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>
/// The record tells the truth: after any sequence of edits, undo, redo, other files and partial runs, what is shown in date equals a fresh
/// run of the same plan on the same files, bit for bit; the rest shows as out of date.
/// </summary>
public class RecordTests(ServerFixture server)
{
    private readonly Dictionary<string, InspectionResult> _fresh = [];

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public async Task WhatIsInDateIsWhatAFreshRunGives(int seed)
    {
        var random = new Random(seed);
        var part = await server.ClampAsync($"REC-{seed}");
        var nominals = await NominalsAsync(part);
        var piece = await CaptureAsync(part, seed);
        await EditAsync(part, plan => Characteristics(plan, nominals.Bottom, nominals.Bore));
        var inDate = 0;
        for (var step = 0; step < 24; step++)
        {
            await ActAsync(random, part, piece, nominals);
            inDate += await CheckAsync(Guid.Parse(piece));
        }

        await UseNominalAsync(part, nominals.Own);
        await ServerFixture.JsonAsync(await server.Client.PostAsJsonAsync($"/api/pieces/{piece}/unit", new { unit = "mm" }));
        await RunAsync(piece, "run-plan");
        Assert.Equal(5, await CheckAsync(Guid.Parse(piece)));
        Assert.True(inDate > 24, $"only {inDate} outcomes were in date in all: the sequence shows little");
    }

    [Fact]
    public async Task AToleranceIsJudgedAnewWithoutMeasuringAndAReportOfWhatIsOutOfDateIsNotIssued()
    {
        var part = await server.ClampAsync("REC-JUDGE");
        var nominals = await NominalsAsync(part);
        var piece = await CaptureAsync(part, 5);
        await EditAsync(part, plan => Characteristics(plan, nominals.Bottom, nominals.Bore));
        await RunAsync(piece, "run-plan");
        var before = await OutcomesAsync();
        await EditAsync(part, plan => plan["characteristics"]![0]!["tolerance"] = 1e-6);
        var stale = await server.GetAsync($"/api/pieces/{piece}");
        Assert.Equal("outOfDate", State(stale, "evaluate"));
        Assert.All((string[])["prepare", "align", "features", "compare"], s => Assert.NotEqual("outOfDate", State(stale, s)));
        var refused = await server.IssueAsync(piece);
        Assert.Contains("out of date", refused.GetProperty("problem").GetString(), StringComparison.Ordinal);

        // Done by the time the request answers, and nothing but the judgement is new.
        Assert.Equal(
            "done", (await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind = "evaluate" })).GetProperty("state").GetString());
        Assert.Equal(before, await OutcomesAsync());
        var row = (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("characteristics")[0];

        // A face without error reads nothing within its uncertainty: against a millionth of a millimetre it proves neither.
        Assert.Equal("not-proven", row.GetProperty("verdict").GetString());

        // Undone, the first verdict is in date again at once; redone, the second.
        await UndoAsync(part, "undo");
        Assert.NotEqual("outOfDate", State(await server.GetAsync($"/api/pieces/{piece}"), "evaluate"));
        await UndoAsync(part, "redo");
        Assert.NotEqual("outOfDate", State(await server.GetAsync($"/api/pieces/{piece}"), "evaluate"));
    }

    [Fact]
    public async Task OtherColumnsAndAnotherNominalPutEverythingOutOfDate()
    {
        var part = await server.ClampAsync("REC-FILES");
        var nominals = await NominalsAsync(part);
        var piece = await CaptureAsync(part, 6, cloud: true);
        await EditAsync(part, plan => plan["compare"]!["upper"] = 0.3);
        await RunAsync(piece, "run-plan");
        await ServerFixture.JsonAsync(await server.Client.PostAsJsonAsync($"/api/pieces/{piece}/columns", new { columns = "y x z" }));
        await UntilIdleAsync(piece);
        Assert.All((string[])["prepare", "align", "compare"],
            s => Assert.Equal((s, "outOfDate"), (s, State(server.GetAsync($"/api/pieces/{piece}").Result, s))));
        await ServerFixture.JsonAsync(await server.Client.PostAsJsonAsync($"/api/pieces/{piece}/columns", new { columns = "x y z" }));
        await UntilIdleAsync(piece);
        Assert.Equal("done", State(await server.GetAsync($"/api/pieces/{piece}"), "compare"));
        await UseNominalAsync(part, nominals.Other);
        Assert.Equal("outOfDate", State(await server.GetAsync($"/api/pieces/{piece}"), "compare"));
    }

    [Fact]
    public async Task LabelsReadTheServersValueAndAGivenPoseIsKeptInThePlan()
    {
        var part = await server.ClampAsync("REC-POSE");
        var piece = await CaptureAsync(part, 7);
        await RunAsync(piece, "compare");
        var view = await server.GetAsync($"/api/pieces/{piece}");
        var transform = view.GetProperty("run").GetProperty("alignment").GetProperty("transform").EnumerateArray()
            .Select(v => v.GetDouble()).ToArray();
        Assert.Equal("best fit to all surfaces", view.GetProperty("run").GetProperty("alignment").GetProperty("method").GetString());

        // A label far off reads nothing, whatever a browser says; one on the part reads the stored deviation nearest to it.
        var at = (await server.GetAsync($"/api/parts/{part}/nominal")).GetProperty("faces")[0].GetProperty("center").EnumerateArray()
            .Select(v => v.GetDouble()).ToArray();
        var readings =
            (await server.PostAsync($"/api/pieces/{piece}/readings",
                new { labels = new object[] { new { point = at, value = 9.999 }, new { point = new[] { 1e5, 0, 0 } } } }))
                .GetProperty("readings");
        var statistics = view.GetProperty("run").GetProperty("comparison").GetProperty("statistics");
        Assert.InRange(readings[0].GetProperty("value").GetDouble(), statistics.GetProperty("min").GetDouble(),
            statistics.GetProperty("max").GetDouble());
        Assert.Equal(System.Text.Json.JsonValueKind.Null, readings[1].GetProperty("value").ValueKind);

        // A map lies on the scan, or on the nominal; its values are as many as what it lies on has vertices.
        var map = await server.PostAsync($"/api/pieces/{piece}/map", new { kind = "spacing", name = "s", upper = 1e-3 });
        Assert.Equal("mm", map.GetProperty("unit").GetString());
        Assert.Equal(0, map.GetProperty("statistics").GetProperty("withinTolerance").GetDouble());
        var values = await server.BytesAsync($"/api/pieces/{piece}/map/values", new { kind = "spacing", name = "s" });
        var key = view.GetProperty("run").GetProperty("compareStage").GetProperty("deviationsKey").GetString();
        Assert.Equal((await server.Client.GetByteArrayAsync($"/api/pieces/{piece}/deviation?key={key}")).Length, values.Length);
        var explained = await server.GetAsync($"/api/pieces/{piece}/explanation");
        Assert.Equal(
            ["pose", "size", "bend", "faces"],
            explained.GetProperty("steps").EnumerateArray().Select(s => s.GetProperty("part").GetString()));
        Assert.True(explained.GetProperty("rms").GetDouble() > 0);
        var band = new { lower = -1e-3, upper = 1e-3, smallest = (double?)null };
        var areas = (await server.PostAsync($"/api/pieces/{piece}/areas", band)).GetProperty("areas");
        Assert.Equal(areas.EnumerateArray().Select(a => a.GetProperty("area").GetDouble()).OrderDescending(),
            areas.EnumerateArray().Select(a => a.GetProperty("area").GetDouble()));
        Assert.True(areas.GetArrayLength() > 0);

        transform[3] += 0.05;
        await EditAsync(part, plan => plan["align"] = new JsonObject
        {
            ["method"] = "as-given",
            ["start"] = new JsonArray([.. transform.Select(v => (JsonNode)v)])
        });
        await RunAsync(piece, "align");
        var given = (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("alignment");
        Assert.Equal(transform, given.GetProperty("transform").EnumerateArray().Select(v => v.GetDouble()));
        Assert.Equal("a given transform, taken as it is", given.GetProperty("method").GetString());
        await UndoAsync(part, "undo");
        Assert.Equal("best fit to all surfaces",
            (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("alignment").GetProperty("method").GetString());
        var log = (await server.GetAsync("/api/log?search=REC-POSE")).GetProperty("lines");
        Assert.Contains(log.EnumerateArray(), a => a.GetProperty(
            "action").GetString() == "compared" && a.GetProperty("subject").GetString()!.StartsWith("REC-POSE", StringComparison.Ordinal));
        Assert.DoesNotContain(log.EnumerateArray(), a => a.GetProperty(
            "action").GetString() == "evaluated" && a.GetProperty("subject").GetString()!.StartsWith("REC-POSE", StringComparison.Ordinal));
    }

    [Fact]
    public async Task TheLogIsSearchedByPieceReportPersonAndDayAndSaved()
    {
        var piece = await server.JudgedPieceAsync("REC-LOG%");
        await server.IssueAsync(piece);
        var number = (await server.GetAsync("/api/reports")).EnumerateArray()
            .Single(r => r.GetProperty("pieceId").GetString() == piece).GetProperty("number").GetString()!;
        async Task<List<JsonElement>> FoundAsync(string query) =>
            [.. (await server.GetAsync($"/api/log?{query}")).GetProperty("lines").EnumerateArray()];
        string Subject(JsonElement line) => line.GetProperty("subject").GetString()!;
        var issued = Assert.Single(await FoundAsync($"search={number}"));
        Assert.Equal(("issued a report", "REC-LOG% piece 1"), (issued.GetProperty("action").GetString(), Subject(issued)));
        Assert.Single(await FoundAsync("search=approver+released+REC-LOG%25"));
        Assert.Empty(await FoundAsync("search=reader+REC-LOG%25"));

        // A sign that means "anything" to the database is a sign like others.
        Assert.All(await FoundAsync("search=LOG%25"), l => Assert.Contains("REC-LOG%", l.GetRawText(), StringComparison.Ordinal));
        var today = DateTime.UtcNow.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);
        Assert.Single(await FoundAsync($"search={number}&from={today}&to={today}"));
        Assert.Empty(await FoundAsync($"search={number}&to=2020-01-01"));
        Assert.Single(await FoundAsync($"search={number}&to=9999-12-31"));
        Assert.Equal(HttpStatusCode.BadRequest, (await server.Client.GetAsync("/api/log?from=yesterday")).StatusCode);
        var saved = (await server.Client.GetStringAsync($"/api/log/file?search={number}")).TrimEnd().Split('\n');
        Assert.Equal(2, saved.Length);
        Assert.Contains("inspector,issued a report,REC-LOG% piece 1,", saved[1], StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("off")]
    [InlineData("3mf")]
    [InlineData("glb")]
    public async Task ANominalMayBeAnyMeshThatTheBrowserOffers(string format)
    {
        var part = (await server.PostAsync("/api/parts", new { number = "REC-" + format, name = "x", revision = "A" })).GetProperty("id")
            .GetString()!;
        var cube = new Core.Meshes.TriangleMesh(
            [0, 0, 0, 40, 0, 0, 40, 30, 0, 0, 30, 0, 0, 0, 20, 40, 0, 20, 40, 30, 20, 0, 30, 20],
            [0, 2, 1, 0, 3, 2, 4, 5, 6, 4, 6, 7, 0, 1, 5, 0, 5, 4, 1, 2, 6, 1, 6, 5, 2, 3, 7, 2, 7, 6, 3, 0, 4, 3, 4, 7]);
        using var memory = new MemoryStream();
        if (format == "off")
        {
            memory.Write(System.Text.Encoding.ASCII.GetBytes(Off(cube)));
        }
        else
        {
            MeshFormats.Write(memory, "cube." + format, cube);
        }

        var upload = await server.UploadAsync("cube." + format, memory.ToArray());
        await UseNominalAsync(part, (upload.GetProperty("sha").GetString()!, "cube." + format));
        var nominal = await server.GetAsync($"/api/parts/{part}/nominal");
        Assert.Equal(6, nominal.GetProperty("faces").GetArrayLength());

        // In mm whatever unit the format is in.
        Assert.All(new[] { 40.0, 30, 20 }.Zip(nominal.GetProperty("sizeMm").EnumerateArray()),
            p => Assert.Equal(p.First, p.Second.GetDouble(), 3));
    }

    private static string Off(Core.Meshes.TriangleMesh mesh) => string.Create(
        System.Globalization.CultureInfo.InvariantCulture,
        $"OFF\n{mesh.VertexCount} {mesh.TriangleCount} 0\n"
        + $"{string.Join('\n', mesh.Coordinates.Chunk(3).Select(c => string.Join(' ', c)))}\n"
        + $"{string.Join('\n', mesh.Indices.Chunk(3).Select(t => "3 " + string.Join(' ', t)))}\n");

    private sealed record Nominals(int Bottom, int Bore, (string Sha, string Name) Own, (string Sha, string Name) Other);

    private async Task<Nominals> NominalsAsync(string part)
    {
        var faces = (await server.GetAsync($"/api/parts/{part}/nominal")).GetProperty("faces").EnumerateArray().ToList();
        int Face(Func<System.Text.Json.JsonElement, bool> which) => faces.First(which).GetProperty("id").GetInt32();
        var bore = Face(
            f => f.GetProperty("kind").GetString() == "cylinder" && Math.Abs(f.GetProperty("numbers")[6].GetDouble() - 4) < 1e-6);
        var bottom = Face(f => f.GetProperty("kind").GetString() == "plane" && f.GetProperty("numbers")[5].GetDouble() < -0.999);
        var folder = Path.Combine(ServerFixture.Root, "demo", "nominal");
        async Task<(string, string)> StoredAsync(string name) =>
            ((await server.UploadAsync(name, await File.ReadAllBytesAsync(Path.Combine(folder, name)))).GetProperty("sha").GetString()!,
                name);
        var own = Path.GetFileName(Directory.GetFiles(folder, "RC-077*.step").Single());
        return new(bottom, bore, await StoredAsync(own),
            await StoredAsync(Path.GetFileName(Directory.GetFiles(folder, "LB-045*.step").Single())));
    }

    private static void Characteristics(JsonObject plan, int bottom, int bore)
    {
        var wanted = new InspectionPlan
        {
            Features = [new("bottom", "Bottom", [bottom]), new("bore", "Bore", [bore]) { EdgeMargin = 1 }],
            Datums = [new("A", ["bottom"])],
            Characteristics =
            [
                new FlatnessPlan(1, "Flatness") { Features = ["bottom"], Tolerance = 0.1 },
                new DiameterPlan(2, "Bore") { Features = ["bore"], Nominal = 8, Lower = -0.1, Upper = 0.1 },
                new ParallelismPlan(3, "Bore to bottom") { Features = ["bore"], Tolerance = 0.1, Datums = ["A"] },
                new SurfaceProfilePlan(4, "Bottom profile") { Faces = [bottom], Tolerance = 0.4 },
            ],
        };
        var node = JsonNode.Parse(wanted.ToJson())!;
        foreach (var field in (string[])["features", "datums", "characteristics"])
        {
            plan[field] = node[field]!.DeepClone();
        }
    }

    private async Task ActAsync(Random random, string part, string piece, Nominals nominals)
    {
        switch (random.Next(12))
        {
            case 0: await EditAsync(part, p => Tolerance(p, random)); break;
            case 1: await EditAsync(part, p => p["compare"]!["upper"] = 0.1 + (0.05 * random.Next(4))); break;
            case 2: await EditAsync(part, p => p["compare"]!["maxAngle"] = 40 + (10 * random.Next(4))); break;
            case 3: await EditAsync(part, p => Edge(p, random)); break;
            case 4:
                await EditAsync(part,
                p => p["prepare"] =
                JsonNode.Parse(random.Next(2) == 0
                    ? """{"steps":[{"kind":"keep-part"}]}"""
                    : """{"steps":[{"kind":"keep-part"},{"kind":"smooth","passes":2,"maxDisplacement":0.02}]}""")); break;
            case 5:
                await EditAsync(part, p => p["align"] = JsonNode.Parse(random.Next(2) == 0
                ? """{"method":"all-surfaces"}"""
                : $$"""{"method":"faces","faces":[{{nominals.Bottom}},{{nominals.Bore}}]}""")); break;
            case 6: await UndoAsync(part, random.Next(3) == 0 ? "redo" : "undo"); break;
            case 7: await EditAsync(part, p => p["device"] = new JsonObject { ["lengthError"] = 0.005 * (1 + random.Next(3)) }); break;
            case 8 when random.Next(3) == 0: await UseNominalAsync(part, random.Next(2) == 0 ? nominals.Own : nominals.Other); break;
            case 9 when random.Next(3) == 0:
                await ServerFixture.JsonAsync(await server.Client.PostAsJsonAsync(
                $"/api/pieces/{piece}/unit", new { unit = random.Next(2) == 0 ? "mm" : "inch" })); break;
            default: await RunAsync(piece, random.GetItems(["prepare", "align", "compare", "measure", "evaluate"], 1)[0]); break;
        }
    }

    private static void Tolerance(JsonObject plan, Random random)
    {
        if (plan["characteristics"] is JsonArray { Count: > 0 } rows)
        {
            rows[0]!["tolerance"] = 0.01 * (1 + random.Next(5));
        }
    }

    private static void Edge(JsonObject plan, Random random)
    {
        if (plan["features"] is JsonArray { Count: > 1 } features)
        {
            features[1]!["edgeMargin"] = 0.8 + (0.2 * random.Next(3));
        }
    }

    /// <summary>Compares what is shown in date with a fresh run; returns how many of the five stations were in date.</summary>
    private async Task<int> CheckAsync(Guid piece)
    {
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var w = await scope.ServiceProvider.GetRequiredService<StationService>().OpenAsync(piece);
        var shown = await ShownRecord.LoadAsync(
            scope.ServiceProvider.GetRequiredService<BostelContext>(), w.Piece, w.Keys, CancellationToken.None);
        var fresh = new Lazy<InspectionResult>(() => FreshAsync(scope.ServiceProvider, w).GetAwaiter().GetResult());
        var inDate = 0;
        void Same<T>(T expected, T found)
        {
            Assert.Equal(StoredJson.Write(expected), StoredJson.Write(found));
            inDate++;
        }

        if (shown.Prepared is { Stale: false } prepared)
        {
            Same(fresh.Value.Prepared.Record, prepared.Outcome.Record);
        }

        if (shown.Aligned is { Stale: false } aligned)
        {
            Same(fresh.Value.Aligned, aligned.Outcome);
        }

        if (shown.Compared is { Stale: false } compared)
        {
            Same(fresh.Value.Compared, compared.Outcome);
        }

        if (!shown.FeaturesStale && fresh.Value.Alignment.Resembles)
        {
            Same(fresh.Value.Features, shown.Features);
        }

        if (shown is { Run: { } run, RunStale: false })
        {
            Same(fresh.Value.Characteristics, [.. run.Characteristics.OrderBy(c => c.No).Select(CharacteristicRows.ResultOf)]);
            Assert.Equal(fresh.Value.Verdict, run.Verdict);
        }

        return inDate;
    }

    private async Task<InspectionResult> FreshAsync(IServiceProvider services, Workpiece w)
    {
        var content = $"{w.Plan.ToJson()} {w.Piece.FileSha} {w.Piece.Unit} {w.Piece.Columns} {w.Nominal.ModelSha}";
        if (!_fresh.TryGetValue(content, out var result))
        {
            var blobs = services.GetRequiredService<BlobStore>();
            await using var stream = File.OpenRead(await blobs.FileAsync(w.Piece.FileSha));
            var scan = MeshFormats.Read(stream, w.Piece.FileName).Mesh.Scaled(LengthUnit.Factor(w.Piece.Unit));
            _fresh[content] = result = new InspectionRunner(NominalModelStore.Load(await blobs.BytesAsync(w.Nominal.ModelSha)))
                .Run(scan, w.Plan);
        }

        return result;
    }

    private async Task EditAsync(string part, Action<JsonObject> edit)
    {
        var stored = await server.GetAsync($"/api/parts/{part}/plan");
        var plan = JsonNode.Parse(stored.GetProperty("plan").GetRawText())!.AsObject();
        edit(plan);
        await ServerFixture.JsonAsync(await server.Client.PutAsJsonAsync(
            $"/api/parts/{part}/plan", new JsonObject { ["basedOn"] = stored.GetProperty("number").GetInt32(), ["plan"] = plan }));
    }

    private async Task UndoAsync(string part, string direction)
    {
        var stored = await server.GetAsync($"/api/parts/{part}/plan");
        if (stored.GetProperty(direction == "undo" ? "canUndo" : "canRedo").GetBoolean())
        {
            await server.PostAsync($"/api/parts/{part}/plan/{direction}", new { basedOn = stored.GetProperty("number").GetInt32() });
        }
    }

    private async Task UseNominalAsync(string part, (string Sha, string Name) file)
    {
        var job = await server.PostAsync($"/api/parts/{part}/nominal", new { sha = file.Sha, fileName = file.Name, unit = "mm" });
        Assert.Equal("done", (await server.EndedAsync(job)).GetProperty("state").GetString());
    }

    private async Task RunAsync(string piece, string kind) =>
        await server.EndedAsync(await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind }));

    private async Task UntilIdleAsync(string piece) =>
        await server.EndedAsync((await server.GetAsync($"/api/pieces/{piece}")).GetProperty("jobs")[0]);

    private Task<string> CaptureAsync(string part, int seed, bool cloud = false) =>
        server.CaptureAsync(new(Guid.Parse(part), "1", seed, 1.4, 0.01, "mm", 1, false, [], Cloud: cloud));

    private Task<long> OutcomesAsync() => server.ScalarAsync<long>("SELECT count(*) FROM \"Outcomes\"");

    private static string? State(System.Text.Json.JsonElement piece, string station) =>
        piece.GetProperty("stations").EnumerateArray().Single(s => s.GetProperty("key").GetString() == station).GetProperty("state")
            .GetString();
}
