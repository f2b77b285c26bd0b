using System.Collections.Concurrent;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>
/// Replays a plan on one scan, station by station. Every outcome is looked up by its key before it is computed, so that a replay does only
/// what is out of date: after a change of a tolerance nothing but the judging is left, and neither scan nor nominal is opened for it.
/// </summary>
/// <param name="keys">Of the plan on this scan and nominal.</param>
/// <param name="known">Outcomes made before; new ones are put there.</param>
/// <param name="open">Opens the nominal when it is first needed.</param>
/// <param name="prepare">Gives the prepared scan when it is first needed.</param>
public sealed class Replay(
    InspectionPlan plan, OutcomeKeys keys, IOutcomeStore known, Func<InspectionRunner> open, Func<PreparedScan> prepare)
{
    private readonly Lazy<InspectionRunner> _runner = new(open);
    private readonly Lazy<PreparedScan> _scan = new(prepare);
    private PlanFeatures? _features;

    /// <summary>What preparing did.</summary>
    public PreparationRecord Prepared(IProgress<RunProgress>? progress = null) => Known(keys.Prepared, () =>
    {
        progress?.Report(new(0, "Preparing"));
        return _scan.Value.Record;
    });

    public AlignedOutcome Aligned(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        Prepared(progress);
        return Known(
            keys.Aligned, () => new AlignedOutcome(plan.Align, _runner.Value.Align(_scan.Value, plan, Part(progress, 0.05, 0.6), cancel)));
    }

    public DeviationMap Deviations(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var aligned = Aligned(progress, cancel);
        return Known(
            keys.Deviations, () => _runner.Value.Compare(_scan.Value, aligned.Result.Transform, plan, Part(progress, 0.65, 0.15), cancel));
    }

    public ComparedOutcome Compared(IProgress<RunProgress>? progress = null, CancellationToken cancel = default) =>
        Known(keys.Compared, () => _runner.Value.Summarise(Scan(progress, cancel), plan));

    /// <summary>All features of the plan; none when the scan does not resemble the nominal.</summary>
    public IReadOnlyList<MeasuredFeature> Measured(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        if (!Aligned(progress, cancel).Result.Resembles)
        {
            return [];
        }

        string[] ids = [.. plan.FeatureIds];
        var results = new MeasuredFeature[ids.Length];
        var done = 0;
        EachUnknown(results.Length, i => keys.Features[ids[i]], results, progress, cancel, i =>
        {
            try
            {
                return MeasuredFeature.Of(Features[ids[i]]);
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
        var alignment = Aligned(progress, cancel).Result;
        Measured(progress, cancel);
        progress?.Report(new(0.9, "Evaluating"));
        var values = new CharacteristicValue[plan.Characteristics.Count];
        var context = new Lazy<EvaluationContext>(() => _runner.Value.EvaluationOf(plan, Scan(null, cancel), Features));
        EachUnknown(values.Length, i => keys.Values[plan.Characteristics[i].No], values, progress, cancel, i =>
            alignment.Resembles ? Evaluation.Measure(
                plan.Characteristics[i], context.Value) : CharacteristicValue.Failed(InspectionRunner.Unlike(alignment)));
        return [.. plan.Characteristics.Select((c, i) => Evaluation.Judge(c, values[i], plan.Decision, plan.Device, plan.Temperature))];
    }

    public InspectionResult All(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var aligned = Aligned(progress, cancel);
        var compared = Compared(progress, cancel);
        var rows = Evaluated(progress, cancel);
        progress?.Report(new(1, "Done"));
        return new(_scan.Value, aligned, Deviations(null, cancel), compared, Measured(null, cancel), rows);
    }

    /// <summary>The aligned scan with its deviations: where features and labels take their points from.</summary>
    public AlignedScan Scan(IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var deviations = Deviations(progress, cancel);
        return new(_scan.Value.Mesh, Aligned(null, cancel).Result.Transform, deviations);
    }

    /// <summary>Made when first needed: by then the scan is aligned.</summary>
    private PlanFeatures Features =>
        _features ?? Interlocked.CompareExchange(ref _features, _runner.Value.FeaturesOf(plan, () => Scan()), null) ?? _features;

    private MeasuredFeature Failed(string id, string reason) => plan.Features.FirstOrDefault(f => f.Id == id) is { } feature
        ? MeasuredFeature.Failed(feature, null, reason)
        : MeasuredFeature.Failed(new(id, plan.NameOf(id), []), plan.Constructions.First(c => c.Id == id), reason);

    private T Known<T>(string key, Func<T> make)
        where T : class
    {
        if (known.TryGet<T>(key, out var found))
        {
            return found;
        }

        var made = make();
        known.Put(key, made);
        return made;
    }

    /// <summary>Fills in what is known, and makes the rest side by side.</summary>
    private void EachUnknown<T>(
        int count, Func<int, string> keyOf, T[] results, IProgress<RunProgress>? progress, CancellationToken cancel, Func<int, T> make)
        where T : class
    {
        var missing = new List<int>();
        for (var i = 0; i < count; i++)
        {
            if (known.TryGet<T>(keyOf(i), out var found))
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
            Scan(progress, cancel);
            Parallel.ForEach(missing, new ParallelOptions { CancellationToken = cancel }, i => known.Put(keyOf(i), results[i] = make(i)));
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
