using System.Net;
using System.Net.Http.Json;
using Bostel.Data;
using Bostel.Server.Security;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>Accounts, passwords and open sign-ins.</summary>
public class PeopleTests(ServerFixture server)
{
    private async Task<(HttpClient Administrator, string Id, string Password)> AddedAsync(string name, string role = "inspector")
    {
        var administrator = await ServerFixture.SignedInAsync(server.Factory, "administrator");
        var told = await ServerFixture.JsonAsync(await administrator.PostAsJsonAsync("/api/people", new { name, role }));
        var id = (await ServerFixture.JsonAsync(await administrator.GetAsync("/api/people"))).EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == name).GetProperty("id").GetString()!;
        return (administrator, id, told.GetProperty("password").GetString()!);
    }

    private async Task<HttpClient> SignInAsync(string user, string password, HttpStatusCode expected = HttpStatusCode.OK)
    {
        var client = server.Factory.CreateClient();
        using var answer = await client.PostAsJsonAsync("/api/session", new { user, password });
        Assert.Equal(expected, answer.StatusCode);
        return client;
    }

    [Fact]
    public async Task WithAOneTimePasswordNothingCanBeDoneBeforeItIsChanged()
    {
        var (_, _, password) = await AddedAsync("newcomer");
        var client = await SignInAsync("newcomer", password);
        Assert.Equal(HttpStatusCode.Forbidden, (await client.GetAsync("/api/floor")).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest,
            (await client.PostAsJsonAsync("/api/session/password", new { old = "wrong-password", @new = "my-own-password" })).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest,
            (await client.PostAsJsonAsync("/api/session/password", new { old = password, @new = "short" })).StatusCode);
        await ServerFixture.JsonAsync(
            await client.PostAsJsonAsync("/api/session/password", new { old = password, @new = "my-own-password" }));
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/api/floor")).StatusCode);
        await SignInAsync("newcomer", password, HttpStatusCode.BadRequest);
        await SignInAsync("NEWCOMER", "my-own-password");
    }

    [Fact]
    public async Task SigningOutAndDisablingEndEveryOpenSignInAtOnce()
    {
        var (administrator, id, password) = await AddedAsync("leaver");
        var first = await SignInAsync("leaver", password);
        await ServerFixture.JsonAsync(
            await first.PostAsJsonAsync("/api/session/password", new { old = password, @new = "leavers-password" }));
        var second = await SignInAsync("leaver", "leavers-password");
        Assert.Equal(HttpStatusCode.OK, (await second.GetAsync("/api/floor")).StatusCode);
        using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(30));
        using var events = await second.GetAsync("/api/events", HttpCompletionOption.ResponseHeadersRead, stop.Token);
        using var reader = new StreamReader(await events.Content.ReadAsStreamAsync(stop.Token));
        await reader.ReadLineAsync(stop.Token);
        Assert.Equal(HttpStatusCode.NoContent, (await first.DeleteAsync("/api/session")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await second.GetAsync("/api/floor")).StatusCode);

        // The stream of events of the other sign-in ends too.
        while (await reader.ReadLineAsync(stop.Token) is not null)
        {
        }

        var third = await SignInAsync("leaver", "leavers-password");
        await ServerFixture.JsonAsync(await administrator.PutAsJsonAsync($"/api/people/{id}", new { role = "inspector", disabled = true }));
        Assert.Equal(HttpStatusCode.Unauthorized, (await third.GetAsync("/api/floor")).StatusCode);
        await SignInAsync("leaver", "leavers-password", HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task AResetPasswordEndsTheOldOneAndARoleCountsFromNowOn()
    {
        var (administrator, id, password) = await AddedAsync("climber", "reader");
        var client = await SignInAsync("climber", password);
        await ServerFixture.JsonAsync(
            await client.PostAsJsonAsync("/api/session/password", new { old = password, @new = "climbers-password" }));
        Assert.Equal(HttpStatusCode.Forbidden, (await client.GetAsync("/api/people")).StatusCode);
        await ServerFixture.JsonAsync(
            await administrator.PutAsJsonAsync($"/api/people/{id}", new { role = "administrator", disabled = false }));
        client = await SignInAsync("climber", "climbers-password");
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/api/people")).StatusCode);
        await ServerFixture.JsonAsync(await administrator.PutAsJsonAsync($"/api/people/{id}", new { role = "reader", disabled = false }));
        var told = await ServerFixture.JsonAsync(await administrator.PostAsync($"/api/people/{id}/password", null));
        await SignInAsync("climber", "climbers-password", HttpStatusCode.BadRequest);
        await SignInAsync("climber", told.GetProperty("password").GetString()!);
    }

    [Fact]
    public async Task TheLastAdministratorStaysOne()
    {
        var administrator = await ServerFixture.SignedInAsync(server.Factory, "administrator");
        var all = (await ServerFixture.JsonAsync(await administrator.GetAsync("/api/people"))).EnumerateArray().ToList();
        var others = all.Count(p => p.GetProperty("role").GetString() == "administrator" && !p.GetProperty("disabled").GetBoolean());
        Assert.Equal(1, others);
        var id = all.Single(p => p.GetProperty("name").GetString() == "administrator").GetProperty("id").GetString();
        using var lowered = await administrator.PutAsJsonAsync($"/api/people/{id}", new { role = "reader", disabled = false });
        Assert.Equal(HttpStatusCode.BadRequest, lowered.StatusCode);
        Assert.Contains("only administrator", await lowered.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        using var disabled = await administrator.PutAsJsonAsync($"/api/people/{id}", new { role = "administrator", disabled = true });
        Assert.Equal(HttpStatusCode.BadRequest, disabled.StatusCode);
    }

    [Fact]
    public async Task GuessingIsSlowedDownByNameAndAddressAndLocksNobodyOut()
    {
        // Of a server of its own: the limits count addresses, and here all come from one.
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<BostelContext>();
        var guard = new SignInGuard(context);
        var (attacker, owner) = (IPAddress.Parse("203.0.113.7"), IPAddress.Parse("203.0.113.99"));
        guard.Count(owner, "victim", succeeded: true);
        for (var i = 0; i < SignInGuard.MostOfName; i++)
        {
            await guard.RequireFreeAsync(IPAddress.Parse($"198.51.100.{i}"), "victim", default);
            guard.Count(IPAddress.Parse($"198.51.100.{i}"), "victim", succeeded: false);
            await context.SaveChangesAsync();
        }

        // Guessed at from many addresses: strangers wait, the owner's own address does not. The same for a name that nobody has.
        var known = await Assert.ThrowsAsync<Services.TooManyTriesException>(() => guard.RequireFreeAsync(attacker, "victim", default));
        Assert.InRange(known.Wait.TotalMinutes, 4, 5);
        await guard.RequireFreeAsync(owner, "victim", default);
        for (var i = 0; i < SignInGuard.MostOfAddress; i++)
        {
            await guard.RequireFreeAsync(attacker, $"guess-{i}", default);
            guard.Count(attacker, $"guess-{i}", succeeded: false);
            await context.SaveChangesAsync();
        }

        var unknown = await Assert.ThrowsAsync<Services.TooManyTriesException>(
            () => guard.RequireFreeAsync(attacker, "never-heard-of", default));
        Assert.Equal(known.Message, unknown.Message);
        await guard.RequireFreeAsync(IPAddress.Parse("203.0.113.8"), "never-heard-of", default);
        Assert.True(await server.ScalarAsync<long>(
            "SELECT count(*) FROM \"Audit\" WHERE \"Action\" = 'failed to sign in' AND \"Who\" = 'victim'") == SignInGuard.MostOfName);
    }

    [Fact]
    public async Task WithoutDemoDataThereIsOneAccountWithAPasswordOfItsOwn()
    {
        Assert.Equal(0, await server.ScalarAsync<long>("SELECT count(*) FROM \"Accounts\" WHERE \"Name\" = 'inspector' AND \"CreatedAt\" "
            + "< (SELECT \"CreatedAt\" FROM \"Accounts\" WHERE \"Name\" = 'administrator')"));
        await SignInAsync("administrator", Demo.DemoData.Password, HttpStatusCode.BadRequest);
        await SignInAsync("administrator", ServerFixture.Password);

        // A further start makes no other, and brings none back.
        await using var again = server.Create(jobs: false);
        using var client = again.CreateClient(new WebApplicationFactoryClientOptions());
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync("/api/session")).StatusCode);
        Assert.Equal(1, await server.ScalarAsync<long>("SELECT count(*) FROM \"Accounts\" WHERE \"Name\" = 'administrator'"));
    }
}
