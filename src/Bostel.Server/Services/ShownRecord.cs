using Bostel.Core.Features;
using Bostel.Core.Plans;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>An outcome as shown: today's, or the last one made, out of date.</summary>
public sealed record Shown<T>(string Key, T Outcome, bool Stale);

/// <summary>One of the plan's further alignments.</summary>
/// <param name="Aligned">Null: not carried out yet, or it determines no pose on this piece.</param>
/// <param name="Stage">With deviations when they were made.</param>
public sealed record ShownAlignment(string Name, AlignedOutcome? Aligned, StageSource? Stage);

/// <summary>A mesh in a pose, with deviations or without: what the stage draws.</summary>
public sealed record StageSource(string PreparedKey, double[]? Transform, string? DeviationsKey);

/// <summary>
/// What of a piece's record is shown. For each station the outcome under today's key when there is one, else the last one made, marked out
/// of date: so an undone change is in date again at once, and nothing is ever called in date but by its key.
/// </summary>
public sealed record ShownRecord(
    Shown<PreparedOutcome>? Prepared, Shown<AlignedOutcome>? Aligned, Shown<ComparedOutcome>? Compared,
    IReadOnlyList<MeasuredFeature> Features, bool FeaturesStale,
    Run? Run, bool RunStale, StageSource? AlignStage, StageSource? CompareStage)
{
    /// <summary>In the plan's own alignment, with deviations: the map may stand in another.</summary>
    public StageSource? OwnStage { get; private init; }

    /// <summary>The plan's further alignments as they came out today.</summary>
    public IReadOnlyList<ShownAlignment> Named { get; private init; } = [];

    /// <param name="keys">Today's; null when the part has no nominal.</param>
    public static async Task<ShownRecord> LoadAsync(BostelContext context, Piece piece, OutcomeKeys? keys, CancellationToken cancel)
    {
        if (piece.Shown is null)
        {
            // Nothing was ever done to this piece, even if the same file was received as another one.
            return new(null, null, null, [], true, null, true, null, null);
        }

        var last = StoredJson.Read<ShownKeys>(piece.Shown);
        var wanted = new[] { keys?.Prepared, keys?.Aligned, keys?.Deviations, keys?.Compared, keys?.Map,
            last.Prepared, last.Aligned, last.Deviations, last.Map, last.Compared }
            .Concat((keys?.Under.Values ?? []).SelectMany(k => new[] { k.Aligned, k.Deviations }))
            .Concat(keys?.Features.Values ?? []).Concat(last.Features).OfType<string>().Distinct().ToArray();
        var found = await context.Outcomes.AsNoTracking().Where(o => wanted.Contains(o.Key)).ToDictionaryAsync(o => o.Key, cancel);
        Outcome? Of(string? today, string? before) =>
            (today is null ? null : found.GetValueOrDefault(today)) ?? (before is null ? null : found.GetValueOrDefault(before));
        Shown<T>? Read<T>(Outcome? row, string? today) => row is null ? null : new(row.Key, StoredJson.Read<T>(row.Body), row.Key != today);

        // What the shown ones rest on may be older than what is shown of the stations before.
        var deviations = Of(keys?.Deviations, last.Deviations);
        var map = Of(keys?.Map, last.Map ?? last.Deviations);
        var aligned = Of(keys?.Aligned, last.Aligned);
        var rests = new[] { deviations?.Before, map?.Before, aligned?.Before }.OfType<string>().Where(k => !found.ContainsKey(k)).ToArray();
        if (rests.Length > 0)
        {
            foreach (var row in await context.Outcomes.AsNoTracking().Where(o => rests.Contains(o.Key)).ToListAsync(cancel))
            {
                found[row.Key] = row;
            }
        }

        StageSource? Stage(Outcome? pose, string? map) =>
            pose is null ? null : new(pose.Before!, StoredJson.Read<AlignedOutcome>(pose.Body).Result.Transform.ToArray(), map);
        StageSource? Compared(Outcome? made) => made is null ? null : Stage(found.GetValueOrDefault(made.Before!), made.Key);
        ShownAlignment Shown(string name, OutcomeKeys under)
        {
            var pose = found.GetValueOrDefault(under.Aligned);
            return new(name, pose is null ? null : StoredJson.Read<AlignedOutcome>(pose.Body),
                Compared(found.GetValueOrDefault(under.Deviations)) ?? Stage(pose, null));
        }

        var featureKeys = keys is not null && keys.Features.Count > 0 && keys.Features.Values.All(found.ContainsKey)
            ? [.. keys.Features.Values]
            : last.Features;
        var run = await RunAsync(context, piece, keys, cancel);
        return new(
            Read<PreparedOutcome>(Of(keys?.Prepared, last.Prepared), keys?.Prepared), Read<AlignedOutcome>(aligned, keys?.Aligned),
            Read<ComparedOutcome>(Of(keys?.Compared, last.Compared), keys?.Compared),
            [.. featureKeys.Where(found.ContainsKey).Select(k => StoredJson.Read<MeasuredFeature>(found[k].Body))],
            keys is null || !featureKeys.SequenceEqual(keys.Features.Values),
            run, run is not null && run.Key != keys?.Evaluated,
            Stage(aligned, null), Compared(map))
        {
            OwnStage = Compared(deviations),
            Named = [.. (keys?.Under ?? new Dictionary<string, OutcomeKeys>()).Select(a => Shown(a.Key, a.Value))],
        };
    }

    private static async Task<Run?> RunAsync(BostelContext context, Piece piece, OutcomeKeys? keys, CancellationToken cancel)
    {
        var today = keys?.Evaluated;
        return await context.Runs.AsNoTracking().Include(r => r.Characteristics)
            .Where(r => (r.PieceId == piece.Id && r.Key == today) || r.Id == piece.RunId)
            .OrderByDescending(r => r.Key == today).FirstOrDefaultAsync(cancel);
    }
}
