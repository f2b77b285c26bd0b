using System.Collections.Concurrent;
using System.Diagnostics.CodeAnalysis;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>What is kept of a prepared scan: what was done, and all it takes to do it again.</summary>
public sealed record PreparedOutcome(PreparationRecord Record, ScanSource Scan, NominalSource Nominal, IReadOnlyList<PrepareStep> Steps);

/// <summary>
/// The outcomes of one replay: those the database has, and those made now, which <see cref="SaveAsync"/> puts there station by station.
/// Safe for concurrent use while replaying.
/// </summary>
public sealed class StoredOutcomes : IOutcomeStore
{
    private readonly Dictionary<string, Outcome> _known;
    private readonly IReadOnlyDictionary<string, string?> _before;
    private readonly Func<PreparationRecord, PreparedOutcome> _withSource;
    private readonly Func<string, string, DeviationMap> _deviations;
    private readonly ConcurrentDictionary<string, object> _made = new();
    private readonly ConcurrentDictionary<string, object> _fresh = new();

    private StoredOutcomes(Dictionary<string, Outcome> known, Workpiece w, MeshCache meshes)
    {
        (_known, _before) = (known, w.Keys.All);
        _withSource = record => new(record, w.Scan, w.NominalSource, w.Plan.Prepare.Steps);

        // Called on a job's own thread, never on one that serves requests.
        _deviations = (key, sha) => meshes.DeviationsAsync(key, sha).GetAwaiter().GetResult();
    }

    public static async Task<StoredOutcomes> LoadAsync(BostelContext context, Workpiece w, MeshCache meshes, CancellationToken cancel)
    {
        var all = w.Keys.All.Keys.ToArray();
        var known = await context.Outcomes.AsNoTracking().Where(o => all.Contains(o.Key)).ToDictionaryAsync(o => o.Key, cancel);
        return new(known, w, meshes);
    }

    /// <summary>Whether something was made that is not kept yet.</summary>
    public bool MadeAny => !_fresh.IsEmpty;

    /// <summary>Whether an outcome was made that is not kept yet.</summary>
    public bool Made(string key) => _fresh.ContainsKey(key);

    /// <summary>How many outcomes of a kind were made that are not kept yet.</summary>
    public int MadeOf<T>() => _fresh.Values.Count(m => m is T);

    public bool TryGet<T>(string key, [NotNullWhen(true)] out T? outcome)
        where T : class
    {
        outcome = _made.TryGetValue(key, out var made) ? (T)made : _known.TryGetValue(key, out var row) ? Read<T>(row) : null;
        return outcome is not null;
    }

    public void Put<T>(string key, T outcome)
        where T : class => _made[key] = _fresh[key] = outcome;

    /// <summary>What was made is in the record now.</summary>
    public void Kept() => _fresh.Clear();

    /// <summary>Puts all that was made into the record. What another process made meanwhile under the same key is the same.</summary>
    public async Task SaveAsync(BostelContext context, CancellationToken cancel)
    {
        var now = DateTimeOffset.UtcNow;
        foreach (var (key, outcome) in _fresh)
        {
            var before = _before[key];
            var (kind, body, sha) = outcome switch
            {
                PreparationRecord p => (OutcomeKind.Prepared, StoredJson.Write(_withSource(p)), null),
                AlignedOutcome a => (OutcomeKind.Aligned, StoredJson.Write(a), null),
                DeviationMap m => (OutcomeKind.Deviations, "{}", await BlobStore.AddAsync(context, DeviationCodec.Encode(m), cancel)),
                ComparedOutcome c => (OutcomeKind.Compared, StoredJson.Write(c), null),
                MeasuredFeature f => (OutcomeKind.Feature, StoredJson.Write(f), null),
                CharacteristicValue v => (OutcomeKind.Value, StoredJson.Write(v), (string?)null),
                OtherValues o => (OutcomeKind.OtherWays, StoredJson.Write(o), (string?)null),
                _ => throw new InvalidOperationException($"{outcome.GetType().Name} is no outcome of a station."),
            };
            await context.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO "Outcomes" ("Key", "Kind", "Before", "Body", "BlobSha", "CreatedAt")
                VALUES ({key}, {kind.ToString()}, {before}, {body}, {sha}, {now}) ON CONFLICT DO NOTHING
                """, cancel);
        }
    }

    private T Read<T>(Outcome row)
        where T : class => typeof(T) == typeof(DeviationMap)
            ? (T)(object)_deviations(row.Key, row.BlobSha!)
            : typeof(T) == typeof(PreparationRecord)
                ? (T)(object)StoredJson.Read<PreparedOutcome>(row.Body).Record
                : StoredJson.Read<T>(row.Body);
}
