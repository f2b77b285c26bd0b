using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Server.Endpoints;
using Bostel.Server.Services;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>Several alignments in one plan, from the plan to what is saved, in the demo plan of the clamp.</summary>
public class AlignmentTests(ServerFixture server)
{
    private const string Best = "best fit";

    private static readonly InspectionPlan _plan = InspectionPlan.Parse(
        File.ReadAllText(Path.Combine(ServerFixture.Root, "demo", "plans", "RC-077.json")));

    [Fact]
    public async Task EachAlignmentHasItsPoseItsMapItsNumbersAndItsFiles()
    {
        var part = await server.ClampAsync("ALIGN-1");
        var piece = await ShrunkAsync(part);
        await PutAsync(part, _plan, 1);
        await RunAsync(piece, "run-plan");
        var run = (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run");
        var named = Assert.Single(run.GetProperty("named").EnumerateArray());
        var pose = Pose(named.GetProperty("alignment"));
        Assert.NotEqual(Pose(run.GetProperty("alignment")), pose);

        // How far it lies from the plan's own: the part is 0.4 % smaller about the one pose or the other.
        var change = Assert.Single((await server.GetAsync($"/api/pieces/{piece}/alignments")).EnumerateArray());
        Assert.Equal(Best, change.GetProperty("name").GetString());
        Assert.InRange(change.GetProperty("change").GetProperty("moves").GetDouble(), 0.05, 0.004 * 82);

        // The map stands in the named one, the features in the plan's own.
        Assert.Equal(named.GetProperty("stage").GetProperty("deviationsKey").GetString(),
            run.GetProperty("compareStage").GetProperty("deviationsKey").GetString());
        Assert.NotEqual(run.GetProperty("ownStage").GetProperty("deviationsKey").GetString(),
            run.GetProperty("compareStage").GetProperty("deviationsKey").GetString());

        // A feature is measured at once where it stands: the seat's centre as the one pose has it and as the other.
        var seat = new { id = "seat", name = "Seat", faces = new[] { 33 } };
        var own = await SeatAsync(piece, seat);
        var fitted = await SeatAsync(piece, new { seat.id, seat.name, seat.faces, alignment = Best });
        var moved = pose.After(Pose(run.GetProperty("alignment")).Inverse()).Apply(own);
        Assert.InRange(Vector3D.Distance(moved, fitted), 0, 0.002);
        Assert.NotEqual(own, fitted);
        using var gone = await server.Client.PostAsJsonAsync(
            $"/api/pieces/{piece}/measure", new { feature = new { seat.id, seat.name, seat.faces, alignment = "gone" } });
        Assert.Equal(HttpStatusCode.BadRequest, gone.StatusCode);

        // What is saved stands in the alignment that was asked for, turn and shift, in every format.
        var saved = await PreparedBoxAsync(named.GetProperty("stage").GetProperty("preparedKey").GetString()!, pose);
        foreach (var format in (string[])["ply", "stl", "3mf", "obj", "glb", "xyz"])
        {
            var bytes = await server.Client.GetByteArrayAsync(
                $"/api/pieces/{piece}/export?format={format}&prepared=true&alignment={Uri.EscapeDataString(Best)}");

            // glTF is in metres by its standard.
            var mesh = MeshFormats.Read(new MemoryStream(bytes), "a." + format).Mesh.Scaled(format == "glb" ? 1000 : 1);
            Assert.True(Vector3D.Distance(mesh.Bounds.Min, saved.Min) < 1e-4 && Vector3D.Distance(mesh.Bounds.Max, saved.Max) < 1e-4,
                $"{format}: {mesh.Bounds} is not {saved}.");
        }

        // Asked for without a name it is the plan's own.
        var ownPose = Pose(run.GetProperty("alignment"));
        var ownBox = await PreparedBoxAsync(named.GetProperty("stage").GetProperty("preparedKey").GetString()!, ownPose);
        var inOwn = MeshFormats.Read(new MemoryStream(await server.Client.GetByteArrayAsync(
            $"/api/pieces/{piece}/export?format=ply&prepared=true&alignment=")), "a.ply").Mesh.Bounds;
        Assert.InRange(Vector3D.Distance(inOwn.Max, ownBox.Max), 0, 1e-9);
        var transform = await server.GetAsync($"/api/pieces/{piece}/transform?alignment={Uri.EscapeDataString(Best)}");
        Assert.Equal(pose, RigidTransform.FromArray([.. transform.GetProperty("transform").EnumerateArray().Select(v => v.GetDouble())]));

        await server.IssueAsync(piece);
        var report = (await server.GetAsync("/api/reports")).EnumerateArray().Single(r => r.GetProperty("pieceId").GetString() == piece);
        var csv = await server.Client.GetStringAsync($"/api/reports/{report.GetProperty("id").GetString()}/csv");
        Assert.Contains("profile of a surface,,best fit,", csv, StringComparison.Ordinal);
    }

    [Fact]
    public async Task ANamedAlignmentIsTriedAndChangedAlone()
    {
        var part = await server.ClampAsync("ALIGN-2");
        var piece = await ShrunkAsync(part);
        await PutAsync(part, _plan, 1);
        await RunAsync(piece, "run-plan");
        var before = (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run");
        var trial = await server.PostAsync($"/api/pieces/{piece}/align/try",
            new { align = new { method = "faces", faces = new[] { 6, 20, 0 } }, verdicts = true, alignment = Best });
        Assert.Equal(Pose(before.GetProperty("alignment")), Pose(trial.GetProperty("alignment")));
        using var unknown = await server.Client.PostAsJsonAsync(
            $"/api/pieces/{piece}/align/try", new { align = new { method = "all-surfaces" }, verdicts = false, alignment = "gone" });
        Assert.Equal(HttpStatusCode.BadRequest, unknown.StatusCode);

        // Another band changes no measurement; another way of the named alignment changes what stands in it alone.
        await PutAsync(part, _plan.Held(Best, new ChosenFacesPlan { Faces = [6, 20, 0] }), 2);
        var stale = await server.GetAsync($"/api/pieces/{piece}");
        string State(string key) => stale.GetProperty("stations").EnumerateArray()
            .Single(s => s.GetProperty("key").GetString() == key).GetProperty("state").GetString()!;
        Assert.Equal("outOfDate", State("compare"));
        Assert.Equal("outOfDate", State("evaluate"));
        Assert.NotEqual("outOfDate", State("features"));
        await RunAsync(piece, "run-plan");
        var after = (await server.GetAsync($"/api/pieces/{piece}")).GetProperty("run");
        foreach (var (old, now) in Rows(before).Zip(Rows(after)))
        {
            Assert.True((old.Key == 12) == (old.Value != now.Value), $"{old.Key}: {old.Value} and {now.Value}");
        }
    }

    /// <summary>A piece on which a fit to the corner that holds it and one to all of it lie apart.</summary>
    private Task<string> ShrunkAsync(string part) => server.CaptureAsync(
        new Capture(Guid.Parse(part), "0001", 3, 0.8, 0.01, "mm", 2, true, [new("shrunk", [], 0.4)]));

    private static Dictionary<int, double?> Rows(JsonElement run) => run.GetProperty("characteristics").EnumerateArray().ToDictionary(
        r => r.GetProperty("plan").GetProperty("no").GetInt32(),
        r => r.GetProperty("measured") is { ValueKind: JsonValueKind.Number } v ? v.GetDouble() : (double?)null);

    private async Task<Box3D> PreparedBoxAsync(string key, RigidTransform pose)
    {
        await using var scope = server.Factory.Services.CreateAsyncScope();
        var stations = scope.ServiceProvider.GetRequiredService<StationService>();
        var mesh = (await stations.PreparedAsync(key, default)).Mesh;
        return Box3D.Of(Enumerable.Range(0, mesh.VertexCount).Select(v => pose.Apply(mesh.Vertex(v))));
    }

    private async Task<Vector3D> SeatAsync(string piece, object feature)
    {
        var measured = (await server.PostAsync($"/api/pieces/{piece}/measure", new { feature })).GetProperty("feature");
        return Vector3D.FromArray([.. measured.GetProperty("measured").EnumerateArray().Take(3).Select(v => v.GetDouble())]);
    }

    private async Task RunAsync(string piece, string kind) => Assert.Null(
        (await server.EndedAsync(await server.PostAsync($"/api/pieces/{piece}/jobs", new { kind }))).GetProperty("error").GetString());

    private static RigidTransform Pose(JsonElement alignment) => RigidTransform.FromArray(
        [.. alignment.GetProperty("transform").EnumerateArray().Select(v => v.GetDouble())]);

    private async Task PutAsync(string part, InspectionPlan plan, int basedOn) => await ServerFixture.JsonAsync(
        await server.Client.PutAsync($"/api/parts/{part}/plan", JsonContent.Create(new JsonObject
        {
            ["basedOn"] = basedOn,
            ["plan"] = JsonNode.Parse(plan.ToJson()),
        })));
}
