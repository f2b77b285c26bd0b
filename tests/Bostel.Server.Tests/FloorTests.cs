using System.Globalization;
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

    /// <summary>
    /// A hole that grows by 0.01 mm a piece, of which one was not measured: the line has its slope, and Ppk is that of the five values.
    /// What the newest plan no longer asks for is not shown; what has another number now is known by its name.
    /// </summary>
    [Fact]
    public async Task TrendsFollowThePiecesInTheirOrder()
    {
        var part = await PartWithAsync("FLOOR-5", ["1", "2", "3", "4", "5", "6"],
            Enumerable.Range(1, 6).ToDictionary(i => $"{i}", _ => Verdict.Conforming), serial => serial switch
            {
                "2" => [Hole(1, "old", 7), Hole(2, "hole", null)],
                "1" => [Hole(1, "hole", 20)],
                _ => [Hole(1, "still", 20.09), Hole(2, "hole", 20 + (0.01 * (int.Parse(serial, CultureInfo.InvariantCulture) - 1)))],
            });
        var trend = await server.GetAsync($"/api/parts/{part}/trend");
        Assert.Equal(
            ["1", "2", "3", "4", "5", "6"], trend.GetProperty("pieces").EnumerateArray().Select(p => p.GetProperty("serial").GetString()));

        // What moves stands before what only uses more of its tolerance.
        var rows = trend.GetProperty("rows").EnumerateArray().ToList();
        Assert.Equal(["hole", "still"], rows.Select(r => r.GetProperty("name").GetString()));
        var row = rows[0];
        Assert.Equal((2, "hole"), (row.GetProperty("no").GetInt32(), row.GetProperty("name").GetString()));
        var values = row.GetProperty("values").EnumerateArray().Select(v => v.GetProperty("measured")).ToList();
        Assert.Equal(JsonValueKind.Null, values[1].ValueKind);
        Assert.Equal(20.05, values[5].GetDouble(), 1e-12);
        Assert.Equal((19.9, 20.1), (row.GetProperty("lower").GetDouble(), row.GetProperty("upper").GetDouble()));
        double[] known = [20, 20.02, 20.03, 20.04, 20.05];
        var (mean, s) = (known.Average(), Math.Sqrt(known.Sum(v => Math.Pow(v - known.Average(), 2)) / 4));
        Assert.Equal((20.1 - mean) / (3 * s), row.GetProperty("ppk").GetDouble(), 1e-9);
        Assert.Equal(0.01, row.GetProperty("drift").GetProperty("slope").GetDouble(), 1e-9);
        Assert.True(row.GetProperty("drift").GetProperty("standsOut").GetBoolean());
        Assert.Equal(HttpStatusCode.NotFound, (await server.Client.GetAsync($"/api/parts/{Guid.NewGuid()}/trend")).StatusCode);
    }

    private static CharacteristicResult Hole(int no, string name, double? measured) =>
        new(new DiameterPlan(no, name) { Features = ["f"], Nominal = 20, Lower = -0.1, Upper = 0.1 })
        {
            Nominal = 20,
            LowerLimit = 19.9,
            UpperLimit = 20.1,
            Measured = measured,
            Uncertainty = 0.004,
            Verdict = measured is null ? Verdict.NotMeasured : Verdict.Conforming,
        };

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
    private async Task<Guid> PartWithAsync(string number, IEnumerable<string> serials, Dictionary<string, Verdict>? verdicts = null,
        Func<string, CharacteristicResult[]>? rows = null)
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
                run.Characteristics.AddRange((rows?.Invoke(serial) ?? []).Select(r => CharacteristicRows.Of(run.Id, r)));
                context.Runs.Add(run);
                piece.RunId = run.Id;
                await context.SaveChangesAsync();
            }
        }

        return part;
    }
}
