using System.Net;
using System.Net.Http.Json;
using System.Text.Json.Nodes;

namespace Bostel.Server.Tests;

/// <summary>Plan revisions: nothing is overwritten, undo and redo walk the line of edits.</summary>
public class PlanEditingTests(ServerFixture server)
{
    [Fact]
    public async Task TheSecondOfTwoEditorsIsToldAndNothingIsOverwritten()
    {
        var part = await NewPartAsync("EDIT-1");
        await SaveAsync(part, 1, lower: -0.3);
        using var late = await server.Client.PutAsJsonAsync($"/api/parts/{part}/plan", await EditAsync(part, 1, lower: -0.7));
        Assert.Equal(HttpStatusCode.Conflict, late.StatusCode);
        Assert.Contains("changed meanwhile by inspector", await late.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        Assert.Equal(-0.3, await LowerAsync(part));
    }

    [Fact]
    public async Task TwoEditsAtTheSameMomentLeaveOneWinner()
    {
        var part = await NewPartAsync("EDIT-2");
        var edits = await Task.WhenAll(Enumerable.Range(0, 6).Select(async i =>
            (await server.Client.PutAsJsonAsync($"/api/parts/{part}/plan", await EditAsync(part, 1, lower: -0.1 * (i + 1)))).StatusCode));
        Assert.Single(edits, s => s == HttpStatusCode.OK);
        Assert.Equal(5, edits.Count(s => s == HttpStatusCode.Conflict));
    }

    [Fact]
    public async Task UndoAndRedoWalkTheEdits()
    {
        var part = await NewPartAsync("EDIT-3");
        await SaveAsync(part, 1, lower: -0.3);
        await SaveAsync(part, 2, lower: -0.4);
        var undone = await server.PostAsync($"/api/parts/{part}/plan/undo", new { basedOn = 3 });
        Assert.Equal(2, undone.GetProperty("number").GetInt32());
        Assert.Equal(-0.3, await LowerAsync(part));
        Assert.True(undone.GetProperty("canRedo").GetBoolean());
        await server.PostAsync($"/api/parts/{part}/plan/redo", new { basedOn = 2 });
        Assert.Equal(-0.4, await LowerAsync(part));

        // An edit after an undo starts a new branch; the old one can no longer be redone from it.
        await server.PostAsync($"/api/parts/{part}/plan/undo", new { basedOn = 3 });
        await SaveAsync(part, 2, lower: -0.5);
        Assert.False((await server.GetAsync($"/api/parts/{part}/plan")).GetProperty("canRedo").GetBoolean());
    }

    [Fact]
    public async Task APlanThatContradictsItselfIsRefusedWithItsField()
    {
        var part = await NewPartAsync("EDIT-4");
        using var answer = await server.Client.PutAsJsonAsync($"/api/parts/{part}/plan", await EditAsync(part, 1, lower: 0.9));
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.Contains("compare.lower", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    private async Task<string> NewPartAsync(string number) =>
        (await server.PostAsync("/api/parts", new { number, name = "x", revision = "A" })).GetProperty("id").GetString()!;

    private async Task<JsonObject> EditAsync(string part, int basedOn, double lower)
    {
        var plan = JsonNode.Parse((await server.GetAsync($"/api/parts/{part}/plan")).GetProperty("plan").GetRawText())!.AsObject();
        plan["compare"]!["lower"] = lower;
        return new() { ["basedOn"] = basedOn, ["plan"] = plan };
    }

    private async Task SaveAsync(string part, int basedOn, double lower) =>
        await ServerFixture.JsonAsync(await server.Client.PutAsJsonAsync($"/api/parts/{part}/plan", await EditAsync(part, basedOn, lower)));

    private async Task<double> LowerAsync(string part) =>
        (await server.GetAsync($"/api/parts/{part}/plan")).GetProperty("plan").GetProperty("compare").GetProperty("lower").GetDouble();
}
