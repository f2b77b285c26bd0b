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

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/register/verification", async (Stream body, BostelContext context, CancellationToken cancel) =>
        {
            var sha = Convert.ToHexStringLower(await SHA256.HashDataAsync(body, cancel));
            var report = await RegisterChain.FindAsync(context, sha, cancel);
            var entry = report is null ? null : await context.RegisterEntries.AsNoTracking()
                .FirstOrDefaultAsync(e => e.Report == report.Number && e.Event == RegisterEvent.Issued, cancel);
            var key = entry is null ? null : await context.SigningKeys.AsNoTracking().Where(k => k.Id == entry.KeyId)
                .Select(k => k.PublicKey).SingleOrDefaultAsync(cancel);
            return new VerificationView(
                sha, report?.Files.First(f => f.Sha == sha).Format, report is null ? null : Views.Of(report),
                entry is null ? null : Views.Of(entry, key));
        }).WithName("verifyFile").Needs(Role.Reader)
            .WithMetadata(new RequestSizeLimitAttribute(MostFile));
        api.MapGet("/reports/{number}/record", async (string number, BostelContext context, CancellationToken cancel) =>
        {
            var report = await context.Reports.AsNoTracking().Include(r => r.Piece).ThenInclude(p => p!.Part)
                .SingleOrDefaultAsync(r => r.Number == number, cancel)
                ?? throw new NotFoundException($"There is no report {number}.");
            var keys = await context.SigningKeys.AsNoTracking().ToDictionaryAsync(k => k.Id, k => k.PublicKey, cancel);
            var entries = await context.RegisterEntries.AsNoTracking().Where(e => e.Report == number).OrderBy(e => e.Number)
                .ToListAsync(cancel);
            return new ReportRecordView(Views.Of(report), [.. entries.Select(e => Views.Of(e, keys.GetValueOrDefault(e.KeyId)))]);
        }).WithName("reportRecord").Needs(Role.Reader);
        api.MapGet("/register/check", async (BostelContext context, CancellationToken cancel) => new RegisterCheckView(
            await context.RegisterEntries.CountAsync(cancel),
            await RegisterChain.FaultsAsync(context, sha => RegisterChain.HashOfFileAsync(context, sha, cancel), cancel)))
            .WithName("checkRegister").Needs(Role.Reader);
        api.MapGet("/register", async (BostelContext context, CancellationToken cancel) =>
        {
            var keys = await context.SigningKeys.AsNoTracking().ToDictionaryAsync(k => k.Id, k => k.PublicKey, cancel);
            return (await context.RegisterEntries.AsNoTracking().OrderByDescending(e => e.Number).Take(1000).ToListAsync(cancel))
                .Select(e => Views.Of(e, keys.GetValueOrDefault(e.KeyId))).ToList();
        }).WithName("register").Needs(Role.Reader);
    }
}
