using System.Globalization;
using System.Text;
using Bostel.Core;
using Bostel.Data;
using Bostel.Reports;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

/// <summary>Who did what: searched by piece, report, person or word, by days, and saved.</summary>
public static class LogEndpoints
{
    /// <summary>Lines in one answer.</summary>
    private const int Page = 200;

    private const int MostSaved = 100_000;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/log", async (
            BostelContext context, CancellationToken cancel, string? search = null, DateOnly? from = null, DateOnly? to = null,
            int skip = 0) =>
        {
            var found = Found(context, search, from, to);
            return new LogPage(
                await found.CountAsync(cancel),
                [.. (await found.OrderByDescending(a => a.Id).Skip(skip >= 0 ? skip : throw new BadInputException("skip: is 0 or more."))
                    .Take(Page).ToListAsync(cancel)).Select(Views.Of)]);
        }).WithName("log").Needs(Role.Reader);
        api.MapGet("/log/file", async (
            BostelContext context, CancellationToken cancel, string? search = null, DateOnly? from = null, DateOnly? to = null) =>
        {
            var text = new StringBuilder("when (UTC),who,what,on,detail\n");
            await foreach (var a in Found(context, search, from, to).OrderByDescending(a => a.Id).Take(MostSaved).AsAsyncEnumerable()
                .WithCancellation(cancel))
            {
                var when = a.At.UtcDateTime.ToString("s", CultureInfo.InvariantCulture);
                text.AppendJoin(',', new[] { when, a.Who, a.Action, a.Subject, a.Detail }.Select(TableWriters.Cell)).Append('\n');
            }

            return TypedResults.File(Encoding.UTF8.GetBytes(text.ToString()), "text/csv", "log.csv");
        }).WithName("logFile").Needs(Role.Reader);
    }

    /// <param name="to">The last day, the whole of it.</param>
    private static IQueryable<AuditEntry> Found(BostelContext context, string? search, DateOnly? from, DateOnly? to)
    {
        var found = context.Audit.AsNoTracking();
        foreach (var pattern in WordSearch.Patterns(search))
        {
            found = found.Where(a => EF.Functions.ILike(a.Who, pattern, WordSearch.Escape)
                || EF.Functions.ILike(a.Action, pattern, WordSearch.Escape) || EF.Functions.ILike(a.Subject, pattern, WordSearch.Escape)
                || EF.Functions.ILike(a.Detail, pattern, WordSearch.Escape));
        }

        if (from is { } first)
        {
            var start = Midnight(first);
            found = found.Where(a => a.At >= start);
        }

        if (to is { } last && last < DateOnly.MaxValue)
        {
            var end = Midnight(last.AddDays(1));
            found = found.Where(a => a.At < end);
        }

        return found;
    }

    private static DateTimeOffset Midnight(DateOnly day) => new(day.ToDateTime(TimeOnly.MinValue), TimeSpan.Zero);
}
