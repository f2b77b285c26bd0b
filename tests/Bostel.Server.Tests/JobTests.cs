using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Bostel.Data;
using Bostel.Server.Endpoints;
using Bostel.Server.Jobs;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>Jobs are never lost and never doubled; reports are numbered without a gap.</summary>
public class JobTests(ServerFixture server)
{
    private Task<string> PieceAsync(string number, bool evaluated = true) => server.JudgedPieceAsync(number, evaluated);

    private static Withdrawal Why(string why) => new(why, ServerFixture.Password);

    private async Task<List<JsonElement>> ReportsAsync(string piece) =>
        [.. (await server.GetAsync("/api/reports")).EnumerateArray().Where(r => r.GetProperty("pieceId").GetString() == piece)];

    [Fact]
    public async Task ManyClicksGiveOneReportAndOneRequestExcludesAnother()
    {
        var piece = await PieceAsync("JOB-CLICK");
        await server.ReleaseAsync(piece);
        var issues = Enumerable.Range(0, 4).Select(async _ => (await server.PostAsync(
            "/api/issuing", new { pieces = new[] { piece }, password = ServerFixture.Password }))[0].GetProperty("job")).ToArray();
        var compares = Enumerable.Range(0, 4)
            .Select(_ => server.Client.PostAsJsonAsync($"/api/pieces/{piece}/jobs", new { kind = "compare" })).ToArray();
        var answers = await Task.WhenAll(compares);
        Assert.All(answers, a => Assert.True(a.StatusCode is HttpStatusCode.OK or HttpStatusCode.Conflict, a.StatusCode.ToString()));
        var taken = (await Task.WhenAll(issues)).Where(j => j.ValueKind == JsonValueKind.Object).ToList();
        foreach (var answer in answers.Where(a => a.StatusCode == HttpStatusCode.OK))
        {
            taken.Add(await ServerFixture.JsonAsync(answer));
        }

        Assert.InRange(taken.Count, 1, 7);
        foreach (var job in taken)
        {
            await server.EndedAsync(job);
        }

        await server.EndedAsync((await server.GetAsync($"/api/pieces/{piece}")).GetProperty("jobs")[0]);
        Assert.InRange((await ReportsAsync(piece)).Count, 0, 1);

        // Issued again from exactly the same, it is refused by name; the database would not take it either.
        var first = await server.IssueAsync(piece);
        var again = await server.IssueAsync(piece);
        Assert.Equal("failed", again.GetProperty("state").GetString());
        Assert.Contains("was issued from exactly this already", again.GetProperty("error").GetString(), StringComparison.Ordinal);
        Assert.Single(await ReportsAsync(piece));
        Assert.NotEqual(default, first);
    }

    [Fact]
    public async Task NumbersHaveNoGapAndAWithdrawnReportIsReplaced()
    {
        var piece = await PieceAsync("JOB-NUMBER");
        var unready = await PieceAsync("JOB-UNREADY", evaluated: false);
        async Task<int> NextAsync() => await server.ScalarAsync<int>("SELECT \"Next\" FROM \"Counters\" WHERE \"Name\" = 'report'");
        var next = await NextAsync();
        var failed = await server.IssueAsync(unready);
        Assert.Contains("not evaluated yet", failed.GetProperty("problem").GetString(), StringComparison.Ordinal);
        Assert.Equal(next, await NextAsync());
        await server.IssueAsync(piece);
        var report = Assert.Single(await ReportsAsync(piece));
        Assert.Equal($"BR-{next}", report.GetProperty("number").GetString());

        var approver = await ServerFixture.SignedInAsync(server.Factory, "approver");
        var url = $"/api/reports/{report.GetProperty("id").GetString()}/withdrawal";
        Assert.Equal(HttpStatusCode.Forbidden, (await server.Client.PostAsJsonAsync(url, Why("wrong part"))).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest, (await approver.PostAsJsonAsync(url, Why("  "))).StatusCode);
        var withdrawn = await ServerFixture.JsonAsync(await approver.PostAsJsonAsync(url, Why("wrong serial number on the tag")));
        Assert.Equal(("approver", "wrong serial number on the tag"),
            (withdrawn.GetProperty("withdrawnBy").GetString(), withdrawn.GetProperty("withdrawnWhy").GetString()));
        Assert.Equal(HttpStatusCode.Conflict, (await approver.PostAsJsonAsync(url, Why("again"))).StatusCode);
        var reissued = await server.IssueAsync(piece);
        Assert.Equal("done", reissued.GetProperty("state").GetString());
        Assert.Equal(next + 2, await NextAsync());
        Assert.Equal(2, (await ReportsAsync(piece)).Count);
    }

    [Fact]
    public async Task WhatIsQueuedIsCancelledAtOnceAndWhatIsRunningWithinASecond()
    {
        var part = await server.ClampAsync("JOB-CANCEL");
        var recipe = new Capture(Guid.Parse(part), "long", 1, 0.12, 0.01, "mm", 0, false, []);
        var running = await server.PostAsync("/api/captures", recipe);
        var queued = await server.PostAsync("/api/captures", recipe with { Serial = "waiting" });
        await UntilAsync(running, "running");
        foreach (var job in new[] { queued, running })
        {
            Assert.Equal(HttpStatusCode.NoContent,
                (await server.Client.PostAsync($"/api/jobs/{job.GetProperty("id").GetString()}/cancel", null)).StatusCode);
            var ended = await server.EndedAsync(job);
            Assert.Equal("cancelled", ended.GetProperty("state").GetString());
        }

        Assert.Equal(0, await server.ScalarAsync<long>($"SELECT count(*) FROM \"Pieces\" WHERE \"PartId\" = '{part}'"));

        // A job that has ended stays as it is.
        await server.Client.PostAsync($"/api/jobs/{running.GetProperty("id").GetString()}/cancel", null);
        Assert.Equal(
            "cancelled", (await server.GetAsync($"/api/jobs/{running.GetProperty("id").GetString()}")).GetProperty("state").GetString());
    }

    [Fact]
    public async Task AWorkerThatLostItsLeaseKeepsNothing()
    {
        var part = await server.ClampAsync("JOB-LEASE");
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<BostelContext>();
        var lease = scope.ServiceProvider.GetRequiredService<JobLease>();
        var job = new Job
        {
            Id = Guid.NewGuid(),
            Kind = JobKind.Capture,
            SubjectId = Guid.Parse(part),
            Claim = "lease test",
            Arguments = "{}",
            State = JobState.Running,
            Worker = "another machine/1/1",
            LeaseUntil = DateTimeOffset.UtcNow.AddMinutes(5),
            CreatedBy = "x",
            CreatedAt = DateTimeOffset.UtcNow
        };
        context.Jobs.Add(job);
        await context.SaveChangesAsync();
        Assert.False(await lease.HoldAsync(job.Id));
        Assert.False(await lease.RenewAsync(job.Id, default));
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => scope.ServiceProvider.GetRequiredService<Services.ReceiveService>()
            .CaptureAsync(Guid.Parse(part), new() { Serial = "1", Recipe = "{\"spacing\": 3}" }, "x", new Quiet(),
                () => lease.HoldAsync(job.Id), default));
        Assert.Equal(0, await server.ScalarAsync<long>($"SELECT count(*) FROM \"Pieces\" WHERE \"PartId\" = '{part}'"));

        // A process of this machine that is gone is not waited for; one of another machine is.
        await context.Jobs.Where(j => j.Id == job.Id)
            .ExecuteUpdateAsync(s => s.SetProperty(j => j.Worker, Environment.MachineName + "/999999999-1"));
        await lease.FreeOfTheDeadAsync(default);

        // Its lease would have held for minutes: now a worker takes it up within a blink, and it ends.
        await server.EndedAsync(await server.GetAsync($"/api/jobs/{job.Id}"));
    }

    private async Task UntilAsync(JsonElement job, string state)
    {
        for (var i = 0; i < 300 && (await server.GetAsync($"/api/jobs/{job.GetProperty("id").GetString()}")).GetProperty("state")
            .GetString() != state; i++)
        {
            await Task.Delay(50);
        }
    }

    private sealed class Quiet : IProgress<Core.Plans.RunProgress>
    {
        public void Report(Core.Plans.RunProgress value)
        {
        }
    }
}
