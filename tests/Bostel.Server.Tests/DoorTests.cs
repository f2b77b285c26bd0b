using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using Bostel.Data;
using Bostel.Server.Endpoints;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>Ways in that must be shut.</summary>
public class DoorTests(ServerFixture server)
{
    public static TheoryData<string> NoHashes =>
        ["/etc/passwd", "../../../../etc/passwd", "/dev/zero", "", "abc", new string('A', 64), new string('g', 64),
            new string('0', 63) + "/", new string('0', 64)];

    [Theory]
    [MemberData(nameof(NoHashes))]
    public async Task WhatIsNoStoredFileIsNotOpened(string sha)
    {
        var part = (await server.PostAsync("/api/parts",
            new { number = "DOOR-" + Guid.NewGuid().ToString("N")[..8], name = "x", revision = "A" })).GetProperty("id").GetString();
        using var piece = await server.Client.PostAsJsonAsync(
            "/api/pieces", new { partId = part, serial = "1", sha, fileName = "passwd.xyz", unit = "mm" });
        using var nominal = await server.Client.PostAsJsonAsync(
            $"/api/parts/{part}/nominal", new { sha, fileName = "passwd.stl", unit = "mm" });
        foreach (var answer in (HttpResponseMessage[])[piece, nominal])
        {
            Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
            var text = await answer.Content.ReadAsStringAsync();
            Assert.Contains("sha:", text, StringComparison.Ordinal);
            Assert.DoesNotContain("root:", text, StringComparison.Ordinal);
        }

        await Assert.ThrowsAsync<Core.BadInputException>(() => server.Factory.Services.GetRequiredService<BlobStore>().FileAsync(sha));
        Assert.Equal(0, await server.ScalarAsync<long>($"SELECT count(*) FROM \"Pieces\" WHERE \"PartId\" = '{part}'"));
    }

    [Fact]
    public async Task ErrorsQuoteNothingOfAFile()
    {
        const string Secret = "hunter2-is-the-password";
        var part = (await server.PostAsync("/api/parts", new { number = "DOOR-QUOTE", name = "x", revision = "A" })).GetProperty("id")
            .GetString();
        foreach (var (name, content) in new[]
        {
            ("a.xyz", $"1 2 3\n{Secret} {Secret} {Secret}\n"), ("b.obj", $"v 1 2 {Secret}\nf 1 {Secret} 3\n"),
            ("c.ply", $"ply\nformat {Secret} 1.0\nend_header\n"), ("d.off", $"OFF\n{Secret} 1 1\n"),
            ("e.stl", $"solid x\nfacet normal {Secret} 0 1\nouter loop\nvertex 0 0 {Secret}\n"), ("f.gltf", $"{{\"asset\": {Secret}}}"),
        })
        {
            var upload = await server.UploadAsync(name, Encoding.ASCII.GetBytes(content));
            var piece = await server.PostAsync("/api/pieces",
                new { partId = part, serial = name, sha = upload.GetProperty("sha").GetString(), fileName = name, unit = "mm" });
            var ended = await server.EndedAsync(piece.GetProperty("jobs")[0]);
            Assert.Equal((name, "failed"), (name, ended.GetProperty("state").GetString()));
            Assert.DoesNotContain(Secret, ended.GetProperty("error").GetString(), StringComparison.OrdinalIgnoreCase);
        }
    }

    [Fact]
    public async Task DamagedContentIsNoticedAndNeverServed()
    {
        var blobs = server.Factory.Services.GetRequiredService<BlobStore>();
        var content = RandomNumberGenerator.GetBytes((1 << 20) + 99);
        foreach (var damage in (string[])["UPDATE \"BlobChunks\" SET \"Data\" = set_byte(\"Data\", 7, (get_byte(\"Data\", 7) + 1) % 256) "
            + "WHERE \"Sha\" = '{0}' AND \"Index\" = 1", "DELETE FROM \"BlobChunks\" WHERE \"Sha\" = '{0}' AND \"Index\" = 1", "UPDATE "
            + "\"BlobChunks\" SET \"Data\" = '' WHERE \"Sha\" = '{0}'"])
        {
            content[0]++;
            var sha = await blobs.SaveAsync(content);
            File.Delete(Path.Combine(server.BlobFolder, sha));
            await server.ScalarAsync<int>(string.Format(System.Globalization.CultureInfo.InvariantCulture,
                "WITH d AS (" + damage + " RETURNING 1) SELECT count(*)::int FROM d", sha));
            var error = await Assert.ThrowsAsync<DamagedFileException>(() => blobs.BytesAsync(sha));
            Assert.Contains("damaged", error.Message, StringComparison.Ordinal);
            Assert.False(File.Exists(Path.Combine(server.BlobFolder, sha)));
        }

        // A copy on the disk that has changed is replaced by the original.
        content[0]++;
        var good = await blobs.SaveAsync(content);
        var path = Path.Combine(server.BlobFolder, good);
        var bytes = await File.ReadAllBytesAsync(path);
        bytes[5] ^= 1;
        await File.WriteAllBytesAsync(path, bytes);
        Assert.Equal(content, await blobs.BytesAsync(good));
    }

    [Theory]
    [InlineData("http://evil.example", null, HttpStatusCode.Forbidden)]
    [InlineData("null", null, HttpStatusCode.Forbidden)]
    [InlineData("http://localhost", null, HttpStatusCode.OK)]
    [InlineData(null, "cross-site", HttpStatusCode.Forbidden)]
    [InlineData(null, "same-origin", HttpStatusCode.OK)]
    [InlineData(null, null, HttpStatusCode.OK)]
    public async Task ARequestFromAnotherSitesPageIsRefused(string? origin, string? site, HttpStatusCode status)
    {
        using var request =
            new HttpRequestMessage(HttpMethod.Post, "/api/parts")
            {
                Content = JsonContent.Create(
                new { number = "DOOR-" + Guid.NewGuid().ToString("N")[..8], name = "x", revision = "A" })
            };
        if (origin is not null)
        {
            request.Headers.Add("Origin", origin);
        }

        if (site is not null)
        {
            request.Headers.Add("Sec-Fetch-Site", site);
        }

        using var answer = await server.Client.SendAsync(request);
        Assert.Equal(status, answer.StatusCode);
    }

    [Fact]
    public async Task EveryAnswerCarriesTheHeaders()
    {
        foreach (var url in (string[])["/api/floor", "/api/session", "/", "/api/nothing"])
        {
            using var answer = await server.Client.GetAsync(url);
            Assert.Contains(
                "script-src 'self' 'wasm-unsafe-eval';", answer.Headers.GetValues("Content-Security-Policy").Single(),
                StringComparison.Ordinal);
            Assert.Equal("nosniff", answer.Headers.GetValues("X-Content-Type-Options").Single());
            Assert.Equal("DENY", answer.Headers.GetValues("X-Frame-Options").Single());
            Assert.Equal("same-origin", answer.Headers.GetValues("Referrer-Policy").Single());
        }
    }

    [Fact]
    public async Task OddTextsAndUnknownIdsArePlainErrors()
    {
        using var nul = await server.Client.PostAsJsonAsync("/api/parts", new { number = "A\0B", name = "x", revision = "A" });
        Assert.Equal(HttpStatusCode.BadRequest, nul.StatusCode);
        using var user = await server.Factory.CreateClient()
            .PostAsJsonAsync("/api/session", new { user = "in\0spector", password = "x\0y" });
        Assert.Equal(HttpStatusCode.BadRequest, user.StatusCode);
        using var serial = await server.Client.PostAsJsonAsync(
            "/api/pieces", new { partId = Guid.NewGuid(), serial = "a\nb", sha = new string('0', 64), fileName = "a.stl", unit = "mm" });
        Assert.Contains("serial:", await serial.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        using var longName = await server.Client.PostAsJsonAsync(
            "/api/parts", new { number = "N", name = new string('x', 100_000), revision = "A" });
        Assert.Equal(HttpStatusCode.BadRequest, longName.StatusCode);
        foreach (var (method, url) in new[] { ("GET", "/api/pieces/{0}"), ("GET", "/api/parts/{0}/plan"), ("GET", "/api/jobs/{0}"),
            ("POST", "/api/jobs/{0}/cancel"), ("GET", "/api/reports/{0}/pdf"), ("GET", "/api/pieces/{0}/sheet") })
        {
            using var request = new HttpRequestMessage(
                new(method), string.Format(System.Globalization.CultureInfo.InvariantCulture, url, Guid.NewGuid()));
            using var answer = await server.Client.SendAsync(request);
            Assert.Equal((url, HttpStatusCode.NotFound), (url, answer.StatusCode));
            Assert.Contains("There is no such", await answer.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }

        var nowhere = new Capture(Guid.NewGuid(), "1", 1, 1, 0, "mm", 0, false, []);
        using var captured = await server.Client.PostAsJsonAsync("/api/captures", nowhere);
        Assert.Equal(HttpStatusCode.NotFound, captured.StatusCode);
    }

    [Fact]
    public async Task EventsBeginAtOnce()
    {
        using var stop = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        var clock = Stopwatch.StartNew();
        using var answer = await server.Client.GetAsync("/api/events", HttpCompletionOption.ResponseHeadersRead, stop.Token);
        using var reader = new StreamReader(await answer.Content.ReadAsStreamAsync(stop.Token));
        Assert.Equal("event: beat", await reader.ReadLineAsync(stop.Token));
        Assert.True(clock.Elapsed < TimeSpan.FromSeconds(10));
    }
}
