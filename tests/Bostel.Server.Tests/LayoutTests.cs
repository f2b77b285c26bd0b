using System.Net;
using System.Net.Http.Json;

namespace Bostel.Server.Tests;

/// <summary>Layouts under names: kept by an approver, taken by any part, begun with by new ones.</summary>
public class LayoutTests(ServerFixture server)
{
    [Fact]
    public async Task NewPartsBeginWithTheHousesLayoutAndOthersStayAsTheyAre()
    {
        var approver = await ServerFixture.SignedInAsync(server.Factory, "approver");
        var before = await ServerFixture.JsonAsync(
            await server.Client.PostAsJsonAsync("/api/parts", new { number = "LAY-1", name = "x", revision = "A" }));
        object Layout(string house, bool forNewParts) =>
            new { report = new { house, blocks = new[] { new { kind = "table" } } }, forNewParts };
        Assert.Equal(HttpStatusCode.Forbidden,
            (await server.Client.PutAsJsonAsync("/api/layouts/House", Layout("Works Ltd", true))).StatusCode);
        await ServerFixture.JsonAsync(await approver.PutAsJsonAsync("/api/layouts/Customer%204", Layout("For four", true)));
        var all = await ServerFixture.JsonAsync(await approver.PutAsJsonAsync("/api/layouts/House", Layout("Works Ltd", true)));

        // One at most is that of new parts: the last that was said to be.
        Assert.Equal([("Customer 4", false), ("House", true)], all.EnumerateArray()
            .Select(l => (l.GetProperty("name").GetString(), l.GetProperty("forNewParts").GetBoolean())));
        var part = await ServerFixture.JsonAsync(
            await server.Client.PostAsJsonAsync("/api/parts", new { number = "LAY-2", name = "x", revision = "A" }));
        async Task<System.Text.Json.JsonElement> ReportOfAsync(System.Text.Json.JsonElement of) =>
            (await server.GetAsync($"/api/parts/{of.GetProperty("id").GetString()}/plan")).GetProperty("plan").GetProperty("report");
        Assert.Equal("Works Ltd", (await ReportOfAsync(part)).GetProperty("house").GetString());
        Assert.Equal(System.Text.Json.JsonValueKind.Null, (await ReportOfAsync(before)).ValueKind);

        Assert.Single((await ServerFixture.JsonAsync(await approver.DeleteAsync("/api/layouts/House"))).EnumerateArray());
        Assert.Equal(HttpStatusCode.NotFound, (await approver.DeleteAsync("/api/layouts/House")).StatusCode);
        Assert.Equal("Works Ltd", (await ReportOfAsync(part)).GetProperty("house").GetString());
        await ServerFixture.JsonAsync(await approver.DeleteAsync("/api/layouts/Customer%204"));
    }

    [Theory]
    [InlineData("Bad", """{"title": "x", "logo": {"base64": "AAAA"}}""")]
    [InlineData("Bad", """{"copies": [{"kind": "mail", "to": "nobody"}]}""")]
    [InlineData("A name of more than sixty characters is too long to be told apart in a list", "{}")]
    public async Task ALayoutThatNoPlanMayHaveIsNotKept(string name, string report)
    {
        var approver = await ServerFixture.SignedInAsync(server.Factory, "approver");
        using var body = new StringContent(
            $$"""{"report": {{report}}, "forNewParts": false}""", System.Text.Encoding.UTF8, "application/json");
        Assert.Equal(HttpStatusCode.BadRequest, (await approver.PutAsync($"/api/layouts/{Uri.EscapeDataString(name)}", body)).StatusCode);
        Assert.Empty((await server.GetAsync("/api/layouts")).EnumerateArray());
    }
}
