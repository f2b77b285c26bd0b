using System.Security.Cryptography;
using Bostel.Data;
using Bostel.Data.Register;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

/// <summary>Whether files are what was issued, and whether the register is as it was entered.</summary>
public static class RegisterEndpoints
{
    private const long MostFile = 200L << 20;
    private const int MostEntries = 1000;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/register/verification", async (Stream body, BostelContext context, CancellationToken cancel) =>
        {
            var sha = Convert.ToHexStringLower(await SHA256.HashDataAsync(body, cancel));
            var report = await RegisterChain.FindAsync(context, sha, cancel);
            return report is null
                ? new VerificationView(sha, null, null, null)
                : new VerificationView(
                    sha, report.Files.First(f => f.Sha == sha).Format, Views.Of(report), (await ViewsAsync(
                        context, context.RegisterEntries.Where(e => e.Report == report.Number && e.Event == RegisterEvent.Issued),
                        cancel)).FirstOrDefault());
        }).WithName("verifyFile").Needs(Role.Reader)
            .WithMetadata(new RequestSizeLimitAttribute(MostFile));
        api.MapGet("/reports/{number}/record", async (string number, BostelContext context, CancellationToken cancel) =>
        {
            var report = await context.Reports.AsNoTracking().Include(r => r.Piece).ThenInclude(p => p!.Part)
                .SingleOrDefaultAsync(r => r.Number == number, cancel)
                ?? throw new NotFoundException($"There is no report {number}.");
            return new ReportRecordView(Views.Of(report), await ViewsAsync(
                context, context.RegisterEntries.Where(e => e.Report == number).OrderBy(e => e.Number), cancel));
        }).WithName("reportRecord").Needs(Role.Reader);
        api.MapGet("/register/check", async (BostelContext context, CancellationToken cancel) => new RegisterCheckView(
            await context.RegisterEntries.CountAsync(cancel),
            await RegisterChain.FaultsAsync(context, sha => RegisterChain.HashOfFileAsync(context, sha, cancel), cancel)))
            .WithName("checkRegister").Needs(Role.Reader);
        api.MapGet("/register", async (BostelContext context, CancellationToken cancel) =>
            await ViewsAsync(context, context.RegisterEntries.OrderByDescending(e => e.Number).Take(MostEntries), cancel))
            .WithName("register").Needs(Role.Reader);
    }

    /// <summary>Entries with the keys by which their signatures are checked.</summary>
    private static async Task<IReadOnlyList<RegisterEntryView>> ViewsAsync(
        BostelContext context, IQueryable<RegisterEntry> entries, CancellationToken cancel)
    {
        var keys = await context.SigningKeys.AsNoTracking().ToDictionaryAsync(k => k.Id, k => k.PublicKey, cancel);
        return [.. (await entries.AsNoTracking().ToListAsync(cancel)).Select(e => Views.Of(e, keys.GetValueOrDefault(e.KeyId)))];
    }
}
