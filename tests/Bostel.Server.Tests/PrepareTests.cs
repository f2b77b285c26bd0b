using System.Net;
using System.Net.Http.Json;
using System.Numerics;
using System.Text;
using System.Text.Json;
using Bostel.Core.Formats;

namespace Bostel.Server.Tests;

/// <summary>Trying steps, selecting, keeping steps for the next piece, and what the numbers downstream make of patches.</summary>
public class PrepareTests(ServerFixture server)
{
    private static readonly object KeepPart = new { kind = "keep-part" };

    [Fact]
    public async Task StepsAreTriedWithoutAnythingBeingKept()
    {
        var (part, piece) = await ClampAsync("TRY");
        var before = await PlanNumberAsync(part);
        var tried = await server.PostAsync($"/api/pieces/{piece}/preview",
            new { steps = new object[] { KeepPart, new { kind = "smooth", passes = 5, maxDisplacement = 0.004 } } });
        var steps = tried.GetProperty("record").GetProperty("steps");
        Assert.Equal(["keep-part", "smooth"], steps.EnumerateArray().Select(s => s.GetProperty("kind").GetString()));
        Assert.StartsWith("3 of 4 pieces", steps[0].GetProperty("said").GetString(), StringComparison.Ordinal);
        Assert.Equal(1, tried.GetProperty("sheet").GetProperty("pieces").GetInt32());

        // The stated largest displacement is that of the geometry the stage gets, and never over the guard (in the single precision it is
        // sent in).
        var largest = tried.GetProperty("largestDisplacement").GetDouble();
        Assert.InRange(largest, 0.001, 0.004f);
        var block = await GeometryAsync(
            piece, new { steps = new object[] { KeepPart, new { kind = "smooth", passes = 5, maxDisplacement = 0.004 } } });
        Assert.Equal(largest, block.Values.Max(), 1e-7);
        Assert.Equal(before, await PlanNumberAsync(part));
        Assert.Equal(JsonValueKind.Null, (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").ValueKind);
    }

    [Theory]
    [InlineData("{\"steps\": [{\"kind\": \"polish\"}]}", "polish")]
    [InlineData("{\"steps\": [{\"kind\": \"fill\", \"maxDiameter\": -2}]}", "maxDiameter")]
    [InlineData("{\"steps\": [{\"kind\": \"drop-pieces\", \"triangles\": 99999999}]}", "nothing would remain")]
    [InlineData("{\"steps\": [{\"kind\": \"drop\", \"selection\": [{\"kind\": \"all\"}]}]}", "nothing would remain")]
    public async Task AStepThatCannotBeIsRefusedInOneSentence(string json, string named)
    {
        var (_, piece) = await ClampAsync("REFUSED");
        using var body = new StringContent(json, Encoding.UTF8, "application/json");
        using var answer = await server.Client.PostAsync($"/api/pieces/{piece}/preview", body);
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains(named, await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task ASelectionDrawnOnOneScanMeansTheSamePlaceOnTheNextPieceInAnotherPose()
    {
        var (part, piece) = await ClampAsync("PLACE");
        var block = await GeometryAsync(piece, new { steps = new[] { KeepPart } });
        var at = block.Middle();
        var drawn = new { kind = "brush", frame = "scan", path = at, radius = 6.0 };
        var selected =
            await server.PostAsync($"/api/pieces/{piece}/selection", new { steps = new[] { KeepPart }, terms = new[] { drawn } });
        var mask = Convert.FromBase64String(selected.GetProperty("mask").GetString()!);
        Assert.Equal(selected.GetProperty("count").GetInt32(), mask.Sum(b => BitOperations.PopCount(b)));
        Assert.True(selected.GetProperty("count").GetInt32() > 20);

        var anchored =
            await server.PostAsync($"/api/pieces/{piece}/anchor", new { step = new { kind = "drop", selection = new[] { drawn } } });
        Assert.Equal(JsonValueKind.Null, anchored.GetProperty("caution").ValueKind);
        var term = anchored.GetProperty("step").GetProperty("selection")[0];
        Assert.Equal("nominal", term.GetProperty("frame").GetString());

        // The same area on another piece, scanned in another pose with another seed: the density is the same, so the area is to a few
        // percent.
        var next = await server.CaptureAsync(part, "0002", seed: 77);
        var there = await server.PostAsync($"/api/pieces/{next}/selection", new { steps = new[] { KeepPart }, terms = new[] { term } });
        var area = selected.GetProperty("area").GetDouble();
        Assert.InRange(there.GetProperty("area").GetDouble(), 0.85 * area, 1.15 * area);
    }

    [Fact]
    public async Task PatchesAreShownButEnterNoStatistic()
    {
        var (part, piece) = await ClampAsync("PATCH");
        var at = (await GeometryAsync(piece, new { steps = new[] { KeepPart } })).Middle();
        var plain = await RunAsync(part, piece, [KeepPart]);
        var anchored =
            await server.PostAsync($"/api/pieces/{piece}/anchor",
                new
                {
                    step = new
                    {
                        kind = "refill",
                        selection = new[] { new { kind = "brush", frame = "scan", path = at, radius = 6.0 } }
                    }
                });
        var patched = await RunAsync(part, piece, [KeepPart, anchored.GetProperty("step")]);
        var geometry = await GeometryAsync(piece, null);
        Assert.True(geometry.Measured < geometry.Triangles);
        Assert.True(patched.GetProperty("count").GetInt32() < plain.GetProperty("count").GetInt32());
        var deviations = await server.Client.GetByteArrayAsync(
            $"/api/pieces/{piece}/deviation?key={await StageAsync(piece, "deviationsKey")}");
        Assert.Equal(geometry.Vertices, deviations.Length / 4);
        Assert.True(float.IsNaN(BitConverter.ToSingle(deviations.AsSpan()[^4..])));
        var record = (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("preparation").GetProperty("steps");
        Assert.Contains("not measured", record[1].GetProperty("said").GetString(), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("ply", false)]
    [InlineData("stl", true)]
    [InlineData("3mf", true)]
    [InlineData("glb", false)]
    [InlineData("obj", true)]
    public async Task ThePreparedScanIsWrittenInOpenFormats(string format, bool prepared)
    {
        var (_, piece) = await ClampAsync("WRITE");
        var bytes = await server.Client.GetByteArrayAsync($"/api/pieces/{piece}/export?format={format}&prepared={prepared}");
        var file = MeshFormats.Read(new MemoryStream(bytes), "x." + format);
        var view = await server.GetAsync($"/api/pieces/{piece}");
        var all = view.GetProperty("triangles").GetInt32();
        Assert.Equal(prepared, file.Mesh.TriangleCount < all);
        if (!prepared)
        {
            Assert.Equal(all, file.Mesh.TriangleCount);
        }
    }

    [Fact]
    public async Task AnUnknownFormatIsRefused()
    {
        var (_, piece) = await ClampAsync("WRITE");
        using var answer = await server.Client.GetAsync($"/api/pieces/{piece}/export?format=doc&prepared=false");
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains("'doc'", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task ColumnsAreGuessedShownAndReadAgainWhenChanged()
    {
        var (part, _) = await ClampAsync("COLUMNS");
        var text = new StringBuilder("# z y x\n");
        for (var i = 0; i < 400; i++)
        {
            text.Append(System.Globalization.CultureInfo.InvariantCulture, $"{i % 20};{i / 20};{0.1 * i}\n");
        }

        var upload = await server.UploadAsync("cloud.csv", Encoding.ASCII.GetBytes(text.ToString()));
        var made = await server.PostAsync("/api/pieces",
            new { partId = part, serial = "C1", sha = upload.GetProperty("sha").GetString(), fileName = "cloud.csv", unit = "mm" });
        var id = made.GetProperty("id").GetString();
        Assert.Equal("done", (await server.EndedAsync(made.GetProperty("jobs")[0])).GetProperty("state").GetString());
        var sheet = await server.GetAsync($"/api/pieces/{id}/sheet");
        Assert.Equal("z y x", sheet.GetProperty("columns").GetString());
        Assert.Equal("# z y x", sheet.GetProperty("firstLines")[0].GetString());
        using var bad = await server.Client.PostAsJsonAsync($"/api/pieces/{id}/columns", new { columns = "x y" });
        Assert.Equal(HttpStatusCode.BadRequest, bad.StatusCode);
        (await server.Client.PostAsJsonAsync($"/api/pieces/{id}/columns", new { columns = "x y z" })).EnsureSuccessStatusCode();
        await server.EndedAsync((await server.GetAsync($"/api/pieces/{id}")).GetProperty("jobs")[0]);
        var size = (await server.GetAsync($"/api/pieces/{id}")).GetProperty("sizeMm");
        Assert.Equal((19, 19), (Math.Round(size[0].GetDouble(), 9), Math.Round(size[1].GetDouble(), 9)));
        Assert.Equal(39.9, size[2].GetDouble(), 9);
    }

    [Fact]
    public async Task AFileThatStatesItsUnitIsReadInIt()
    {
        var (part, _) = await ClampAsync("UNIT");
        var path = Path.Combine(ServerFixture.Root, "tests", "Bostel.Core.Tests", "Data", "formats", "boxes.3mf");
        var upload = await server.UploadAsync("boxes.3mf", await File.ReadAllBytesAsync(path));
        var made = await server.PostAsync("/api/pieces",
            new { partId = part, serial = "U1", sha = upload.GetProperty("sha").GetString(), fileName = "boxes.3mf", unit = "mm" });
        await server.EndedAsync(made.GetProperty("jobs")[0]);
        var view = await server.GetAsync($"/api/pieces/{made.GetProperty("id").GetString()}");
        Assert.Equal("inch", view.GetProperty("unit").GetString());
        Assert.Contains(
            view.GetProperty("remarks").EnumerateArray(), r => r.GetString()!.Contains("says its unit is inch", StringComparison.Ordinal));
    }

    private static readonly Dictionary<string, Task<(string, string)>> Made = [];

    /// <summary>One clamp with one captured piece a topic, shared by the tests of it.</summary>
    private Task<(string Part, string Piece)> ClampAsync(string topic)
    {
        lock (Made)
        {
            if (!Made.TryGetValue(topic, out var task))
            {
                Made[topic] = task = MakeAsync();
            }

            return task;
        }

        async Task<(string, string)> MakeAsync()
        {
            var part = await server.ClampAsync("PREP-" + topic);
            return (part, await server.CaptureAsync(part, "0001"));
        }
    }

    private async Task<int> PlanNumberAsync(string part) =>
        (await server.GetAsync($"/api/parts/{part}/plan")).GetProperty("number").GetInt32();

    private async Task<JsonElement> RunAsync(string part, string piece, object[] steps)
    {
        var stored = await server.GetAsync($"/api/parts/{part}/plan");
        var plan = JsonSerializer.Deserialize<Dictionary<string, object>>(stored.GetProperty("plan").GetRawText())!;
        plan["prepare"] = new { steps };
        await ServerFixture.JsonAsync(
            await server.Client.PutAsJsonAsync($"/api/parts/{part}/plan", new { basedOn = stored.GetProperty("number").GetInt32(), plan }));
        var ended = await server.EndedAsync(await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind = "run-plan" }));
        Assert.Equal("done", ended.GetProperty("state").GetString());
        return (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("comparison").GetProperty("statistics");
    }

    /// <summary>What the stage is drawn from while looking at a comparison.</summary>
    private async Task<string> StageAsync(string piece, string key) =>
        (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("compareStage").GetProperty(key).GetString()!;

    private async Task<StageBlock> GeometryAsync(string piece, object? request)
    {
        using var answer = request is null
            ? await server.Client.GetAsync($"/api/pieces/{piece}/geometry?prepared={await StageAsync(piece, "preparedKey")}")
            : await server.Client.PostAsJsonAsync($"/api/pieces/{piece}/preview/geometry", request);
        answer.EnsureSuccessStatusCode();
        return new(await answer.Content.ReadAsByteArrayAsync());
    }
}
