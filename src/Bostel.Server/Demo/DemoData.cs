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

        log.LogInformation("Making the demo data: translating the nominal and scanning two pieces");
        const string Who = "inspector";
        var plan = InspectionPlan.Parse(await File.ReadAllTextAsync(Path.Combine(folder, "plans", "VH-310.json"), cancel), "VH-310.json");
        var nominal = Path.Combine(folder, "nominal", "VH-310-vent-drive-housing.step");
        var sha = await blobs.SaveAsync(await File.ReadAllBytesAsync(nominal, cancel), cancel);
        var part = await receive.CreatePartAsync("VH-310", "Vent drive housing", "C", plan, Who, cancel);
        await receive.NominalAsync(part.Id, new() { FileSha = sha, FileName = Path.GetFileName(nominal) }, Who, Quiet.Instance, cancel);
        foreach (var serial in (string[])["0007", "0008"])
        {
            var recipe = await File.ReadAllTextAsync(Path.Combine(folder, "recipes", $"VH-310-{serial}.json"), cancel);
            await receive.CaptureAsync(part.Id, new() { Serial = serial, Recipe = recipe }, Who, Quiet.Instance, cancel);
        }

        var finished = await context.Pieces.SingleAsync(p => p.Serial == "0007" && p.PartId == part.Id, cancel);
        await stations.RunPlanAsync(await stations.OpenAsync(finished.Id, cancel), Who, Quiet.Instance, cancel);
        await reports.IssueAsync(await stations.OpenAsync(finished.Id, cancel), Who, Quiet.Instance, cancel);
    }

    private sealed class Quiet : IProgress<RunProgress>
    {
        public static readonly Quiet Instance = new();

        public void Report(RunProgress value)
        {
        }
    }
}
