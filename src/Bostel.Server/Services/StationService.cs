using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Core;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Segmentation;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>Everything a station needs at hand for one piece.</summary>
public sealed record Workpiece(Piece Piece, Nominal Nominal, InspectionRunner Runner, InspectionPlan Plan, int PlanNumber);

/// <summary>Carries the stations of a piece out and keeps their outcome in the database. Used by jobs and by quick requests alike.</summary>
public sealed class StationService(BostelContext context, MeshCache meshes, BlobStore blobs, PlanService plans)
{
    /// <summary>How records are kept in text columns; infinities occur in pose uncertainties of turned parts.</summary>
    public static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals };

    public async Task<Workpiece> OpenAsync(Guid pieceId, CancellationToken cancel = default)
    {
        var piece = await context.Pieces.Include(p => p.Part).ThenInclude(p => p!.Nominal).Include(p => p.Run).SingleOrDefaultAsync(p => p.Id == pieceId, cancel)
            ?? throw new BadInputException("There is no such piece.");
        var nominal = piece.Part!.Nominal ?? throw new BadInputException($"Part {piece.Part.Number} has no nominal yet: drop its CAD file first.");
        var stored = await plans.GetAsync(piece.PartId, cancel);
        return new(piece, nominal, await meshes.RunnerAsync(nominal.ModelSha, cancel), stored.Plan, stored.Number);
    }

    /// <summary>The prepared scan under a plan.</summary>
    public Task<PreparedScan> PreparedAsync(Workpiece w, InspectionPlan plan, CancellationToken cancel = default)
    {
        if (w.Piece.Problem is { } problem)
        {
            throw new BadInputException(problem);
        }

        return meshes.PreparedAsync(w.Piece, w.Piece.Unit, plan.Prepare.Steps, w.Runner, w.Nominal.ModelSha, cancel);
    }

    public async Task PrepareAsync(Workpiece w, string who, CancellationToken cancel)
    {
        var prepared = await PreparedAsync(w, w.Plan, cancel);
        var run = Begin(w);
        run.Preparation = JsonSerializer.Serialize(prepared.Record, Json);
        context.Record(who, "prepared", Subject(w), string.Join(" ", (prepared.Record.Steps ?? []).Select(s => s.Said)));
        await context.SaveChangesAsync(cancel);
    }

    public async Task AlignAsync(Workpiece w, string who, RigidTransform? given, bool refine, IProgress<RunProgress> progress, CancellationToken cancel)
    {
        if (w.Piece.Run is not { Preparation: not null } || Stale(w))
        {
            await PrepareAsync(w, who, cancel);
        }

        var prepared = await PreparedAsync(w, w.Plan, cancel);
        var alignment = given is { } t ? w.Runner.Align(prepared, t, refine, progress, cancel) : w.Runner.Align(prepared, w.Plan, progress, cancel);
        var run = await ContinueAsync(w, cancel);
        run.Alignment = JsonSerializer.Serialize(alignment, Json);
        Forget(run);
        context.Record(who, given is null ? "fitted to all surfaces" : "set the alignment", Subject(w), FormattableString.Invariant($"RMS {alignment.Rms:0.0000} mm"));
        await context.SaveChangesAsync(cancel);
    }

    /// <summary>Everything after the alignment: deviations, features, characteristics.</summary>
    public async Task EvaluateAsync(Workpiece w, string who, IProgress<RunProgress> progress, CancellationToken cancel)
    {
        if (w.Piece.Run?.Alignment is not { } stored)
        {
            throw new BadInputException($"Piece {w.Piece.Serial} is not aligned yet.");
        }

        var prepared = await PreparedAsync(w, w.Plan, cancel);
        var alignment = JsonSerializer.Deserialize<AlignmentResult>(stored, Json)!;
        var result = w.Runner.Finish(prepared, alignment, w.Plan, progress, cancel);
        var sha = await blobs.SaveAsync(DeviationCodec.Encode(result.Deviations), cancel);
        var run = await ContinueAsync(w, cancel);
        Forget(run);
        await context.SaveChangesAsync(cancel);
        (run.PlanNumber, run.PlanBody) = (w.PlanNumber, w.Plan.ToJson());
        run.Preparation = JsonSerializer.Serialize(prepared.Record, Json);
        run.DeviationSha = sha;
        run.Statistics = JsonSerializer.Serialize(result.Statistics, Json);
        run.Verdict = result.Verdict;
        run.Features = [.. result.Features.Select(f => FeatureRows.Of(run.Id, f)), .. result.FeatureFailures.Select(f => FeatureRows.Failed(run.Id, f.Key, w.Plan, f.Value))];
        run.Characteristics = [.. result.Characteristics.Select(c => RowOf(run.Id, c))];
        context.Record(who, "evaluated", Subject(w), $"verdict {JsonNamingPolicy.KebabCaseLower.ConvertName(result.Verdict.ToString())}");
        await context.SaveChangesAsync(cancel);
    }

    /// <summary>All stations without a further click.</summary>
    public async Task RunPlanAsync(Workpiece w, string who, IProgress<RunProgress> progress, CancellationToken cancel)
    {
        progress.Report(new(0, "Preparing"));
        await PrepareAsync(w, who, cancel);
        await AlignAsync(w, who, null, true, new Part(progress, 0.05, 0.6), cancel);
        await EvaluateAsync(w, who, new Part(progress, 0.65, 0.35), cancel);
    }

    /// <summary>The aligned scan with its deviations as they were stored.</summary>
    public async Task<(AlignedScan Scan, AlignmentResult Alignment)> AlignedAsync(Workpiece w, CancellationToken cancel)
    {
        var run = w.Piece.Run;
        if (run?.Alignment is null || run.DeviationSha is null)
        {
            throw new BadInputException($"Piece {w.Piece.Serial} is not compared yet: fit it to its nominal first.");
        }

        var plan = InspectionPlan.Parse(run.PlanBody);
        var prepared = await meshes.PreparedAsync(w.Piece, run.Unit, plan.Prepare.Steps, w.Runner, w.Nominal.ModelSha, cancel);
        var alignment = JsonSerializer.Deserialize<AlignmentResult>(run.Alignment, Json)!;
        await using var stored = File.OpenRead(await blobs.FileAsync(run.DeviationSha, cancel));
        return (new(prepared.Mesh, alignment.Transform, DeviationCodec.Decode(stored)), alignment);
    }

    /// <summary>Something before the run's outcome changed: the plan or the unit.</summary>
    public static bool Stale(Workpiece w) => w.Piece.Run is { } run && (run.PlanNumber != w.PlanNumber || run.Unit != w.Piece.Unit);

    private static string Subject(Workpiece w) => $"{w.Piece.Part!.Number} piece {w.Piece.Serial}";

    private Run Begin(Workpiece w)
    {
        var run = new Run
        {
            Id = Guid.NewGuid(),
            PieceId = w.Piece.Id,
            PlanNumber = w.PlanNumber,
            PlanBody = w.Plan.ToJson(),
            Unit = w.Piece.Unit,
            CreatedAt = DateTimeOffset.UtcNow,
        };
        context.Runs.Add(run);
        w.Piece.Run = run;
        return run;
    }

    /// <summary>The piece's run, or a copy of it when a report was issued from it.</summary>
    private async Task<Run> ContinueAsync(Workpiece w, CancellationToken cancel)
    {
        var run = w.Piece.Run!;
        if (!run.Frozen)
        {
            await context.Entry(run).Collection(r => r.Features).LoadAsync(cancel);
            await context.Entry(run).Collection(r => r.Characteristics).LoadAsync(cancel);
            return run;
        }

        var copy = Begin(w);
        (copy.Preparation, copy.Alignment) = (run.Preparation, run.Alignment);
        return copy;
    }

    private static void Forget(Run run)
    {
        (run.DeviationSha, run.Statistics, run.Verdict) = (null, null, null);
        run.Features.Clear();
        run.Characteristics.Clear();
    }

    private static CharacteristicRow RowOf(Guid run, CharacteristicResult c) => new()
    {
        RunId = run,
        No = c.Plan.No,
        Name = c.Plan.Name,
        Kind = c.Plan.Kind,
        Plan = JsonSerializer.Serialize(c.Plan, Json),
        Nominal = c.Nominal,
        LowerLimit = c.LowerLimit,
        UpperLimit = c.UpperLimit,
        Measured = c.Measured,
        Deviation = c.Deviation,
        Beyond = c.Beyond,
        Uncertainty = c.Uncertainty,
        Verdict = c.Verdict,
        Method = c.Method,
        Remark = c.Remark,
        Points = c.Points,
        Coverage = c.Coverage,
        View = c.View is null ? null : JsonSerializer.Serialize(c.View, Json),
    };

    public static CharacteristicResult ResultOf(CharacteristicRow r) => new(JsonSerializer.Deserialize<CharacteristicPlan>(r.Plan, Json)!)
    {
        Nominal = r.Nominal,
        LowerLimit = r.LowerLimit,
        UpperLimit = r.UpperLimit,
        Measured = r.Measured,
        Deviation = r.Deviation,
        Beyond = r.Beyond,
        Uncertainty = r.Uncertainty,
        Verdict = r.Verdict,
        Method = r.Method,
        Remark = r.Remark,
        Points = r.Points,
        Coverage = r.Coverage,
        View = r.View is null ? null : JsonSerializer.Deserialize<EvidenceView>(r.View, Json),
    };

    private sealed class Part(IProgress<RunProgress> whole, double from, double width) : IProgress<RunProgress>
    {
        public void Report(RunProgress value) => whole.Report(new(from + (width * value.Share), value.What));
    }
}
