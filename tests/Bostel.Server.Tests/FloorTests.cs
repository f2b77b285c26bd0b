using System.Net;
using System.Text.Json;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>The floor's lists hold for many pieces: pages, search and filters are the database's work.</summary>
public class FloorTests(ServerFixture server)
{
    [Fact]
    public async Task PagesTogetherShowEveryPieceOnce()
    {
        const int Many = (2 * FloorService.Page) + 7;
        var part = await PartWithAsync("FLOOR-1", Enumerable.Range(0, Many).Select(i => $"{i:0000}"));
        var serials = new List<string>();
        for (var skip = 0; skip < Many; skip += FloorService.Page)
        {
            var page = await server.GetAsync($"/api/pieces?part={part}&skip={skip}");
            Assert.Equal(Many, page.GetProperty("total").GetInt32());
            serials.AddRange(Serials(page));
        }

        Assert.Equal(Many, serials.Distinct().Count());
        Assert.Equal($"{Many - 1:0000}", serials[0]);
        Assert.Empty(Serials(await server.GetAsync($"/api/pieces?part={part}&skip=5000")));
    }

    [Fact]
    public async Task WordsAreSoughtInSerialAndPartAndMeanThemselves()
    {
        await PartWithAsync("FLOOR-2", ["AB-1", "AB-12", "50%", "x_y"]);
        Assert.Equal(["AB-12"], Serials(await server.GetAsync("/api/pieces?search=floor-2%20b-12")));
        Assert.Equal(["50%"], Serials(await server.GetAsync("/api/pieces?search=FLOOR-2%20%25")));
        Assert.Equal(["x_y"], Serials(await server.GetAsync("/api/pieces?search=FLOOR-2%20_")));
        Assert.Empty(Serials(await server.GetAsync("/api/pieces?search=FLOOR-2%20nothing")));
    }

    [Fact]
    public async Task ListsTellWaitingFromJudgedAndWhatNeedsALook()
    {
        var part = await PartWithAsync("FLOOR-3", ["wait", "good", "bad", "broken"],
            new() { ["good"] = Verdict.Conforming, ["bad"] = Verdict.NonConforming });
        async Task<string> Listed(string list) =>
            string.Join(' ', Serials(await server.GetAsync($"/api/pieces?part={part}&list={list}")).Order());
        Assert.Equal("broken wait", await Listed("waiting"));
        Assert.Equal("bad good", await Listed("judged"));
        Assert.Equal("bad broken", await Listed("look"));
        Assert.Equal("bad broken good wait", await Listed("all"));
        var summary = (await server.GetAsync("/api/floor")).GetProperty("parts").EnumerateArray()
            .Single(p => p.GetProperty("number").GetString() == "FLOOR-3");
        Assert.Equal((2, 1, 1), (summary.GetProperty("waiting").GetInt32(), summary.GetProperty("conforming").GetInt32(),
            summary.GetProperty("nonConforming").GetInt32()));
        Assert.Equal(["good", "bad"], summary.GetProperty("recent").EnumerateArray().Select(r => r.GetProperty("serial").GetString()));
    }

    [Theory]
    [InlineData("/api/pieces?skip=-1")]
    [InlineData("/api/pieces?list=lucky")]
    public async Task WhatIsNoListIsBadInput(string url) =>
        Assert.Equal(HttpStatusCode.BadRequest, (await server.Client.GetAsync(url)).StatusCode);

    [Fact]
    public async Task APartHasAPicture()
    {
        var part = await server.ClampAsync("FLOOR-4");
        var nominal = (await server.GetAsync($"/api/parts/{part}/nominal")).GetProperty("id").GetString();
        var png = await server.Client.GetByteArrayAsync($"/api/nominals/{nominal}/picture");
        Assert.Equal([0x89, (byte)'P', (byte)'N', (byte)'G'], png[..4]);
        Assert.Equal(HttpStatusCode.NotFound, (await server.Client.GetAsync($"/api/nominals/{Guid.NewGuid()}/picture")).StatusCode);
    }

    private static List<string> Serials(JsonElement page) =>
        [.. page.GetProperty("pieces").EnumerateArray().Select(p => p.GetProperty("serial").GetString()!)];

    /// <summary>A part with pieces as rows alone, the last one the newest.</summary>
    private async Task<Guid> PartWithAsync(string number, IEnumerable<string> serials, Dictionary<string, Verdict>? verdicts = null)
    {
        var part = (await server.PostAsync("/api/parts", new { number, name = "x", revision = "A" })).GetProperty("id").GetGuid();
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<BostelContext>();
        var at = DateTimeOffset.UtcNow.AddDays(-1);
        foreach (var serial in serials)
        {
            var piece = new Piece
            {
                Id = Guid.NewGuid(),
                PartId = part,
                Serial = serial,
                FileName = "a.stl",
                FileSha = new string('0', 64),
                Unit = "mm",
                Problem = serial == "broken" ? "a.stl: the file is cut off or damaged." : null,
                CreatedBy = "inspector",
                CreatedAt = at = at.AddSeconds(1),
            };
            context.Pieces.Add(piece);
            await context.SaveChangesAsync();
            if (verdicts?.TryGetValue(serial, out var verdict) == true)
            {
                var run = new Run { Id = Guid.NewGuid(), PieceId = piece.Id, Key = serial, PlanNumber = 1, Verdict = verdict };
                context.Runs.Add(run);
                piece.RunId = run.Id;
                await context.SaveChangesAsync();
            }
        }

        return part;
    }
}
