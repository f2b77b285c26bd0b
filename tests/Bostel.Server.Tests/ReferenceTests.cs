using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bostel.Cad;
using Bostel.Core.Formats;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>A part without CAD: its first scan serves as reference, in coordinates of its own; the next piece is measured on it.</summary>
public class ReferenceTests(ServerFixture server)
{
    [Fact]
    public async Task APartWithoutDrawingIsMeasuredOnAReferenceAndTheSavedOneRepeatsIt()
    {
        // The scans come from the scanner by way of a part that has its nominal; this one never sees it.
        var maker = await server.ClampAsync("REF-MAKER");
        var part = (await server.PostAsync("/api/parts", new { number = "REF-1", name = "No drawing", revision = "A" }))
            .GetProperty("id").GetString()!;
        var first = await CopyAsync(await server.CaptureAsync(maker, "0001", seed: 3), part, "0001");
        var second = await CopyAsync(await server.CaptureAsync(maker, "0002", seed: 4), part, "0002");

        Assert.Equal(HttpStatusCode.NotFound,
            (await server.Client.PostAsJsonAsync($"/api/parts/{part}/nominal/reference", new { piece = Guid.NewGuid() })).StatusCode);
        Assert.Equal(HttpStatusCode.BadRequest,
            (await server.Client.PostAsJsonAsync($"/api/parts/{maker}/nominal/axes", Axes())).StatusCode);
        await DoneAsync(await server.PostAsync($"/api/parts/{part}/nominal/reference", new { piece = first }));
        var scanned = await server.GetAsync($"/api/parts/{part}/nominal");
        Assert.True(scanned.GetProperty("isReference").GetBoolean());
        var faces = scanned.GetProperty("faces").EnumerateArray().ToList();
        int Largest(string kind) => faces.Where(f => f.GetProperty("kind").GetString() == kind)
            .MaxBy(f => f.GetProperty("area").GetDouble()).GetProperty("id").GetInt32();

        // Its largest plane is the base, 70 by 32; the sphere of its seat has a diameter of 24.
        var (ground, seat) = (Largest("plane"), Largest("sphere"));
        await DoneAsync(await server.PostAsync($"/api/parts/{part}/nominal/axes", Axes(ground, seat)));
        var laid = await server.GetAsync($"/api/parts/{part}/nominal");
        var low = laid.GetProperty("faces")[ground].GetProperty("numbers");
        Assert.Equal([0, 0, -1], Enumerable.Range(3, 3).Select(k => Math.Round(low[k].GetDouble(), 9)));
        Assert.Equal(0, low[2].GetDouble(), 1e-9);
        using var parallel = await server.Client.PostAsJsonAsync($"/api/parts/{part}/nominal/axes", Axes(ground, ground));
        Assert.Equal("failed", (await server.EndedAsync(await ServerFixture.JsonAsync(parallel))).GetProperty("state").GetString());

        var plan = new InspectionPlan
        {
            Part = "REF-1",
            Revision = "A",
            Features = [new("base", "Base", [ground]), new("seat", "Seat", [seat])],
            Characteristics =
            [
                new FlatnessPlan(1, "Base flat") { Features = ["base"], Tolerance = 0.1 },
                new DiameterPlan(2, "Seat") { Features = ["seat"], Nominal = 24, Lower = -0.1, Upper = 0.1 },
            ],
        };
        await ServerFixture.JsonAsync(await server.Client.PutAsync($"/api/parts/{part}/plan", JsonContent.Create(new JsonObject
        {
            ["basedOn"] = 1,
            ["plan"] = JsonNode.Parse(plan.ToJson()),
        })));
        await DoneAsync(await server.PostAsync($"/api/pieces/{second}/jobs", new { kind = "run-plan" }));
        var run = (await server.GetAsync($"/api/pieces/{second}")).GetProperty("run");
        var measured = run.GetProperty("characteristics")[1];
        Assert.Equal(24, measured.GetProperty("measured").GetDouble(), measured.GetProperty("uncertainty").GetDouble());

        // The reference as it is saved, opened elsewhere, gives the same numbers to the last digit.
        var file = Path.Combine(Directory.CreateTempSubdirectory().FullName, "reference" + NominalModelStore.Suffix);
        await File.WriteAllBytesAsync(
            file, await server.Client.GetByteArrayAsync($"/api/nominals/{laid.GetProperty("id").GetString()}/model"));
        var (nominal, _) = await NominalReader.ReadAsync(file, Path.GetFileName(file));
        var scan = MeshFormats.Read(new MemoryStream(
            await server.Client.GetByteArrayAsync($"/api/pieces/{second}/export?format=ply&prepared=false")), "scan.ply").Mesh;
        var direct = new InspectionRunner(nominal).Run(scan, plan);
        Assert.Equal(direct.Characteristics.Select(c => c.Measured),
            run.GetProperty("characteristics").EnumerateArray().Select(c => (double?)c.GetProperty("measured").GetDouble()));
        await File.WriteAllBytesAsync(file, (await File.ReadAllBytesAsync(file))[..5000]);
        Assert.Contains("reference.bnom", (await Assert.ThrowsAnyAsync<Core.BadInputException>(
            () => NominalReader.ReadAsync(file, Path.GetFileName(file)))).Message, StringComparison.Ordinal);
    }

    private static object Axes(int? ground = null, int? seat = null) => new
    {
        first = ground is null ? null : new { face = ground },
        firstAxis = "-z",
        second = seat is null ? null : new { face = seat },
        secondAxis = "x",
        origin = ground is null ? [] : new[] { new { face = ground } },
        at = new[] { 0, 0, 0 },
    };

    private async Task DoneAsync(JsonElement job)
    {
        var ended = await server.EndedAsync(job);
        Assert.True(ended.GetProperty("state").GetString() == "done", ended.GetRawText());
    }

    /// <summary>The same file received as a piece of another part.</summary>
    private async Task<string> CopyAsync(string piece, string part, string serial)
    {
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<BostelContext>();
        var stored = await context.Pieces.AsNoTracking().SingleAsync(p => p.Id == Guid.Parse(piece));
        var copy = (await server.PostAsync("/api/pieces", new
        {
            partId = part,
            serial,
            sha = stored.FileSha,
            fileName = stored.FileName,
            unit = stored.Unit
        })).GetProperty("id").GetString()!;
        for (var i = 0; i < 600; i++)
        {
            if ((await server.GetAsync($"/api/pieces/{copy}")).GetProperty("triangles").GetInt32() > 0)
            {
                return copy;
            }

            await Task.Delay(100);
        }

        throw new TimeoutException("The copy was not read within a minute.");
    }
}
