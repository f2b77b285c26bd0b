using System.Net.Http.Json;
using Npgsql;

namespace Bostel.Server.Tests;

/// <summary>Doors that only a server of its own has: limits of bodies, and who stands before it.</summary>
public class ProcessDoorTests
{
    [Fact]
    public async Task BodiesAreLimitedByWhatAnEndpointIsForBeforeAnybodySignsIn()
    {
        await using var server = await ServerProcess.CreateAsync("limits");
        await server.StartAsync();
        async Task<int> SendAsync(string method, string url, int bytes)
        {
            using var request = new HttpRequestMessage(new(method), url) { Content = new ByteArrayContent(new byte[bytes]) };
            request.Content.Headers.ContentType = new("application/json");

            // The server answers by the announced length, before anything is sent.
            request.Headers.ExpectContinue = true;
            using var answer = await server.Client.SendAsync(request);
            return (int)answer.StatusCode;
        }

        Assert.Equal(413, await SendAsync("POST", "/api/session", 5 << 10));
        Assert.Equal(401, await SendAsync("POST", "/api/parts", 64 << 10));
        Assert.Equal(401, await SendAsync("POST", "/api/uploads?name=a.stl", 64 << 10));
        await server.SignInAsync();
        Assert.Equal(413, await SendAsync("POST", "/api/parts", 300 << 10));
        Assert.Equal(413, await SendAsync("PUT", $"/api/parts/{Guid.NewGuid()}/plan", 17 << 20));
        Assert.Equal(400, await SendAsync("PUT", $"/api/parts/{Guid.NewGuid()}/plan", 1 << 20));
        Assert.Equal(200, await SendAsync("POST", "/api/uploads?name=a.stl", 18 << 20));
    }

    [Theory]
    [InlineData("127.0.0.1", true)]
    [InlineData("10.1.2.3", false)]
    public async Task OnlyANamedProxyIsBelievedAboutSchemeHostAndAddress(string proxies, bool believed)
    {
        await using var server = await ServerProcess.CreateAsync("proxy");
        server.Settings["Bostel__Proxies"] = proxies;
        await server.StartAsync();
        using var client = new HttpClient(new SocketsHttpHandler { UseCookies = false }) { BaseAddress = server.Client.BaseAddress };
        using var request =
            new HttpRequestMessage(HttpMethod.Post,
                "/api/session")
            { Content = JsonContent.Create(new { user = "administrator", password = ServerFixture.Password }) };
        foreach (var (name, value) in new[] { ("X-Forwarded-For", "203.0.113.50"), ("X-Forwarded-Proto", "https"),
            ("X-Forwarded-Host", "bostel.example"), ("Origin", "https://bostel.example") })
        {
            request.Headers.Add(name, value);
        }

        // Unbelieved, the page's origin is another than the server's.
        using var answer = await client.SendAsync(request);
        Assert.Equal(believed ? 200 : 403, (int)answer.StatusCode);
        if (believed)
        {
            Assert.Contains(
                "; secure; samesite=strict; httponly", answer.Headers.GetValues("Set-Cookie").Single(), StringComparison.OrdinalIgnoreCase);
            await using var source = NpgsqlDataSource.Create(server.Connection);
            await using var command = source.CreateCommand("SELECT \"Address\" FROM \"SignInAttempts\"");
            Assert.Equal("203.0.113.50", await command.ExecuteScalarAsync());
        }
    }
}
