using System.Globalization;
using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>The stations that a plan is replayed up to.</summary>
public enum Station
{
    Prepare,
    Align,
    Compare,
    Measure,
    Evaluate,
}

/// <summary>
/// Replays the plan on a piece up to a station and keeps what came of it. Only what is out of date is done; what has today's key is taken
/// as it is.
/// </summary>
public sealed class StationService(BostelContext context, MeshCache meshes, PlanService plans)
{
    /// <exception cref="BadInputException">There is no such piece, or its part has no nominal.</exception>
    public async Task<Workpiece> OpenAsync(Guid pieceId, CancellationToken cancel = default)
    {
        var piece = await context.Pieces.AsNoTracking().Include(p => p.Part).ThenInclude(p => p!.Nominal)
            .SingleOrDefaultAsync(p => p.Id == pieceId, cancel)
            ?? throw new NotFoundException("There is no such piece.");
        var nominal = piece.Part!.Nominal
            ?? throw new BadInputException($"Part {piece.Part.Number} has no nominal yet: drop its CAD file first.");
        var stored = await plans.GetAsync(piece.PartId, cancel);
        return new(piece, nominal, stored.Plan, stored.Number);
    }

    /// <summary>Whether nothing is left to do up to the last station but judging, which takes milliseconds.</summary>
    public async Task<bool> OnlyJudgingIsLeftAsync(Workpiece w, CancellationToken cancel)
    {
        var all = w.Keys.Judging.Distinct().ToArray();
        return await context.Outcomes.CountAsync(o => all.Contains(o.Key), cancel) == all.Length;
    }

    /// <summary>Replays the plan up to a station.</summary>
    /// <param name="stillMine">Asked in the transaction that keeps the outcome: false when the work was taken from this process
    /// meanwhile.</param>
    public async Task RunAsync(
        Workpiece w, Station upTo, string who, IProgress<RunProgress> progress, Func<Task<bool>>? stillMine = null,
        CancellationToken cancel = default)
    {
        w.RequireReadable();
        var outcomes = await StoredOutcomes.LoadAsync(context, w, meshes, cancel);
        var replay = new Replay(
            w.Plan, w.Keys, outcomes, () => meshes.RunnerAsync(w.Nominal.ModelSha, cancel).GetAwaiter().GetResult(),
            () => meshes.PreparedAsync(w.Scan, w.Nominal.ModelSha, w.Plan.Prepare.Steps, new Slice(progress, 0, 0.05), cancel).GetAwaiter()
                .GetResult());

        // Each station is kept when it is done: what a killed process had finished, its successor finds.
        foreach (var station in Enum.GetValues<Station>().Where(s => s <= upTo))
        {
            var rows = await Task.Run(() => Carry(replay, station, progress, cancel), cancel);
            if (station < upTo && !outcomes.MadeAny)
            {
                continue;
            }

            await context.InTransactionAsync(async () =>
            {
                await Transactions.RequireAsync(stillMine);
                await outcomes.SaveAsync(context, cancel);
                await KeepAsync(w, station, rows, outcomes, who, cancel);
            }, cancel);
            outcomes.Kept();
        }
    }

    /// <summary>Tries another way of aligning on a piece; nothing is kept.</summary>
    /// <param name="name">Of the plan's alignment that would be held this way; null: its own.</param>
    /// <param name="verdicts">Whether to judge the plan in that pose too, which takes longer.</param>
    /// <exception cref="BadInputException">The way lacks something, or does not determine a pose of this scan.</exception>
    public async Task<(AlignmentTrial Trial, IReadOnlyList<VerdictChange> Changed)> TryAlignAsync(
        Workpiece w, string? name, AlignPlan align, bool verdicts, CancellationToken cancel)
    {
        w.RequireReadable();
        var plan = w.Plan.Held(name, align);
        plan.Check();
        var runner = await meshes.RunnerAsync(w.Nominal.ModelSha, cancel);
        plan.CheckFaces(runner.Nominal);
        var scan = await meshes.PreparedAsync(w.Scan, w.Nominal.ModelSha, w.Plan.Prepare.Steps, null, cancel);
        var shown = await ShownRecord.LoadAsync(context, w.Piece, w.Keys, cancel);
        var key = new Workpiece(w.Piece, w.Nominal, plan, w.PlanNumber).Keys.In(name).Aligned;
        return await Task.Run(() =>
        {
            // Asked for twice: first for the pose, then for the verdicts in it.
            var aligned = meshes.Small(
                $"aligned/{key}", () => new AlignedOutcome(align, runner.Align(scan, plan.Under(name), null, cancel)));
            var present = (name is null ? null : shown.Named.FirstOrDefault(n => n.Name == name)?.Aligned) ?? shown.Aligned?.Outcome;
            var trial = AlignmentTrial.Of(aligned, present?.Result.Transform, runner.Nominal.Mesh.Bounds);
            var rows = shown.Run?.Characteristics;
            return (trial, verdicts && rows is not null && trial.Aligned.Result.Resembles
                ? AlignmentTrial.Verdicts(rows.Select(r => (r.No, r.Verdict)), runner.EvaluateIn(name, trial.Aligned, scan, plan, cancel))
                : []);
        }, cancel);
    }

    /// <summary>The plan's further alignments as they are today, each against the plan's own.</summary>
    /// <exception cref="BadInputException">The piece was never aligned.</exception>
    public async Task<IReadOnlyList<NamedOutcome>> NamedAsync(Workpiece w, CancellationToken cancel)
    {
        var shown = await ShownRecord.LoadAsync(context, w.Piece, w.Keys, cancel);
        var own = shown.Aligned?.Outcome ?? throw new BadInputException($"Piece {w.Piece.Serial} is not aligned yet.");
        var nominal = (await meshes.RunnerAsync(w.Nominal.ModelSha, cancel)).Nominal;
        return [.. shown.Named.Select(n => NamedOutcome.Of(n.Name, n.Aligned, own, nominal))];
    }

    /// <summary>The prepared scan that an outcome was made from, made again when it is no longer at hand.</summary>
    /// <exception cref="NotFoundException">There is no such outcome.</exception>
    public async Task<PreparedScan> PreparedAsync(string preparedKey, CancellationToken cancel)
    {
        var made = StoredJson.Read<PreparedOutcome>((await OutcomeAsync(preparedKey, cancel)).Body);
        return await meshes.PreparedAsync(made.Scan, made.Nominal.ModelSha, made.Steps, null, cancel);
    }

    /// <summary>An aligned scan with its deviations as they were made, and the nominal it lies on.</summary>
    /// <exception cref="NotFoundException">There is no such outcome.</exception>
    public async Task<(AlignedScan Scan, AlignedOutcome Aligned, InspectionRunner Runner)> AlignedAsync(
        string deviationsKey, CancellationToken cancel)
    {
        var deviations = await OutcomeAsync(deviationsKey, cancel);
        var alignedRow = await OutcomeAsync(deviations.Before!, cancel);
        var aligned = StoredJson.Read<AlignedOutcome>(alignedRow.Body);
        var prepared = StoredJson.Read<PreparedOutcome>((await OutcomeAsync(alignedRow.Before!, cancel)).Body);
        var scan = await meshes.PreparedAsync(prepared.Scan, prepared.Nominal.ModelSha, prepared.Steps, null, cancel);
        var map = await meshes.DeviationsAsync(deviationsKey, deviations.BlobSha!, cancel);
        return (new(scan.Mesh, aligned.Result.Transform, map), aligned, await meshes.RunnerAsync(prepared.Nominal.ModelSha, cancel));
    }

    /// <summary>A piece as it was compared in an alignment of its plan, null being the plan's own, to be measured on.</summary>
    /// <exception cref="BadInputException">It is not compared in it, or does not resemble its nominal.</exception>
    public async Task<(AlignedScan Scan, InspectionRunner Runner)> MeasurableAsync(
        Workpiece w, string? alignment, CancellationToken cancel)
    {
        var (scan, aligned, runner) = await AlignedAsync(await DeviationsKeyAsync(w, alignment, cancel), cancel);
        return aligned.Result.Resembles ? (scan, runner) : throw new BadInputException(InspectionRunner.Unlike(aligned.Result));
    }

    /// <summary>The alignment that is shown of a piece, with its key and the scan that it moves.</summary>
    /// <exception cref="BadInputException">The piece was never aligned.</exception>
    public async Task<(Shown<AlignedOutcome> Aligned, PreparedScan Scan, InspectionRunner Runner)> ShownAlignmentAsync(
        Workpiece w, CancellationToken cancel)
    {
        var shown = await ShownRecord.LoadAsync(context, w.Piece, w.Keys, cancel);
        return shown is { Aligned: { } aligned, AlignStage: { } stage }
            ? (aligned, await PreparedAsync(stage.PreparedKey, cancel), await meshes.RunnerAsync(w.Nominal.ModelSha, cancel))
            : throw new BadInputException($"Piece {w.Piece.Serial} is not aligned yet.");
    }

    /// <summary>What the map shows of a compared piece.</summary>
    /// <exception cref="BadInputException">The piece was never compared.</exception>
    public async Task<string> MapKeyAsync(Workpiece w, CancellationToken cancel) =>
        (await ShownRecord.LoadAsync(context, w.Piece, w.Keys, cancel)).CompareStage?.DeviationsKey ?? throw NotCompared(w, null);

    /// <summary>The deviations of a piece in an alignment of its plan: where features are measured.</summary>
    /// <param name="alignment">Null: in the plan's own.</param>
    /// <exception cref="BadInputException">The piece was never compared in it.</exception>
    public async Task<string> DeviationsKeyAsync(Workpiece w, string? alignment, CancellationToken cancel) =>
        await KnownDeviationsAsync(w, alignment, cancel) ?? throw NotCompared(w, alignment);

    /// <summary>The same; null: the piece was never compared in it.</summary>
    private async Task<string?> KnownDeviationsAsync(Workpiece w, string? alignment, CancellationToken cancel)
    {
        _ = w.Plan.AlignOf(alignment);
        var shown = await ShownRecord.LoadAsync(context, w.Piece, w.Keys, cancel);
        return (alignment is null ? shown.OwnStage : shown.Named.FirstOrDefault(n => n.Name == alignment)?.Stage)?.DeviationsKey;
    }

    /// <summary>How firm the verdict of a characteristic is on an evaluated piece.</summary>
    /// <exception cref="BadInputException">It was never compared, or the plan has no such characteristic.</exception>
    public async Task<IReadOnlyList<OtherWay>> OtherWaysAsync(Workpiece w, int no, CancellationToken cancel)
    {
        if (w.Keys.OtherWays.TryGetValue(no, out var key)
            && await context.Outcomes.AsNoTracking().SingleOrDefaultAsync(o => o.Key == key, cancel) is { } kept)
        {
            var value = StoredJson.Read<CharacteristicValue>((await OutcomeAsync(w.Keys.Values[no], cancel)).Body);
            var row = w.Plan.Characteristics.Single(c => c.No == no);
            var said = Evaluation.Judge(row, value, w.Plan.Decision, w.Plan.Device, w.Plan.Temperature);
            return OtherWays.Judged(said, StoredJson.Read<OtherValues>(kept.Body), w.Plan);
        }

        var own = w.Plan.Characteristics.FirstOrDefault(c => c.No == no)?.Alignment;
        var (scan, _, runner) = await AlignedAsync(await DeviationsKeyAsync(w, own, cancel), cancel);
        var scans = new Dictionary<string, MeasuredScan> { [own ?? ""] = new(scan, runner.Nominal) };
        foreach (var name in w.Plan.Alignments.Select(a => (string?)a.Name).Append(null).Where(n => n != own))
        {
            if (await KnownDeviationsAsync(w, name, cancel) is { } there)
            {
                scans[name ?? ""] = new((await AlignedAsync(there, cancel)).Scan, runner.Nominal);
            }
        }

        return await Task.Run(() => new OtherWays(w.Plan, runner, name => scans.GetValueOrDefault(name ?? "")).Of(no, cancel), cancel);
    }

    /// <summary>A compared piece cut in one plane, in the alignment of its map.</summary>
    /// <param name="parts">Whether lines and arcs are sought, too.</param>
    /// <exception cref="BadInputException">It was never compared, or the plane does not cut the nominal.</exception>
    public async Task<SectionSheet> SectionAsync(Workpiece w, SectionPlan section, bool parts, CancellationToken cancel)
    {
        var (scan, _, runner) = await AlignedAsync(await MapKeyAsync(w, cancel), cancel);
        return await Task.Run(() => runner.Section(section, scan, w.Plan, parts), cancel);
    }

    /// <summary>A map of a compared piece, in the alignment of the plan's comparison.</summary>
    /// <exception cref="BadInputException">The piece was never compared, or does not have the map.</exception>
    public async Task<PieceMap> MapAsync(Workpiece w, MapPlan map, IProgress<RunProgress>? progress, CancellationToken cancel)
    {
        var key = await MapKeyAsync(w, cancel);
        var (scan, _, runner) = await AlignedAsync(key, cancel);
        var beside = await BesideAsync(w, [map], cancel);
        return await meshes.MapAsync(
            $"{key}/{w.Piece.PartId}/{w.PlanNumber}/{await OtherKeyAsync(w, map, cancel)}", map,
            m => runner.Map(m, scan, beside, w.Plan, progress, cancel), cancel);
    }

    /// <summary>What maps of a piece rest on beside its scan.</summary>
    public async Task<BesideScan> BesideAsync(Workpiece w, IReadOnlyList<MapPlan> maps, CancellationToken cancel)
    {
        var others = new Dictionary<string, AlignedScan>();
        foreach (var serial in maps.OfType<OtherPieceMap>().Select(m => m.Piece).Distinct())
        {
            if (await OtherAsync(w, serial, cancel) is { } other)
            {
                others[serial] = (await AlignedAsync(await MapKeyAsync(other, cancel), cancel)).Scan;
            }
        }

        return new(() => meshes.ScanAsync(w.Scan, cancel).GetAwaiter().GetResult(), serial => others.GetValueOrDefault(serial)
            ?? throw new BadInputException($"Part {w.Piece.Part!.Number} has no compared piece {serial}."));
    }

    /// <summary>A compared piece of the same part; null: there is none of this serial number.</summary>
    private async Task<Workpiece?> OtherAsync(Workpiece w, string serial, CancellationToken cancel)
    {
        var id = await context.Pieces.Where(p => p.PartId == w.Piece.PartId && p.Serial == serial).Select(p => (Guid?)p.Id)
            .SingleOrDefaultAsync(cancel);
        var other = id is { } there ? await OpenAsync(there, cancel) : null;
        return other is not null && (await ShownRecord.LoadAsync(context, other.Piece, other.Keys, cancel)).CompareStage is not null
            ? other : null;
    }

    private async Task<string> OtherKeyAsync(Workpiece w, MapPlan map, CancellationToken cancel) =>
        map is OtherPieceMap { Piece: var serial } && await OtherAsync(w, serial, cancel) is { } other
            ? await MapKeyAsync(other, cancel) : "";

    private static BadInputException NotCompared(Workpiece w, string? alignment) => new(alignment is null
        ? $"Piece {w.Piece.Serial} is not compared yet: align and compare it first."
        : $"Piece {w.Piece.Serial} is not compared in alignment '{alignment}' yet: align and compare it first.");

    private async Task<Outcome> OutcomeAsync(string key, CancellationToken cancel) =>
        await context.Outcomes.AsNoTracking().SingleOrDefaultAsync(o => o.Key == key, cancel)
            ?? throw new NotFoundException("There is no such outcome.");

    /// <summary>Carries one station out, those before it being done; the rows of the last.</summary>
    private static IReadOnlyList<CharacteristicResult>? Carry(
        Replay replay, Station station, IProgress<RunProgress> progress, CancellationToken cancel)
    {
        switch (station)
        {
            case Station.Prepare:
                replay.Prepared(progress);
                return null;
            case Station.Align:
                replay.Aligned(progress, cancel);
                replay.Named(progress, cancel);
                return null;
            case Station.Compare:
                replay.Mapped(progress, cancel);
                replay.Compared(progress, cancel);
                return null;
            case Station.Measure:
                replay.Measured(progress, cancel);
                return null;
            default:
                return replay.Evaluated(progress, cancel);
        }
    }

    private async Task KeepAsync(
        Workpiece w, Station upTo, IReadOnlyList<CharacteristicResult>? rows, StoredOutcomes outcomes, string who, CancellationToken cancel)
    {
        var piece = await context.Pieces.SingleAsync(p => p.Id == w.Piece.Id, cancel);
        var before = piece.Shown is null ? new ShownKeys() : StoredJson.Read<ShownKeys>(piece.Shown);
        var resembles = upTo < Station.Align || !outcomes.TryGet<AlignedOutcome>(w.Keys.Aligned, out var aligned)
            || aligned.Result.Resembles;
        piece.Shown = StoredJson.Write(new ShownKeys
        {
            Prepared = w.Keys.Prepared,
            Aligned = upTo >= Station.Align ? w.Keys.Aligned : before.Aligned,
            Deviations = upTo >= Station.Compare ? w.Keys.Deviations : before.Deviations,
            Map = upTo >= Station.Compare ? w.Keys.Map : before.Map,
            Compared = upTo >= Station.Compare ? w.Keys.Compared : before.Compared,
            Features = upTo < Station.Measure ? before.Features : resembles ? [.. w.Keys.Features.Values] : [],
        });
        var verdict = rows is null ? (Verdict?)null : InspectionResult.Overall(rows.Select(r => r.Verdict));
        if (rows is not null)
        {
            piece.RunId = await RunOfAsync(w, rows, verdict!.Value, cancel);
        }

        foreach (var (action, detail) in Said(w, outcomes, verdict))
        {
            context.Record(who, action, w.Subject, detail);
        }
    }

    private async Task<Guid> RunOfAsync(Workpiece w, IReadOnlyList<CharacteristicResult> rows, Verdict verdict, CancellationToken cancel)
    {
        if (await context.Runs.Where(r => r.PieceId == w.Piece.Id && r.Key == w.Keys.Evaluated).Select(r => (Guid?)r.Id)
            .SingleOrDefaultAsync(cancel) is { } there)
        {
            return there;
        }

        var run = new Run
        {
            Id = Guid.NewGuid(),
            PieceId = w.Piece.Id,
            Key = w.Keys.Evaluated,
            PlanNumber = w.PlanNumber,
            Verdict = verdict,
            CreatedAt = DateTimeOffset.UtcNow
        };
        run.Characteristics = [.. rows.Select(c => CharacteristicRows.Of(run.Id, c))];
        context.Runs.Add(run);
        return run.Id;
    }

    /// <summary>What the log says: each station that was really done, from what came of it.</summary>
    private static IEnumerable<(string Action, string Detail)> Said(Workpiece w, StoredOutcomes outcomes, Verdict? verdict)
    {
        if (outcomes.MadeOf<PreparationRecord>() > 0 && outcomes.TryGet<PreparationRecord>(w.Keys.Prepared, out var prepared))
        {
            yield return ("prepared", string.Join(" ", (prepared.Steps ?? []).Select(s => s.Said)));
        }

        if (outcomes.Made(w.Keys.Aligned) && outcomes.TryGet<AlignedOutcome>(w.Keys.Aligned, out var aligned))
        {
            yield return ("aligned", FormattableString.Invariant($"{aligned.How.Words}, RMS {aligned.Result.Rms:0.0000} mm"));
        }

        foreach (var (name, keys) in w.Keys.Under)
        {
            if (outcomes.Made(keys.Aligned) && outcomes.TryGet<AlignedOutcome>(keys.Aligned, out var named))
            {
                yield return ("aligned", FormattableString.Invariant($"'{name}': {named.How.Words}, RMS {named.Result.Rms:0.0000} mm"));
            }
        }

        if (outcomes.MadeOf<ComparedOutcome>() > 0 && outcomes.TryGet<ComparedOutcome>(w.Keys.Compared, out var compared))
        {
            yield return ("compared", string.Create(
                CultureInfo.InvariantCulture, $"{MethodWords.Of(compared.How)}; {100 * compared.Statistics.WithinTolerance:0.0} % within "
                + $"{compared.Lower:+0.###;-0.###} to {compared.Upper:+0.###;-0.###} mm"));
        }

        if (outcomes.MadeOf<MeasuredFeature>() is > 0 and var features)
        {
            yield return ("measured features", $"{features} of {w.Plan.Features.Count}");
        }

        if (verdict is { } v)
        {
            var values = outcomes.MadeOf<CharacteristicValue>();
            yield return (values > 0 ? "evaluated" : "judged",
                $"plan revision {w.PlanNumber}, verdict {JsonNamingPolicy.KebabCaseLower.ConvertName(v.ToString())}");
        }
    }

    private sealed class Slice(IProgress<RunProgress> whole, double from, double width) : IProgress<RunProgress>
    {
        public void Report(RunProgress value) => whole.Report(new(from + (width * value.Share), value.What));
    }
}
