using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Bostel.Core.Plans;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Data.Register;

/// <summary>Something in the register that is not as it was entered.</summary>
/// <param name="Entry">Its number; null: it concerns none.</param>
public sealed record RegisterFault(int? Entry, string? Report, string What);

/// <summary>Adds to the register's chain, and goes through it.</summary>
public static class RegisterChain
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    /// <summary>
    /// Adds an entry in the transaction that is open; the counter's row is held until it ends, so that none comes between.
    /// </summary>
    public static async Task<RegisterEntry> AppendAsync(
        BostelContext context, RegisterSigner signer, RegisterEvent what, Report report, Piece piece, string who, string? why = null,
        CancellationToken cancel = default)
    {
        var counter = await LockAsync(context, cancel).ConfigureAwait(false);
        var last = context.RegisterEntries.Local.MaxBy(e => e.Number)
            ?? await context.RegisterEntries.AsNoTracking().OrderByDescending(e => e.Number).FirstOrDefaultAsync(cancel)
                .ConfigureAwait(false);
        if (!await context.SigningKeys.AnyAsync(k => k.Id == signer.KeyId, cancel).ConfigureAwait(false)
            && context.SigningKeys.Local.All(k => k.Id != signer.KeyId))
        {
            context.SigningKeys.Add(new() { Id = signer.KeyId, PublicKey = signer.PublicKey, CreatedAt = DateTimeOffset.UtcNow });
        }

        // Whole milliseconds: the database keeps no more than microseconds, and what is hashed must come back as it was.
        var at = DateTimeOffset.FromUnixTimeMilliseconds(DateTimeOffset.UtcNow.ToUnixTimeMilliseconds());
        var entry = new RegisterEntry
        {
            Number = counter.Next++,
            Event = what,
            Report = report.Number,
            Who = who,
            At = at,
            Content = what == RegisterEvent.Issued ? ContentOf(report, piece) : JsonSerializer.Serialize(new { why }, Json),
            Before = last?.Hash ?? "",
            Hash = "",
            KeyId = signer.KeyId,
            Signature = "",
        };
        entry.Hash = HashOf(entry);
        entry.Signature = signer.Sign(entry.Hash);
        context.RegisterEntries.Add(entry);
        return entry;
    }

    /// <summary>Until the transaction that is open ends nobody else enters anything.</summary>
    public static async Task<Counter> LockAsync(BostelContext context, CancellationToken cancel = default) =>
        (await context.Counters.FromSql($"""SELECT * FROM "Counters" WHERE "Name" = {Counter.Register} FOR UPDATE""")
            .ToListAsync(cancel).ConfigureAwait(false)).Single();

    /// <summary>
    /// The report that has a file, with its piece and part; null: none was issued. Where several have the very same file, the
    /// newest that was neither withdrawn nor superseded.
    /// </summary>
    /// <param name="sha">SHA-256 of the file.</param>
    public static Task<Report?> FindAsync(BostelContext context, string sha, CancellationToken cancel = default) =>
        context.Reports.AsNoTracking().Include(r => r.Piece).ThenInclude(p => p!.Part)
            .Where(r => r.PdfSha == sha || r.CsvSha == sha || r.XlsxSha == sha || r.HtmlSha == sha || r.JsonSha == sha || r.QifSha == sha
                || r.NoteSha == sha || r.NotePdfSha == sha)
            .OrderBy(r => r.WithdrawnAt != null || r.SupersededBy != null).ThenByDescending(r => r.IssuedAt).FirstOrDefaultAsync(cancel);

    /// <summary>Goes through all entries, the reports they tell of and their files.</summary>
    /// <param name="content">Of a stored file by its SHA-256, hashed anew; null: it is gone.</param>
    public static async Task<IReadOnlyList<RegisterFault>> FaultsAsync(
        BostelContext context, Func<string, Task<string?>> content, CancellationToken cancel = default)
    {
        var faults = new List<RegisterFault>();
        var keys = await context.SigningKeys.AsNoTracking().ToDictionaryAsync(k => k.Id, k => k.PublicKey, cancel).ConfigureAwait(false);
        var entries = await context.RegisterEntries.AsNoTracking().OrderBy(e => e.Number).ToListAsync(cancel).ConfigureAwait(false);
        var (number, before) = (0, "");
        foreach (var entry in entries)
        {
            void Fault(string what) => faults.Add(new(entry.Number, entry.Report, what));
            if (entry.Number != number + 1)
            {
                Fault($"entries {number + 1} to {entry.Number - 1} are missing");
            }
            else if (entry.Before != before)
            {
                Fault("does not follow from the entry before it");
            }

            if (HashOf(entry) != entry.Hash)
            {
                Fault("was changed after it was entered");
            }

            if (!keys.TryGetValue(entry.KeyId, out var key) || RegisterSigner.IdOf(key) != entry.KeyId
                || !RegisterSigner.Matches(key, entry.Hash, entry.Signature))
            {
                Fault("its signature is not that of a known key");
            }

            (number, before) = (entry.Number, entry.Hash);
        }

        var next = await context.Counters.AsNoTracking().Where(c => c.Name == Counter.Register).Select(c => c.Next).SingleAsync(cancel)
            .ConfigureAwait(false);
        if (next != number + 1)
        {
            faults.Add(new(null, null, $"the register counts {next - 1} entries, {number} are there"));
        }

        var reports = await context.Reports.AsNoTracking().Include(r => r.Piece).ThenInclude(p => p!.Part).OrderBy(r => r.IssuedAt)
            .ToListAsync(cancel).ConfigureAwait(false);
        foreach (var report in reports)
        {
            faults.AddRange(await OfReportAsync(report, [.. entries.Where(e => e.Report == report.Number)], content).ConfigureAwait(false));
        }

        foreach (var gone in entries.Select(e => e.Report).Distinct().Except(reports.Select(r => r.Number)))
        {
            faults.Add(new(null, gone, "is in the register, and is gone"));
        }

        return faults;
    }

    /// <summary>SHA-256 of a stored file as it is now; null: it is gone.</summary>
    public static async Task<string?> HashOfFileAsync(BostelContext context, string sha, CancellationToken cancel = default)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var any = false;
        await foreach (var chunk in context.BlobChunks.AsNoTracking().Where(c => c.Sha == sha).OrderBy(c => c.Index).Select(c => c.Data)
            .AsAsyncEnumerable().WithCancellation(cancel).ConfigureAwait(false))
        {
            hash.AppendData(chunk);
            any = true;
        }

        return any ? Convert.ToHexStringLower(hash.GetHashAndReset()) : null;
    }

    private static async Task<List<RegisterFault>> OfReportAsync(
        Report report, RegisterEntry[] entries, Func<string, Task<string?>> content)
    {
        var faults = new List<RegisterFault>();
        void Fault(string what) => faults.Add(new(null, report.Number, what));
        if (entries.Count(e => e.Event == RegisterEvent.Issued) != 1)
        {
            Fault("was not entered once when it was issued");
        }
        else if (entries.First(e => e.Event == RegisterEvent.Issued).Content != ContentOf(report, report.Piece!))
        {
            Fault("is not what was entered when it was issued");
        }

        foreach (var (what, is_) in ((RegisterEvent, bool)[])[
            (RegisterEvent.Withdrawn, report.WithdrawnAt is not null), (RegisterEvent.Superseded, report.SupersededBy is not null),
            (RegisterEvent.Countersigned, report.CountersignedAt is not null)])
        {
            if (entries.Any(e => e.Event == what) != is_)
            {
                Fault($"{(is_ ? "is" : "is not")} marked as {what.ToString().ToLowerInvariant()}, and the register says otherwise");
            }
        }

        foreach (var (format, sha) in report.Files)
        {
            var now = await content(sha).ConfigureAwait(false);
            if (now != sha)
            {
                Fault(now is null ? $"its {format.NameOf()} is gone" : $"its {format.NameOf()} was changed");
            }
        }

        return faults;
    }

    private static string HashOf(RegisterEntry e) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(string.Join('\n',
        e.Number.ToString(CultureInfo.InvariantCulture), e.Event.ToString(), e.Report, e.Who,
        e.At.ToUnixTimeMilliseconds().ToString(CultureInfo.InvariantCulture), e.Content, e.Before))));

    /// <summary>What is entered of a report when it is issued.</summary>
    private static string ContentOf(Report r, Piece piece) => JsonSerializer.Serialize(new
    {
        part = piece.Part!.Number,
        revision = piece.Part.Revision,
        piece = piece.Serial,
        r.Key,
        plan = r.PlanNumber,
        verdict = r.Verdict.ToString(),
        r.IssuedBy,
        issuedAt = r.IssuedAt.ToUnixTimeMilliseconds(),
        r.NeedsCountersignature,
        files = r.Files.ToDictionary(f => f.Format.NameOf(), f => f.Sha),
    }, Json);
}
