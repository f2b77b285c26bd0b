using System.Text.Json;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Server.Jobs;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Demo;

/// <summary>
/// Puts the demo world in once: two people, part VH-310 with its nominal and plan, a finished piece and a waiting one, both captured with the
/// simulated scanner from the recipes in demo/.
/// </summary>
public sealed class DemoData(
    BostelContext context, UserManager<AppUser> users, RoleManager<IdentityRole> roles, ReceiveService receive, StationService stations, ReportService reports, BlobStore blobs, ILogger<DemoData> log)
{
    public const string Password = "vent-drive-310";

    /// <summary>The sign-ins, always needed.</summary>
    public async Task EnsurePeopleAsync()
    {
        foreach (var role in (string[])[Roles.Inspector, Roles.Approver])
        {
            if (!await roles.RoleExistsAsync(role))
            {
                await roles.CreateAsync(new(role));
            }

            var name = role.ToLowerInvariant();
            if (await users.FindByNameAsync(name) is null)
            {
                var user = new AppUser { UserName = name };
                await users.CreateAsync(user, Password);
                await users.AddToRoleAsync(user, role);
            }
        }
    }

    public async Task EnsurePartsAsync(string folder, CancellationToken cancel)
    {
        if (await context.Parts.AnyAsync(cancel))
        {
            return;
        }

        log.LogInformation("Making the demo data: translating nominals, scanning and judging pieces; about a minute");
        var parts = JsonSerializer.Deserialize<DemoPart[]>(await File.ReadAllTextAsync(Path.Combine(folder, "demo.json"), cancel), JsonSerializerOptions.Web)!;
        foreach (var part in parts)
        {
            await MakeAsync(folder, part, cancel);
        }
    }

    private sealed record DemoPiece(string Serial, bool Run = false, bool Issue = false);

    private sealed record DemoPart(string Number, string Name, string Revision, string Nominal, string Plan, DemoPiece[] Pieces);

    private async Task MakeAsync(string folder, DemoPart demo, CancellationToken cancel)
    {
        const string Who = "inspector";
        var plan = InspectionPlan.Parse(await File.ReadAllTextAsync(Path.Combine(folder, "plans", demo.Plan), cancel), demo.Plan);
        var sha = await blobs.SaveAsync(await File.ReadAllBytesAsync(Path.Combine(folder, "nominal", demo.Nominal), cancel), cancel);
        var part = await receive.CreatePartAsync(demo.Number, demo.Name, demo.Revision, plan, Who, cancel);
        await receive.NominalAsync(part.Id, new() { FileSha = sha, FileName = demo.Nominal }, Who, Quiet.Instance, cancel);
        foreach (var piece in demo.Pieces)
        {
            var recipe = await File.ReadAllTextAsync(Path.Combine(folder, "recipes", $"{demo.Number}-{piece.Serial}.json"), cancel);
            await receive.CaptureAsync(part.Id, new() { Serial = piece.Serial, Recipe = recipe }, Who, Quiet.Instance, cancel);
            var made = await context.Pieces.SingleAsync(p => p.Serial == piece.Serial && p.PartId == part.Id, cancel);
            if (piece.Run)
            {
                await stations.RunPlanAsync(await stations.OpenAsync(made.Id, cancel), Who, Quiet.Instance, cancel);
            }

            if (piece.Issue)
            {
                await reports.IssueAsync(await stations.OpenAsync(made.Id, cancel), Who, Quiet.Instance, cancel);
            }
        }
    }

    private sealed class Quiet : IProgress<RunProgress>
    {
        public static readonly Quiet Instance = new();

        public void Report(RunProgress value)
        {
        }
    }
}
