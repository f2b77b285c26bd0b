using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Bostel.Server.Tests;

/// <summary>
/// What is offered is what is then measured: a plan that its nominal proposes, a dimension of a section, a number in other ways.
/// </summary>
public class OfferTests(ServerFixture server)
{
    [Fact]
    public async Task WhatIsOfferedIsThenMeasured()
    {
        var part = await server.ClampAsync("OFFERS");
        var piece = await server.CaptureAsync(new(Guid.Parse(part), "1", 8, 1.4, 0.01, "mm", 1, false, []));
        var bore = (await server.GetAsync($"/api/parts/{part}/nominal")).GetProperty("faces").EnumerateArray().First(f =>
            f.GetProperty("kind").GetString() == "cylinder" && Math.Abs(f.GetProperty("numbers")[6].GetDouble() - 4) < 1e-6);
        var axis = bore.GetProperty("numbers").EnumerateArray().Skip(3).Take(3).Select(n => n.GetDouble()).ToArray();
        var section = new { name = "Across", point = bore.GetProperty("center"), normal = axis };

        // The proposal is taken whole, with a section across a bore of 8 mm.
        var proposal = await server.PostAsync($"/api/parts/{part}/plan/proposal", new { });
        await EditAsync(part, plan =>
        {
            foreach (var field in (string[])["features", "datums", "characteristics"])
            {
                plan[field] = JsonNode.Parse(proposal.GetProperty(field).GetRawText());
            }

            plan["compare"]!["sections"] = JsonSerializer.SerializeToNode(new[] { section });
        });
        await RunAsync(piece, "run-plan");
        var rows = await RowsAsync(piece);
        Assert.Equal(proposal.GetProperty("characteristics").GetArrayLength(), rows.Count);
        Assert.All(rows, r => Assert.Equal(JsonValueKind.Number, r.GetProperty("measured").ValueKind));

        // The bore's arc in the section, found by the place that the sheet gives for it.
        var sheet = await server.PostAsync($"/api/pieces/{piece}/section?parts=true", section);
        var arc = sheet.GetProperty("parts").EnumerateArray().First(p =>
            p.GetProperty("arc").GetBoolean() && Math.Abs(p.GetProperty("nominal").GetDouble() - 4) < 1e-6);
        var offers = (await server.PostAsync($"/api/pieces/{piece}/section/offers", new { section, parts = new[] { InSpace(sheet, arc) } }))
            .GetProperty("offers").EnumerateArray().ToList();
        Assert.Equal(["radius-in-a-section", "diameter-in-a-section", "profile-of-a-line"], offers.Select(KindOf));
        Assert.Equal(4, offers[0].GetProperty("nominal").GetDouble(), 1e-9);
        await EditAsync(part, plan => plan["characteristics"]!.AsArray().Add(JsonNode.Parse(offers[0].GetProperty("plan").GetRawText())));
        await RunAsync(piece, "evaluate");
        var measured = (await RowsAsync(piece)).Single(r => KindOf(r) == "radius-in-a-section");
        foreach (var number in (string[])["measured", "uncertainty", "coverage"])
        {
            Assert.Equal(offers[0].GetProperty(number).GetDouble(), measured.GetProperty(number).GetDouble());
        }

        // Nothing lies far off the sheet's lines, and a section that a characteristic lies in stays in the plan.
        using var nowhere = await server.Client.PostAsJsonAsync(
            $"/api/pieces/{piece}/section/offers", new { section, parts = new[] { new[] { 1e4, 0, 0 } } });
        Assert.Equal(HttpStatusCode.BadRequest, nowhere.StatusCode);
        Assert.Contains("no line or arc", await nowhere.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        using var cutOff = await PutAsync(part, plan => plan["compare"]!["sections"] = new JsonArray());
        Assert.Equal(HttpStatusCode.BadRequest, cutOff.StatusCode);
        Assert.Contains("lies in section 'Across'", await cutOff.Content.ReadAsStringAsync(), StringComparison.Ordinal);

        var size = rows.First(r => KindOf(r) == "diameter").GetProperty("plan").GetProperty("no").GetInt32();
        var ways = (await server.GetAsync($"/api/pieces/{piece}/other-ways/{size}")).GetProperty("ways").EnumerateArray().ToList();
        Assert.Contains(ways, w => w.GetProperty("what").GetString() == "two-point sizes (LP)");
        Assert.All(ways, w => Assert.Equal(
            w.GetProperty("changes").GetBoolean(),
            w.GetProperty("row").GetProperty("measured").ValueKind == JsonValueKind.Number
                && w.GetProperty("row").GetProperty("verdict").GetString()
                != rows.Single(r => r.GetProperty("plan").GetProperty("no").GetInt32() == size).GetProperty("verdict").GetString()));

        // Two faces, from either of which the other is nearest somewhere and farthest elsewhere; one is no two.
        var between = await server.GetAsync($"/api/pieces/{piece}/face-distance?first=0&second=1");
        foreach (var apart in new[] { between.GetProperty("measured"), between.GetProperty("nominal") })
        {
            double Number(string name) => apart.GetProperty(name).GetDouble();
            Assert.True(Number("nearest") <= Number("mean") && Number("mean") <= Number("farthest"));
        }

        using var same = await server.Client.GetAsync(new Uri($"/api/pieces/{piece}/face-distance?first=1&second=1", UriKind.Relative));
        Assert.Equal(HttpStatusCode.BadRequest, same.StatusCode);

        // A plan that asks for it keeps the same of every row: what changes the verdict, and nothing else.
        await EditAsync(part, plan => plan["otherWays"] = true);
        await RunAsync(piece, "evaluate");
        var tried = (await RowsAsync(piece)).ToList();
        Assert.All(tried, r => Assert.Equal(JsonValueKind.Object, r.GetProperty("firmness").ValueKind));
        var kept = (await server.GetAsync($"/api/pieces/{piece}/other-ways/{size}")).GetProperty("ways");
        Assert.Equal(JsonSerializer.Serialize(ways), JsonSerializer.Serialize(kept));
        var firm = tried.Single(r => r.GetProperty("plan").GetProperty("no").GetInt32() == size).GetProperty("firmness");
        Assert.Equal(ways.Count, firm.GetProperty("tried").GetInt32());
        Assert.Equal(
            ways.Where(w => w.GetProperty("changes").GetBoolean()).Select(w => w.GetProperty("what").GetString()),
            firm.GetProperty("others").EnumerateArray().Select(o => o.GetProperty("what").GetString()));
        using var none = await server.Client.GetAsync(new Uri($"/api/pieces/{piece}/other-ways/999", UriKind.Relative));
        Assert.Equal(HttpStatusCode.BadRequest, none.StatusCode);
    }

    [Fact]
    public async Task TheCertificateIsMadeHereAndPrinted()
    {
        var certificate = await server.GetAsync("/api/certificate");
        Assert.True(certificate.GetProperty("passed").GetBoolean());
        Assert.All(certificate.GetProperty("cases").EnumerateArray(), c => Assert.True(c.GetProperty("passed").GetBoolean()));
        var pdf = await server.Client.GetByteArrayAsync("/api/certificate/file");
        Assert.Equal("%PDF-"u8.ToArray(), pdf[..5]);
    }

    private static string? KindOf(JsonElement row) => row.GetProperty("plan").GetProperty("kind").GetString();

    private static double[] InSpace(JsonElement sheet, JsonElement part)
    {
        var at = part.GetProperty("at");
        double Frame(string field, int k) => sheet.GetProperty("frame").GetProperty(field)[k].GetDouble();
        return [.. Enumerable.Range(0, 3).Select(k =>
            Frame("origin", k) + (at[0].GetDouble() * Frame("right", k)) + (at[1].GetDouble() * Frame("up", k)))];
    }

    private async Task<IReadOnlyList<JsonElement>> RowsAsync(string piece) =>
        [.. (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run").GetProperty("characteristics").EnumerateArray()];

    private async Task EditAsync(string part, Action<JsonObject> edit) => await ServerFixture.JsonAsync(await PutAsync(part, edit));

    private async Task<HttpResponseMessage> PutAsync(string part, Action<JsonObject> edit)
    {
        var stored = await server.GetAsync($"/api/parts/{part}/plan");
        var plan = JsonNode.Parse(stored.GetProperty("plan").GetRawText())!.AsObject();
        edit(plan);
        return await server.Client.PutAsJsonAsync(
            $"/api/parts/{part}/plan", new JsonObject { ["basedOn"] = stored.GetProperty("number").GetInt32(), ["plan"] = plan });
    }

    /// <summary>A table in, as bytes; a row written as on a drawing, and read back; what has an error in it is refused in words.</summary>
    [Fact]
    public async Task APlanComesFromATableAndIsWrittenAsOnADrawing()
    {
        var part = await server.ClampAsync("DRAWN");
        var table = new { fileName = "t.csv", bytes = Encoding.UTF8.GetBytes("number,kind,requirement,x,y,z\n7,flatness,0.04,0,0,0\n") };
        var text = "number,kind,requirement,count\n7,diameter,8 ±0.05,1\n";
        var proposal = await server.PostAsync(
            $"/api/parts/{part}/plan/proposal",
            new { sources = (string[])["table"], table = table with { bytes = Encoding.UTF8.GetBytes(text) } });
        var row = Assert.Single(proposal.GetProperty("characteristics").EnumerateArray());
        Assert.Equal(7, row.GetProperty("no").GetInt32());

        // The clamp has two bores of 8 mm: which one is meant is in doubt.
        Assert.Equal([7], proposal.GetProperty("doubtful").EnumerateArray().Select(n => n.GetInt32()));
        await EditAsync(part, plan =>
        {
            plan["features"] = JsonNode.Parse(proposal.GetProperty("features").GetRawText());
            plan["characteristics"] = JsonNode.Parse(proposal.GetProperty("characteristics").GetRawText());
        });
        var drawn = Assert.Single((await server.GetAsync($"/api/parts/{part}/plan/as-drawn")).EnumerateArray());
        Assert.Equal("⌀8 ±0.05", drawn.GetProperty("text").GetString());
        var written = await server.PostAsync($"/api/parts/{part}/plan/as-drawn", new { characteristic = row, text = "+0.2/-0.1" });
        Assert.Equal((0.2, -0.1), (written.GetProperty("upper").GetDouble(), written.GetProperty("lower").GetDouble()));

        foreach (var (path, body, word) in ((string, object, string)[])[
            ("as-drawn", new { characteristic = row, text = "wide" }, "is no dimension"),
            ("proposal", new { sources = (string[])["table"] }, "No table"),
            ("proposal", new { table = table with { bytes = Encoding.UTF8.GetBytes("kind\nwobble\n") } }, "t.csv, line 2"),
            ("proposal", new { table = table with { fileName = "t.doc" } }, "t.doc")])
        {
            using var refused = await server.Client.PostAsJsonAsync($"/api/parts/{part}/plan/{path}", body);
            Assert.Equal(HttpStatusCode.BadRequest, refused.StatusCode);
            Assert.Contains(word, await refused.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }
    }

    private async Task RunAsync(string piece, string kind)
    {
        var job = await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind });
        Assert.Equal("done", (await server.EndedAsync(job)).GetProperty("state").GetString());
    }
}
