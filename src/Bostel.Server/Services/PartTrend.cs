using Bostel.Core.Statistics;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Server.Endpoints;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>How the numbers of a part went over the pieces judged last.</summary>
public sealed class PartTrend(BostelContext context, PlanService plans)
{
    /// <summary>Pieces looked at.</summary>
    private const int Most = 30;

    /// <summary>The characteristics of the newest judged piece, with the same ones of the pieces before it.</summary>
    /// <exception cref="NotFoundException">There is no such part.</exception>
    public async Task<TrendView> OfAsync(Guid partId, CancellationToken cancel)
    {
        var shown = (await plans.GetAsync(partId, cancel)).Plan.Shown;
        var pieces = await context.Pieces.AsNoTracking().Where(p => p.PartId == partId && p.RunId != null)
            .OrderByDescending(p => p.CreatedAt).Take(Most).Include(p => p.Run).ThenInclude(r => r!.Characteristics).ToListAsync(cancel);
        pieces.Reverse();
        var runs = pieces.ConvertAll(p => p.Run!.Characteristics.Select(CharacteristicRows.ResultOf).ToLookup(KeyOf));
        return new(shown, [.. pieces.Select(p => new RecentVerdict(p.Serial, p.Id, p.Run!.Verdict))],
            [.. (runs.LastOrDefault()?.SelectMany(g => g) ?? [])
                .Select(r => (Newest: r, Row: Of(r, [.. runs.Select(run => run[KeyOf(r)].FirstOrDefault())])))
                .OrderByDescending(r => r.Row.Drift?.StandsOut ?? false).ThenByDescending(r => LargestUse(r.Newest.Plan.Limits, r.Row))
                .ThenBy(r => r.Row.No).Select(r => r.Row)]);
    }

    /// <summary>Of its tolerance by any piece; what is missing needs a look before anything that is there.</summary>
    private static double LargestUse(Limits limits, TrendRow row) =>
        row.Values.Max(v => v is null ? 0 : v.Measured is { } measured ? limits.Use(measured) ?? 0 : double.PositiveInfinity);

    /// <summary>
    /// By what a characteristic is known again under another revision of the plan, though its number or its limits are others.
    /// </summary>
    private static (string Kind, string Name, double? Nominal) KeyOf(CharacteristicResult r) => (r.Plan.Kind, r.Plan.Name, r.Nominal);

    private static TrendRow Of(CharacteristicResult newest, CharacteristicResult?[] rows)
    {
        double[] values = [.. rows.Select(r => r?.Measured ?? double.NaN)];
        double[] known = [.. values.Where(double.IsFinite)];
        var limits = newest.Plan.Limits;
        var process = known.Length >= Drift.Fewest && known.Max() > known.Min() && (limits.Lower ?? limits.Upper) is not null
            ? Capability.Of(known, limits.Lower, limits.Upper, 1)
            : null;
        return new(newest.Plan.No, newest.Plan.Name, newest.Unit, newest.Decimals, newest.Nominal, limits.Lower, limits.Upper,
            [.. rows.Select(r => r is null ? null : new TrendValue(r.Measured, r.Uncertainty, r.Verdict))],
            process?.Ppk, Drift.Of(values));
    }
}
