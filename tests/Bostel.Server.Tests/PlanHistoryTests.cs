using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Server.Tests;

/// <summary>Revisions are told in words, gone back to and released; plans come from files and other parts, or are refused whole.</summary>
public class PlanHistoryTests(ServerFixture server)
{
    [Fact]
    public async Task EachRevisionSaysWhoChangedWhat()
    {
        var part = await NewPartAsync("HIST-1");
        await SaveAsync(part, p => p with { Decision = new SimpleRule() });
        await SaveAsync(part, p => p with { Compare = p.Compare with { MaxAngleDegrees = 45 } });
        var revisions = await RevisionsAsync(part);
        Assert.Equal([3, 2, 1], revisions.Select(r => r.GetProperty("number").GetInt32()));
        Assert.Equal("inspector", revisions[0].GetProperty("createdBy").GetString());
        Assert.True(revisions[0].GetProperty("isHead").GetBoolean());
        Assert.Contains("search: ", Words(revisions[0]), StringComparison.Ordinal);
        Assert.Contains("60° → counterparts", Words(revisions[0]), StringComparison.Ordinal);
        Assert.Contains("decision: ", Words(revisions[1]), StringComparison.Ordinal);
        Assert.Equal(0, revisions[2].GetProperty("changes").GetArrayLength());
    }

    [Fact]
    public async Task GoingBackMakesANewRevisionAndLosesNothing()
    {
        var part = await NewPartAsync("HIST-2");
        await SaveAsync(part, p => p with { Decision = new SimpleRule() });
        await server.PostAsync($"/api/parts/{part}/plan/return", new { basedOn = 2, number = 1 });
        Assert.IsType<StandardRule>((await PlanAsync(part)).Decision);
        Assert.Equal(0, (await server.GetAsync($"/api/parts/{part}/plan/changes?from=1&to=3")).GetArrayLength());
        await server.PostAsync($"/api/parts/{part}/plan/undo", new { basedOn = 3 });
        Assert.IsType<SimpleRule>((await PlanAsync(part)).Decision);
        using var stale = await server.Client.PostAsJsonAsync($"/api/parts/{part}/plan/return", new { basedOn = 3, number = 1 });
        Assert.Equal(HttpStatusCode.Conflict, stale.StatusCode);
        using var none = await server.Client.PostAsJsonAsync($"/api/parts/{part}/plan/return", new { basedOn = 2, number = 99 });
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
    }

    [Fact]
    public async Task AReleasedRevisionIsMarkedWithWhoReleasedIt()
    {
        var part = await NewPartAsync("HIST-3");
        using var inspector = await ServerFixture.SignedInAsync(server.Factory, "inspector");
        using var refused = await inspector.PostAsJsonAsync($"/api/parts/{part}/plan/release", new { number = 1 });
        Assert.Equal(HttpStatusCode.Forbidden, refused.StatusCode);
        using var approver = await ServerFixture.SignedInAsync(server.Factory, "approver");
        var released = await ServerFixture.JsonAsync(await approver.PostAsJsonAsync($"/api/parts/{part}/plan/release", new { number = 1 }));
        Assert.Equal("approver", released[0].GetProperty("releasedBy").GetString());
    }

    [Fact]
    public async Task APlanFileOfAnEarlierVersionIsTakenForThisPart()
    {
        var part = await NewPartAsync("HIST-4");
        const string Old = """{"schema": "bostel-plan/3", "part": "OTHER", "compare": {"lower": -0.4, "upper": 0.4, "maxAngle": 30}}""";
        await server.PostAsync($"/api/parts/{part}/plan/load", new { basedOn = 1, fileName = "old.json", json = Old });
        var plan = await PlanAsync(part);
        Assert.Equal(("HIST-4", 30, InspectionPlan.Version), (plan.Part, plan.Compare.MaxAngleDegrees, plan.Schema));
        var saved = await server.Client.GetStringAsync($"/api/parts/{part}/plan/file");
        Assert.Equal(plan.ToJson(), InspectionPlan.Parse(saved).ToJson());
    }

    [Theory]
    [InlineData("{", "bad.json: is not an inspection plan")]
    [InlineData("""{"schema": "bostel-plan/8", "part": "X", "align": {"method": "magic"}}""", "the method 'magic' is not one of")]
    [InlineData("""{"schema": "bostel-plan/8", "part": "X", "features": [{"id": "a", "name": "A", "faces": [4000]}]}""", "names face 4000")]
    public async Task ABadPlanFileIsRefusedWholeAndNamed(string json, string message)
    {
        var part = await server.ClampAsync("HIST-5-" + Guid.NewGuid().ToString("N")[..6]);
        using var answer = await server.Client.PostAsJsonAsync(
            $"/api/parts/{part}/plan/load", new { basedOn = 1, fileName = "bad.json", json });
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains(message, (await JsonDocument.ParseAsync(await answer.Content.ReadAsStreamAsync())).RootElement.GetProperty("detail")
            .GetString(), StringComparison.Ordinal);
        Assert.Single(await RevisionsAsync(part));
    }

    [Fact]
    public async Task APlanIsCopiedFromAnotherPartUnderItsOwnName()
    {
        var (from, to) = (await NewPartAsync("HIST-6"), await NewPartAsync("HIST-7"));
        await SaveAsync(from, p => p with { Decision = new SimpleRule() });
        await server.PostAsync($"/api/parts/{to}/plan/copy", new { basedOn = 1, from });
        var copied = await PlanAsync(to);
        Assert.IsType<SimpleRule>(copied.Decision);
        Assert.Equal("HIST-7", copied.Part);
        using var nowhere = await server.Client.PostAsJsonAsync($"/api/parts/{to}/plan/copy", new { basedOn = 2, from = Guid.NewGuid() });
        Assert.Equal(HttpStatusCode.NotFound, nowhere.StatusCode);
    }

    [Fact]
    public async Task WhatIsProposedForPickedFacesCanBeKept()
    {
        var part = await server.ClampAsync("HIST-8");
        var proposals = await server.PostAsync($"/api/parts/{part}/plan/proposals", new { faces = new[] { 0 } });
        Assert.True(proposals.GetArrayLength() > 1);
        foreach (var proposal in proposals.EnumerateArray())
        {
            var made = JsonSerializer.Deserialize<Proposal>(proposal.GetRawText(), InspectionPlan.Json)!;
            await SaveAsync(part, p => p with { Features = made.NewFeatures, Characteristics = [made.Characteristic] });
        }

        var feature = await server.PostAsync($"/api/parts/{part}/plan/feature", new { faces = new[] { 1, 2 } });
        Assert.Equal([1, 2], feature.GetProperty("faces").EnumerateArray().Select(f => f.GetInt32()));
        using var none = await server.Client.PostAsJsonAsync(
            $"/api/parts/{await NewPartAsync("HIST-9")}/plan/proposals", new { faces = new[] { 0 } });
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
    }

    [Theory]
    [InlineData("{}")]
    [InlineData("""{"kind": "polish"}""")]
    public async Task AStepWithoutAKnownKindIsBadInput(string step)
    {
        var part = await server.ClampAsync("HIST-10-" + Guid.NewGuid().ToString("N")[..6]);
        var body = $$"""{"basedOn": 1, "plan": {"schema": "bostel-plan/8", "part": "X", "prepare": {"steps": [ {{step}} ] } } }""";
        using var answer = await server.Client.PutAsync(
            $"/api/parts/{part}/plan", new StringContent(body, System.Text.Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.DoesNotContain("System.", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    private async Task<string> NewPartAsync(string number) =>
        (await server.PostAsync("/api/parts", new { number, name = "x", revision = "A" })).GetProperty("id").GetString()!;

    private async Task<InspectionPlan> PlanAsync(string part) =>
        InspectionPlan.Parse((await server.GetAsync($"/api/parts/{part}/plan")).GetProperty("plan").GetRawText());

    private async Task SaveAsync(string part, Func<InspectionPlan, InspectionPlan> change)
    {
        var stored = await server.GetAsync($"/api/parts/{part}/plan");
        var plan = change(InspectionPlan.Parse(stored.GetProperty("plan").GetRawText()));
        var body = new System.Text.Json.Nodes.JsonObject
        {
            ["basedOn"] = stored.GetProperty("number").GetInt32(),
            ["plan"] = System.Text.Json.Nodes.JsonNode.Parse(plan.ToJson()),
        };
        await ServerFixture.JsonAsync(await server.Client.PutAsJsonAsync($"/api/parts/{part}/plan", body));
    }

    private async Task<List<JsonElement>> RevisionsAsync(string part) =>
        [.. (await server.GetAsync($"/api/parts/{part}/plan/revisions")).EnumerateArray()];

    private static string Words(JsonElement revision) =>
        string.Join("; ", revision.GetProperty("changes").EnumerateArray().Select(c => c.GetProperty("words").GetString()));
}
