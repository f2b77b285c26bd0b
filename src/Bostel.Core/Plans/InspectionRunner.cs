using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Segmentation;
using Bostel.Core.Spatial;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>How far a run is, over all its stations, and what it is doing.</summary>
public readonly record struct RunProgress(double Share, string What);

/// <summary>A prepared scan and what was done to it.</summary>
/// <param name="Mesh">The scan after all steps.</param>
/// <param name="Record">What was done.</param>
/// <param name="Displacements">How far each vertex was moved by the last step, when it was one that moves them; mm.</param>
public sealed record PreparedScan(TriangleMesh Mesh, PreparationRecord Record, float[]? Displacements = null);

/// <summary>The outcome of all stations for one piece.</summary>
public sealed record InspectionResult(
    PreparedScan Prepared, AlignmentResult Alignment, DeviationMap Deviations, DeviationStatistics Statistics,
    IReadOnlyList<FeatureResult> Features, IReadOnlyDictionary<string, string> FeatureFailures, IReadOnlyList<CharacteristicResult> Characteristics)
{
    public Verdict Verdict => Overall(Characteristics.Select(c => c.Verdict));

    /// <summary>The piece's verdict: non-conforming if anything is, else not proven if anything is or was not measured, else conforming.</summary>
    public static Verdict Overall(IEnumerable<Verdict> rows)
    {
        var all = rows.ToList();
        return all.Count == 0 ? Verdict.NotMeasured
            : all.Contains(Verdict.NonConforming) ? Verdict.NonConforming
            : all.All(v => v == Verdict.Conforming) ? Verdict.Conforming
            : all.All(v => v == Verdict.NotMeasured) ? Verdict.NotMeasured
            : Verdict.NotProven;
    }
}

/// <summary>
/// Replays a plan on scans of one nominal, station by station or all at once. The web, the workers and the command line all go through here, so a
/// figure is the same wherever it is shown. Safe for concurrent use.
/// </summary>
public sealed class InspectionRunner
{
    private readonly Lazy<AlignmentTarget> _target;

    public InspectionRunner(NominalModel nominal)
    {
        Nominal = nominal;
        _target = new(() => new(new(nominal.Mesh)));
    }

    public NominalModel Nominal { get; }

    public AlignmentTarget Target => _target.Value;

    public TriangleTree Tree => Target.Tree;

    /// <summary>Carries out the plan's preparing steps.</summary>
    /// <param name="scan">Raw scan in mm.</param>
    /// <exception cref="BadInputException">A step does not suit the scan, or needs a pose the scan does not have.</exception>
    public PreparedScan Prepare(TriangleMesh scan, InspectionPlan plan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var context = ContextFor(scan, cancel);
        var steps = plan.Prepare.Steps;
        var now = Begin(scan);
        for (var i = 0; i < steps.Count; i++)
        {
            progress?.Report(new((double)i / steps.Count, "Preparing: " + steps[i].Kind));
            now = Continue(now, steps[i], context, cancel);
        }

        return now;
    }

    /// <summary>A scan before any step.</summary>
    public PreparedScan Begin(TriangleMesh scan) => new(scan, LoosePieces.Untouched(scan, Nominal.Mesh.Area()) with { Steps = [] });

    /// <summary>Carries out one more step; one that is switched off changes nothing.</summary>
    public static PreparedScan Continue(PreparedScan before, PrepareStep step, PreparationContext context, CancellationToken cancel = default)
    {
        cancel.ThrowIfCancellationRequested();
        if (step.Off)
        {
            return before;
        }

        var outcome = PrepareSteps.Apply(step, before.Mesh, context, cancel);
        var record = before.Record with
        {
            TrianglesAfter = outcome.Mesh.TriangleCount,
            PiecesDropped = before.Record.PiecesDropped + outcome.Record.PiecesDropped,
            AreaDropped = before.Record.AreaDropped + outcome.Record.AreaRemoved,
            Steps = [.. before.Record.Steps ?? [], outcome.Record],
        };
        return new(outcome.Mesh, record, outcome.Displacements);
    }

    /// <summary>
    /// What steps on a scan may refer to. Its pose is found when a rule first asks for it, always from the raw scan's own part and so the same whatever was
    /// done before: steps do not move a scan as a whole.
    /// </summary>
    public PreparationContext ContextFor(TriangleMesh scan, CancellationToken cancel = default)
    {
        var pose = new Lazy<RigidTransform>(() =>
        {
            var part = LoosePieces.DropAllButPart(scan, Nominal.Mesh.Area()).Mesh;
            var found = SurfaceAlignment.FitToAllSurfaces(part, Target, null, null, cancel);
            return found.Resembles ? found.Transform : throw new BadInputException("A preparing step refers to a place on the nominal. " + Unlike(found));
        });
        return new(Tree, () => pose.Value);
    }

    /// <summary>The connected pieces of a scan, the part marked by the nominal's area; none of a cloud.</summary>
    public IReadOnlyList<Piece> Pieces(TriangleMesh scan) => scan.TriangleCount == 0 ? [] : LoosePieces.Find(scan, Nominal.Mesh.Area()).Pieces;

    public AlignmentResult Align(PreparedScan scan, InspectionPlan plan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default) =>
        PlanAlignment.Run(scan.Mesh, plan, Nominal, Target, OptionsOf(plan), Adapt(progress), cancel);

    /// <summary>Takes a transform as given, or refines from it.</summary>
    public AlignmentResult Align(PreparedScan scan, RigidTransform given, bool refine, IProgress<RunProgress>? progress = null, CancellationToken cancel = default) => refine
        ? SurfaceAlignment.RefineFrom(scan.Mesh, Target, given, null, Adapt(progress), cancel)
        : SurfaceAlignment.Assess(scan.Mesh, Target, given);

    public DeviationMap Compare(PreparedScan scan, RigidTransform transform, InspectionPlan plan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var report = progress is null ? null : new Relay<double>(s => progress.Report(new(s, "Measuring deviations")));
        return Deviation.Compute(scan.Mesh, transform, Nominal, Tree, OptionsOf(plan), report, cancel);
    }

    public DeviationStatistics Statistics(PreparedScan scan, DeviationMap map, InspectionPlan plan) =>
        DeviationStatistics.Of(map.Values, WeightsOf(scan.Mesh), plan.Compare.Lower, plan.Compare.Upper);

    /// <summary>Measures one feature.</summary>
    public FeatureResult Measure(FeaturePlan feature, AlignedScan scan) => FeatureExtraction.Measure(feature, scan, Nominal, Tree);

    /// <summary>Measures all features of the plan; those that cannot be measured are listed with the reason.</summary>
    public (IReadOnlyList<FeatureResult> Features, IReadOnlyDictionary<string, string> Failures) MeasureAll(
        InspectionPlan plan, AlignedScan scan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var results = new FeatureResult?[plan.Features.Count];
        var reasons = new string?[plan.Features.Count];
        var done = 0;
        Parallel.For(0, results.Length, new ParallelOptions { CancellationToken = cancel }, i =>
        {
            try
            {
                results[i] = Measure(plan.Features[i], scan);
            }
            catch (BadInputException reason)
            {
                reasons[i] = reason.Message;
            }

            progress?.Report(new((double)Interlocked.Increment(ref done) / results.Length, "Measuring features"));
        });
        var failures = Enumerable.Range(0, reasons.Length).Where(i => reasons[i] is not null).ToDictionary(i => plan.Features[i].Id, i => reasons[i]!);
        return ([.. results.OfType<FeatureResult>()], failures);
    }

    /// <summary>Evaluates all characteristics; none when the scan does not resemble the nominal.</summary>
    public IReadOnlyList<CharacteristicResult> Evaluate(
        InspectionPlan plan, AlignedScan scan, AlignmentResult alignment, IReadOnlyList<FeatureResult> features, IReadOnlyDictionary<string, string> failures, CancellationToken cancel = default)
    {
        if (!alignment.Resembles)
        {
            return [.. plan.Characteristics.Select(c => Evaluation.NotMeasured(c, Unlike(alignment)))];
        }

        var context = new EvaluationContext(
            Nominal, Tree, scan, features.ToDictionary(f => f.Plan.Id), failures, plan.Datums.ToDictionary(d => d.Label, d => d.Features), OptionsOf(plan).MaxDistance);
        var rows = new CharacteristicResult[plan.Characteristics.Count];
        Parallel.For(0, rows.Length, new ParallelOptions { CancellationToken = cancel }, i =>
            rows[i] = Evaluation.Evaluate(plan.Characteristics[i], context, plan.Decision, plan.Device.LengthError));
        return rows;
    }

    /// <summary>All stations in order.</summary>
    public InspectionResult Run(TriangleMesh scan, InspectionPlan plan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        progress?.Report(new(0, "Preparing"));
        var prepared = Prepare(scan, plan, Part(progress, 0, 0.05), cancel);
        var alignment = Align(prepared, plan, Part(progress, 0.05, 0.6), cancel);
        return Finish(prepared, alignment, plan, progress, cancel);
    }

    /// <summary>The stations after alignment.</summary>
    public InspectionResult Finish(PreparedScan prepared, AlignmentResult alignment, InspectionPlan plan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var map = Compare(prepared, alignment.Transform, plan, Part(progress, 0.65, 0.15), cancel);
        var aligned = new AlignedScan(prepared.Mesh, alignment.Transform, map);
        var (features, failures) = alignment.Resembles ? MeasureAll(plan, aligned, Part(progress, 0.8, 0.1), cancel) : ([], new Dictionary<string, string>());
        progress?.Report(new(0.9, "Evaluating"));
        var rows = Evaluate(plan, aligned, alignment, features, failures, cancel);
        progress?.Report(new(1, "Done"));
        return new(prepared, alignment, map, Statistics(prepared, map, plan), features, failures, rows);
    }

    /// <summary>Why no verdict may rest on an alignment.</summary>
    public static string Unlike(AlignmentResult alignment) => string.Create(
        System.Globalization.CultureInfo.InvariantCulture,
        $"The scan does not resemble the nominal: only {100 * alignment.Inliers:0} % of it lies near the surface and it covers {100 * alignment.Coverage:0} %.");

    /// <summary>Area weights of the vertices; a cloud counts every point alike.</summary>
    public static double[] WeightsOf(TriangleMesh mesh)
    {
        if (mesh.TriangleCount > 0)
        {
            return mesh.VertexAreas;
        }

        var ones = new double[mesh.VertexCount];
        Array.Fill(ones, 1);
        return ones;
    }

    private DeviationOptions OptionsOf(InspectionPlan plan) =>
        new(plan.Compare.MaxDistance ?? DeviationOptions.For(Nominal).MaxDistance, plan.Compare.MaxAngle);

    private static Relay<(double Share, string What)>? Adapt(IProgress<RunProgress>? progress) =>
        progress is null ? null : new Relay<(double Share, string What)>(p => progress.Report(new(p.Share, p.What)));

    private static Relay<RunProgress>? Part(IProgress<RunProgress>? progress, double from, double width) =>
        progress is null ? null : new Relay<RunProgress>(p => progress.Report(new(from + (width * p.Share), p.What)));

    /// <summary>Passes progress on at once, on the reporting thread.</summary>
    private sealed class Relay<T>(Action<T> to) : IProgress<T>
    {
        public void Report(T value) => to(value);
    }
}
