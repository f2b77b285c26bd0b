using Bostel.Core;
using Bostel.Core.Plans;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>Layouts of reports that any part may take: the house's, customers'.</summary>
public sealed class LayoutService(BostelContext context)
{
    private const int Most = 200;

    public async Task<IReadOnlyList<(Layout Kept, ReportPlan Report)>> AllAsync(CancellationToken cancel) =>
        [.. (await context.Layouts.AsNoTracking().OrderBy(l => l.Name).ToListAsync(cancel)).Select(l => (l, ReportOf(l)))];

    /// <summary>The layout that new parts begin with; null: the usual one.</summary>
    public async Task<ReportPlan?> ForNewPartsAsync(CancellationToken cancel) =>
        await context.Layouts.AsNoTracking().SingleOrDefaultAsync(l => l.ForNewParts, cancel) is { } kept ? ReportOf(kept) : null;

    /// <summary>Keeps a layout under a name, in the place of one that has it. Plans that took it before stay as they are.</summary>
    /// <exception cref="BadInputException">The name or the layout is wrong.</exception>
    public async Task KeepAsync(string name, ReportPlan report, bool forNewParts, string who, CancellationToken cancel)
    {
        name = name.Trim();
        if (name.Length is 0 or > Layout.MostName || name.Any(char.IsControl))
        {
            throw new BadInputException($"name: a layout needs a name of at most {Layout.MostName} characters.");
        }

        report.Check("report");
        var body = new InspectionPlan { Part = "layout", Report = report }.ToJson();
        await context.InTransactionAsync(async () =>
        {
            if (forNewParts)
            {
                await context.Layouts.Where(l => l.ForNewParts).ExecuteUpdateAsync(
                    s => s.SetProperty(l => l.ForNewParts, false), cancel);
            }

            var kept = await context.Layouts.SingleOrDefaultAsync(l => l.Name == name, cancel);
            if (kept is null)
            {
                if (await context.Layouts.CountAsync(cancel) >= Most)
                {
                    throw new BadInputException($"At most {Most} layouts are kept.");
                }

                context.Layouts.Add(kept = new() { Name = name, Body = body, ChangedBy = who });
            }

            (kept.Body, kept.ForNewParts, kept.ChangedBy, kept.ChangedAt) = (body, forNewParts, who, DateTimeOffset.UtcNow);
            context.Record(who, "kept a layout", $"layout {name}", forNewParts ? "new parts begin with it" : "");
        }, cancel);
    }

    /// <exception cref="NotFoundException">There is none of that name.</exception>
    public async Task RemoveAsync(string name, string who, CancellationToken cancel)
    {
        var kept = await context.Layouts.SingleOrDefaultAsync(l => l.Name == name, cancel)
            ?? throw new NotFoundException($"There is no layout '{name}'.");
        context.Layouts.Remove(kept);
        context.Record(who, "removed a layout", $"layout {name}");
        await context.SaveChangesAsync(cancel);
    }

    private static ReportPlan ReportOf(Layout kept) => InspectionPlan.Parse(kept.Body, $"layout {kept.Name}").Layout;
}
