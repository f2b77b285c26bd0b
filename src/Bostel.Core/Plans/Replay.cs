using System.Collections.Concurrent;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>
/// Replays a plan on one scan, station by station. Every outcome is looked up by its key before it is computed, so that a replay does only
/// what is out of date: after a change of a tolerance nothing but the judging is left, and neither scan nor nominal is opened for it.
/// </summary>
public sealed class Replay
{
    private readonly InspectionPlan _plan;
    private readonly OutcomeKeys _keys;
    private readonly IOutcomeStore _known;
    private readonly Lazy<InspectionRunner> _runner;
    private readonly Lazy<PreparedScan> _scan;
    private readonly Lazy<MeasuredScan> _measured;
    private readonly Lazy<PlanFeatures> _features;
    private readonly Lazy<EvaluationContext> _context;
    private readonly ConcurrentDictionary<string, Replay> _under = new();
    private readonly Lock _looking = new();
    private (bool Known, string? Why) _obstacle;

    /// <param name="keys">Of the plan on this scan and nominal.</param>
    /// <param name="known">Outcomes made before; new ones are put there.</param>
    /// <param name="open">Opens the nominal when it is first needed.</param>
    /// <param name="prepare">Gives the prepared scan when it is first needed.</param>
    public Replay(InspectionPlan plan, OutcomeKeys keys, IOutcomeStore known, Func<InspectionRunner> open, Func<PreparedScan> prepare)
        : this(plan, keys, known, new Lazy<InspectionRunner>(open), new Lazy<PreparedScan>(prepare))
    {
    }

    private Replay(
        InspectionPlan plan, OutcomeKeys keys, IOutcomeStore known, Lazy<InspectionRunner> runner, Lazy<PreparedScan> scan)
    {
        (_plan, _keys, _known, _runner, _scan) = (plan, keys, known, runner, scan);

        // Made when first needed: by then the scan is aligned.
        _measured = new(() => new(Scan(), _runner.Value.Nominal));
        _features = new(() => new(plan, _measured.Value));
        _context = new(() => _runner.Value.EvaluationOf(plan, _measured.Value));
    }

    /// <summary>The same scan under an alignment of the plan; null: under its own.</summary>
    public Replay In(string? alignment) => alignment is null
        ? this
        : _under.GetOrAdd(alignment, name => new(_plan.Under(name), _keys.Under[name], _known, _runner, _scan));

    /// <summary>What preparing did.</summary>
    public PreparationRecord Prepared(IProgress<RunProgress>? progress = null) => Known(_keys.Prepared, () =>
    {
        progress?.Report(new(0, "Preparing"));
        return _scan.Value.Record;
    });

    public AlignedOutcome Aligned(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        Prepared(progress);
        return Known(_keys.Aligned, () => new AlignedOutcome(
            _plan.Align, _runner.Value.Align(_scan.Value, _plan, Part(progress, 0.05, 0.6), cancel)));
    }

    /// <summary>
    /// What came of the plan's further alignments. One that determines no pose on this piece fails alone: what stands in it is not
    /// measured, and the rest of the plan goes on.
    /// </summary>
    public IReadOnlyList<NamedOutcome> Named(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var own = Aligned(progress, cancel);
        return [.. _plan.Alignments.Select(a =>
        {
            _ = In(a.Name).Obstacle(progress, cancel);
            _known.TryGet<AlignedOutcome>(_keys.Under[a.Name].Aligned, out var aligned);
            return NamedOutcome.Of(a.Name, aligned, own, _runner.Value.Nominal);
        })];
    }

    public DeviationMap Deviations(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var aligned = Aligned(progress, cancel);
        return Known(_keys.Deviations, () => _runner.Value.Compare(
            _scan.Value, aligned.Result.Transform, _plan, Part(progress, 0.65, 0.15), cancel));
    }

    /// <summary>The deviations in every alignment of the plan that determines a pose.</summary>
    public void Mapped(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        Deviations(progress, cancel);
        foreach (var replay in _plan.Alignments.Select(a => In(a.Name)).Where(r => r.Obstacle(progress, cancel) is null))
        {
            replay.Deviations(progress, cancel);
        }
    }

    public ComparedOutcome Compared(IProgress<RunProgress>? progress = null, CancellationToken cancel = default) =>
        Known(_keys.Compared, () => _runner.Value.Summarise(In(_plan.Compare.Alignment).Scan(progress, cancel), _plan));

    /// <summary>All features of the plan; none when the scan does not resemble the nominal.</summary>
    public IReadOnlyList<MeasuredFeature> Measured(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        if (!Aligned(progress, cancel).Result.Resembles)
        {
            return [];
        }

        string[] ids = [.. _plan.FeatureIds];
        var results = new MeasuredFeature[ids.Length];
        var done = 0;
        EachUnknown(results, i => (_keys.Features[ids[i]], _plan.AlignmentOf(ids[i])), progress, cancel, (i, replay) =>
        {
            try
            {
                return replay.Obstacle(null, cancel) is { } why ? Failed(ids[i], why) : MeasuredFeature.Of(replay._features.Value[ids[i]]);
            }
            catch (BadInputException reason)
            {
                return Failed(ids[i], reason.Message);
            }
            finally
            {
                progress?.Report(new(0.8 + (0.1 * Interlocked.Increment(ref done) / results.Length), "Measuring features"));
            }
        });
        return results;
    }

    /// <summary>All characteristics, judged.</summary>
    public IReadOnlyList<CharacteristicResult> Evaluated(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        Measured(progress, cancel);
        progress?.Report(new(0.9, "Evaluating"));
        var values = new CharacteristicValue[_plan.Characteristics.Count];
        var rows = _plan.Characteristics;
        EachUnknown(values, i => (_keys.Values[rows[i].No], rows[i].Alignment), progress, cancel, (i, replay) =>
            replay.Obstacle(null, cancel) is { } why
                ? CharacteristicValue.Failed(why)
                : Evaluation.Measure(rows[i].By(_plan.Standard), replay._context.Value));
        CharacteristicResult[] judged =
            [.. rows.Select((c, i) => Evaluation.Judge(c, values[i], _plan.Decision, _plan.Device, _plan.Temperature))];
        return _plan.OtherWays ? WithFirmness(judged, progress, cancel) : judged;
    }

    /// <summary>The rows with what other ways make of their verdicts; of one that was not measured there is none to make.</summary>
    private CharacteristicResult[] WithFirmness(
        CharacteristicResult[] judged, IProgress<RunProgress>? progress, CancellationToken cancel)
    {
        var ways = new Lazy<OtherWays>(() => new(
            _plan, _runner.Value, name => In(name) is var replay && replay.Obstacle(null, cancel) is null ? replay._measured.Value : null));
        return [.. judged.Select((row, i) =>
        {
            if (row.Measured is null)
            {
                return row;
            }

            progress?.Report(new(0.9 + (0.1 * i / judged.Length), "Trying other ways"));
            var found = Known(_keys.OtherWays[row.Plan.No], () => ways.Value.ValuesOf(row.Plan.No, cancel));
            return row with { Firmness = OtherWays.FirmnessOf(row, found, _plan) };
        })];
    }

    public InspectionResult All(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var aligned = Aligned(progress, cancel);
        var compared = Compared(progress, cancel);
        var rows = Evaluated(progress, cancel);
        progress?.Report(new(1, "Done"));
        var map = In(_plan.Compare.Alignment).Scan(null, cancel);
        return new(_scan.Value, aligned, Named(null, cancel), map, compared, Measured(null, cancel), rows);
    }

    /// <summary>The aligned scan with its deviations: where features and labels take their points from.</summary>
    public AlignedScan Scan(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var deviations = Deviations(progress, cancel);
        return new(_scan.Value.Mesh, Aligned(null, cancel).Result.Transform, deviations);
    }

    /// <summary>Why nothing can be measured in this alignment; null: it can.</summary>
    private string? Obstacle(IProgress<RunProgress>? progress, CancellationToken cancel)
    {
        lock (_looking)
        {
            if (!_obstacle.Known)
            {
                try
                {
                    var result = Aligned(progress, cancel).Result;
                    _obstacle = (true, result.Resembles ? null : InspectionRunner.Unlike(result));
                }
                catch (BadInputException reason)
                {
                    _obstacle = (true, reason.Message);
                }
            }

            return _obstacle.Why;
        }
    }

    private MeasuredFeature Failed(string id, string reason) => _plan.Features.FirstOrDefault(f => f.Id == id) is { } feature
        ? MeasuredFeature.Failed(feature, null, reason)
        : MeasuredFeature.Failed(new(id, _plan.NameOf(id), []), _plan.Constructions.First(c => c.Id == id), reason);

    private T Known<T>(string key, Func<T> make)
        where T : class
    {
        if (_known.TryGet<T>(key, out var found))
        {
            return found;
        }

        var made = make();
        _known.Put(key, made);
        return made;
    }

    /// <summary>Fills in what is known, and makes the rest side by side, each in its alignment.</summary>
    private void EachUnknown<T>(T[] results, Func<int, (string Key, string? Alignment)> at, IProgress<RunProgress>? progress,
        CancellationToken cancel, Func<int, Replay, T> make)
        where T : class
    {
        var missing = new List<int>();
        for (var i = 0; i < results.Length; i++)
        {
            if (_known.TryGet<T>(at(i).Key, out var found))
            {
                results[i] = found;
            }
            else
            {
                missing.Add(i);
            }
        }

        if (missing.Count > 0)
        {
            // Once for all of them, not in each of the parallel bodies.
            foreach (var replay in missing.Select(i => In(at(i).Alignment)).Distinct())
            {
                if (replay.Obstacle(progress, cancel) is null)
                {
                    replay.Scan(progress, cancel);
                }
            }

            Parallel.ForEach(missing, new ParallelOptions { CancellationToken = cancel }, i =>
            {
                var (key, alignment) = at(i);
                _known.Put(key, results[i] = make(i, In(alignment)));
            });
        }
    }

    private static Relay? Part(IProgress<RunProgress>? progress, double from, double width) =>
        progress is null ? null : new(progress, from, width);

    /// <summary>Passes a station's progress on as its part of the whole, at once, on the reporting thread.</summary>
    private sealed class Relay(IProgress<RunProgress> whole, double from, double width) : IProgress<RunProgress>
    {
        public void Report(RunProgress value) => whole.Report(new(from + (width * value.Share), value.What));
    }
}
