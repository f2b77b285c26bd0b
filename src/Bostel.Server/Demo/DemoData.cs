using System.Text.Json;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Demo;

/// <summary>
/// Puts the demo world into an empty database: an account of each role, parts with nominal and plan, judged pieces and waiting ones, all
/// captured with the simulated scanner from the recipes in demo/.
/// </summary>
public sealed class DemoData(
    BostelContext context, Accounts accounts, ReceiveService receive, NominalService nominals, StationService stations,
    ReportService reports, PlanHistory history, BlobStore blobs,
    ILogger<DemoData> log)
{
    public const string Password = "vent-drive-310";
    private const string Made = "made the demo data";

    /// <summary>One account a role, named like it, in a database that has none.</summary>
    public async Task EnsurePeopleAsync(CancellationToken cancel)
    {
        if (await context.Accounts.AnyAsync(cancel))
        {
            return;
        }

        foreach (var role in Enum.GetValues<Role>())
        {
            await accounts.AddAsync(role.ToString().ToLowerInvariant(), Password, role, mustChange: false, cancel);
        }

        await context.SaveChangesAsync(cancel);
    }

    public async Task EnsurePartsAsync(string folder, CancellationToken cancel)
    {
        if (await context.Audit.AnyAsync(a => a.Action == Made, cancel))
        {
            return;
        }

        // A start that was killed in the middle left some of it: that is taken as it is and the rest made. Parts of people's own are no
        // reason to add any.
        var parts = JsonSerializer.Deserialize<DemoPart[]>(
            await File.ReadAllTextAsync(Path.Combine(folder, "demo.json"), cancel), JsonSerializerOptions.Web)!;
        var numbers = parts.Select(p => p.Number).ToArray();
        if (await context.Parts.AnyAsync(p => !numbers.Contains(p.Number), cancel))
        {
            return;
        }

        log.LogInformation("Making the demo data: translating nominals, scanning and judging pieces; about a minute");
        foreach (var part in parts)
        {
            await MakeAsync(folder, part, cancel);
        }

        context.Record("demo", Made, "demo");
        await context.SaveChangesAsync(cancel);
    }

    private sealed record DemoPiece(string Serial, bool Run = false, bool Issue = false);

    private sealed record DemoPart(string Number, string Name, string Revision, string Nominal, string Plan, DemoPiece[] Pieces);

    private async Task MakeAsync(string folder, DemoPart demo, CancellationToken cancel)
    {
        const string Who = "inspector";
        var plan = InspectionPlan.Parse(await File.ReadAllTextAsync(Path.Combine(folder, "plans", demo.Plan), cancel), demo.Plan);
        var sha = await blobs.SaveAsync(await File.ReadAllBytesAsync(Path.Combine(folder, "nominal", demo.Nominal), cancel), cancel);
        var part = await context.Parts.AsNoTracking().SingleOrDefaultAsync(p => p.Number == demo.Number, cancel)
            ?? await receive.CreatePartAsync(demo.Number, demo.Name, demo.Revision, plan, Who, cancel);
        await history.ReleaseAsync(part.Id, 1, "approver", cancel);
        await nominals.MakeAsync(part.Id, new() { FileSha = sha, FileName = demo.Nominal }, Who, Quiet.Instance, Always, cancel);
        foreach (var piece in demo.Pieces)
        {
            var recipe = await File.ReadAllTextAsync(Path.Combine(folder, "recipes", $"{demo.Number}-{piece.Serial}.json"), cancel);
            await receive.CaptureAsync(part.Id, new() { Serial = piece.Serial, Recipe = recipe }, Who, Quiet.Instance, Always, cancel);
            var made = await context.Pieces.AsNoTracking().SingleAsync(p => p.Serial == piece.Serial && p.PartId == part.Id, cancel);
            if (piece.Run)
            {
                await stations.RunAsync(await stations.OpenAsync(made.Id, cancel), Station.Evaluate, Who, Quiet.Instance, null, cancel);
            }

            if (piece.Issue && !await context.Reports.AnyAsync(r => r.PieceId == made.Id, cancel))
            {
                await reports.IssueAsync(await stations.OpenAsync(made.Id, cancel), null, Who, Quiet.Instance, null, cancel);
            }
        }
    }

    private static Task<bool> Always() => Task.FromResult(true);

    private sealed class Quiet : IProgress<RunProgress>
    {
        public static readonly Quiet Instance = new();

        public void Report(RunProgress value)
        {
        }
    }
}
