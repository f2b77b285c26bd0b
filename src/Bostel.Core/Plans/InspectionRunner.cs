using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;
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
/// <param name="Named">Of the plan's further alignments.</param>
/// <param name="Map">The scan with its deviations in the alignment in which the map stands.</param>
public sealed record InspectionResult(
    PreparedScan Prepared, AlignedOutcome Aligned, IReadOnlyList<NamedOutcome> Named, AlignedScan Map, ComparedOutcome Compared,
    IReadOnlyList<MeasuredFeature> Features,
    IReadOnlyList<CharacteristicResult> Characteristics)
{
    public AlignmentResult Alignment => Aligned.Result;

    public DeviationStatistics Statistics => Compared.Statistics;

    public Verdict Verdict => Overall(Characteristics.Select(c => c.Verdict));

    /// <summary>
    /// The piece's verdict: non-conforming if anything is, else not proven if anything is or was not measured, else conforming.
    /// </summary>
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
/// What each station does to a scan of one nominal. <see cref="Replay"/> calls them in order; the web, the workers and the command line all
/// go through there, so a figure is the same wherever it is shown. Safe for concurrent use.
/// </summary>
public sealed class InspectionRunner
{
    private readonly Lazy<AlignmentTarget> _target;
    private readonly Lazy<NominalSurface> _surface;
    private readonly ConditionalWeakTable<TriangleMesh, Once<AlignmentResult>> _bestFits = [];

    private readonly ConditionalWeakTable<TriangleMesh, Latest<(RigidTransform, DeviationOptions), MeasuredScan>> _measured = [];

    /// <summary>By what was compared, and by the standard uncertainty of the device.</summary>
    private readonly ConditionalWeakTable<DeviationMap, ConcurrentDictionary<double, Lazy<Explanation>>> _explanations = [];

    public InspectionRunner(NominalModel nominal)
    {
        Nominal = nominal;
        _target = new(() => new(new(nominal.Mesh)));
        _surface = new(() => NominalSurface.Of(nominal));
    }

    public NominalModel Nominal { get; }

    public AlignmentTarget Target => _target.Value;

    public TriangleTree Tree => Target.Tree;

    /// <summary>What maps that lie on the nominal are made on.</summary>
    public NominalSurface Surface => _surface.Value;

    /// <summary>Carries out the plan's preparing steps.</summary>
    /// <param name="scan">Raw scan in mm.</param>
    /// <exception cref="BadInputException">A step does not suit the scan, or needs a pose the scan does not have.</exception>
    public PreparedScan Prepare(
        TriangleMesh scan, InspectionPlan plan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var context = ContextFor(scan);
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
    public static PreparedScan Continue(
        PreparedScan before, PrepareStep step, PreparationContext context, CancellationToken cancel = default)
    {
        cancel.ThrowIfCancellationRequested();
        if (step.Off)
        {
            return before;
        }

        var outcome = step.Apply(before.Mesh, context, cancel);
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
    /// What steps on a scan may refer to. Its pose is found when a rule first asks for it, always from the raw scan's own part and so the
    /// same whatever was done before: steps do not move a scan as a whole.
    /// </summary>
    public PreparationContext ContextFor(TriangleMesh scan)
    {
        var found = new Once<AlignmentResult>();
        RigidTransform Pose(CancellationToken cancel) => found.Get(() =>
        {
            var part = LoosePieces.DropAllButPart(scan, Nominal.Mesh.Area()).Mesh;
            var fit = SurfaceAlignment.FitToAllSurfaces(part, Target, null, null, cancel);
            return fit.Resembles
                ? fit
                : throw new BadInputException("A preparing step refers to a place on the nominal. " + Unlike(fit));
        }).Transform;
        return new(Tree, Pose);
    }

    /// <summary>The connected pieces of a scan, the part marked by the nominal's area; none of a cloud.</summary>
    public IReadOnlyList<ConnectedPiece> Pieces(TriangleMesh scan) =>
        scan.TriangleCount == 0 ? [] : ConnectedPieces.Find(scan, Nominal.Mesh.Area()).Pieces;

    public AlignmentResult Align(
        PreparedScan scan, InspectionPlan plan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var told = Adapt(progress);

        // A mesh never changes: its best fit stays true as long as it is, and other ways of aligning it begin there.
        AlignmentResult BestFit() => _bestFits.GetValue(scan.Mesh, _ => new())
            .Get(() => SurfaceAlignment.FitToAllSurfaces(scan.Mesh, Target, null, told, cancel));
        // Datums are measured in the pose found first; which of them are chosen then, and in what order, measures nothing anew.
        var limits = SearchLimits(plan);
        MeasuredScan MeasuredIn(RigidTransform pose) => _measured.GetValue(scan.Mesh, _ => new()).Get((pose, limits), () =>
            new(new(scan.Mesh, pose, Deviation.Compute(scan.Mesh, pose, Nominal, Tree, limits, null, cancel)), Nominal));
        var result = plan.Align.Run(new(scan.Mesh, plan, Nominal, Target, told, cancel, BestFit, MeasuredIn));
        return result with { FarthestSigma = result.Uncertainty is { } u ? Nominal.Mesh.Bounds.Corners.Max(u.SigmaAt) : null };
    }

    /// <summary>All characteristics of a plan on a scan whose pose under one of its alignments is known.</summary>
    /// <param name="name">Of that alignment; null: the plan's own.</param>
    public IReadOnlyList<CharacteristicResult> EvaluateIn(
        string? name, AlignedOutcome aligned, PreparedScan scan, InspectionPlan plan, CancellationToken cancel = default)
    {
        var keys = OutcomeKeys.Of(new("", "", null, ""), new("", "", ""), plan);
        var known = new MemoryOutcomes();
        known.Put(keys.In(name).Aligned, aligned);
        return new Replay(plan with { OtherWays = false }, keys, known, () => this, () => scan).Evaluated(null, cancel);
    }

    public DeviationMap Compare(PreparedScan scan, RigidTransform transform, InspectionPlan plan, IProgress<RunProgress>? progress = null,
        CancellationToken cancel = default)
    {
        var report = progress is null ? null : new Relay<double>(s => progress.Report(new(s, "Measuring deviations")));
        return Deviation.Compute(scan.Mesh, transform, Nominal, Tree, SearchLimits(plan), report, cancel);
    }

    /// <summary>Statistics within the plan's band.</summary>
    public ComparedOutcome Summarise(AlignedScan scan, InspectionPlan plan)
    {
        var how = SearchLimits(plan);
        var statistics = DeviationStatistics.Of(scan.Deviations.Values, WeightsOf(scan.Mesh), plan.Compare.Lower, plan.Compare.Upper);
        return new(how, plan.Compare.Lower, plan.Compare.Upper, statistics);
    }

    /// <summary>What labels read of the deviation.</summary>
    public IReadOnlyList<LabelReading> ReadLabels(AlignedScan scan, IReadOnlyList<LabelPlan> labels) =>
        ReadLabels(scan.Mesh, scan.Transform, scan.Deviations.Values, WeightsOf(scan.Mesh), labels);

    /// <summary>What labels read of another map.</summary>
    public IReadOnlyList<LabelReading> ReadLabels(PieceMap map, IReadOnlyList<LabelPlan> labels) =>
        ReadLabels(map.Mesh, map.Transform, map.Values, map.Areas, labels);

    private IReadOnlyList<LabelReading> ReadLabels(
        TriangleMesh mesh, RigidTransform transform, double[] values, double[] areas, IReadOnlyList<LabelPlan> labels) =>
        LabelReading.Read(
            [.. labels.Select(l => (l.Point, l.Radius))], mesh, transform, values, areas,
            DeviationOptions.For(Nominal).MaxDistance + mesh.MeanEdge());

    /// <summary>A scan and its nominal cut in one plane.</summary>
    /// <param name="parts">Whether lines and arcs are sought, too.</param>
    /// <exception cref="BadInputException">The section is no plane, or does not cut the nominal.</exception>
    public SectionSheet Section(SectionPlan section, AlignedScan scan, InspectionPlan plan, bool parts = true)
    {
        section.Check("section");
        return SectionSheet.Of(
            section.Plane(), scan.Mesh, scan.Transform, scan.Beside.Spacing, Nominal, SearchLimits(plan), plan.Compare.Lower,
            plan.Compare.Upper, parts);
    }

    /// <summary>Makes a map of a piece, whether it is in the plan itself or not.</summary>
    /// <param name="scan">In the alignment of the plan's comparison.</param>
    /// <exception cref="BadInputException">The scan does not have what the map needs, or has no value anywhere.</exception>
    public PieceMap Map(
        MapPlan map, AlignedScan scan, BesideScan beside, InspectionPlan plan, IProgress<RunProgress>? progress = null,
        CancellationToken cancel = default)
    {
        map.Check("map");
        foreach (var face in map.Faces)
        {
            _ = Nominal.Face(face);
        }

        var told = progress is null ? null : new Relay<double>(share => progress.Report(new(share, "Making the map")));
        var values = map.Values(new(this, plan, scan, beside, told, cancel));
        return map.OnNominal
            ? PieceMap.Of(map, Surface.Mesh, RigidTransform.Identity, values, Surface.Mesh.VertexAreas, v => Surface.FaceOfVertex[v], plan)
            : PieceMap.Of(map, scan.Mesh, scan.Transform, values, WeightsOf(scan.Mesh), v => FaceAt(scan, v), plan);
    }

    /// <summary>Takes the deviation of a scan apart. What was found once of a scan is kept with it.</summary>
    /// <exception cref="BadInputException">Too little of the part was measured.</exception>
    public Explanation Explain(AlignedScan scan, InspectionPlan plan)
    {
        // Over the whole part; a length error is uniform within its limits.
        var device = plan.Device.Contributions(new(1, Nominal.Mesh.Bounds.Diagonal, 0)).Sum(c => c.Sigma);
        return _explanations.GetOrCreateValue(scan.Deviations).GetOrAdd(
            device,
            d => new(() => Explanation.Of(
                scan.Mesh, scan.Transform, scan.Deviations, WeightsOf(scan.Mesh), scan.Beside.Spacing, Nominal, d))).Value;
    }

    /// <summary>The same where the plan asks for it; null: it does not.</summary>
    public PieceExplanation? Explained(AlignedScan scan, InspectionPlan plan)
    {
        if (!plan.Compare.Explain)
        {
            return null;
        }

        var names = PieceExplanation.Names(plan, Nominal);
        try
        {
            return new(Explain(scan, plan), null, names);
        }
        catch (BadInputException reason)
        {
            return new(null, reason.Message, names);
        }
    }

    /// <summary>Where the deviation lies beyond a band, the largest areas first.</summary>
    /// <param name="smallest">Smaller areas are left out, mm²; null: those that no more than a few points make.</param>
    /// <exception cref="BadInputException">The limits are the wrong way round.</exception>
    public IReadOnlyList<AreaBeyond> Areas(AlignedScan scan, double lower, double upper, double? smallest = null)
    {
        if (!(lower < upper))
        {
            throw new BadInputException("lower: must lie below upper.");
        }

        var least = smallest ?? AreaBeyond.FewPoints * scan.Beside.Spacing * scan.Beside.Spacing;
        return [.. OutOfTolerance.Areas(scan.Beside, scan.Deviations.Values, lower, upper, least).Take(AreaBeyond.Most)
            .Select(a => new AreaBeyond(
                a.High, a.Area, a.Extreme, scan.Transform.Apply(scan.Mesh.Vertex(a.At)).ToArray(), FaceAt(scan, a.At), a.Vertices.Length))];
    }

    /// <summary>All further maps of a plan. One that a piece does not have fails alone.</summary>
    public IReadOnlyList<MadeMap> Maps(
        AlignedScan scan, BesideScan beside, InspectionPlan plan, CancellationToken cancel = default) =>
        [.. plan.Compare.Maps.Select(m =>
        {
            try
            {
                return new MadeMap(m, Map(m, scan, beside, plan, null, cancel), null);
            }
            catch (BadInputException reason)
            {
                return new MadeMap(m, null, reason.Message);
            }
        })];

    /// <summary>The face of the nominal that a vertex was compared with; −1: none.</summary>
    public int FaceAt(AlignedScan scan, int vertex) =>
        scan.Deviations.Triangles[vertex] is var t and >= 0 ? Nominal.FaceOfTriangle[t] : -1;

    /// <summary>Measures one feature.</summary>
    public FeatureResult Measure(FeaturePlan feature, AlignedScan scan) => FeatureExtraction.Measure(feature, scan, Nominal);

    /// <summary>Makes a construction from features of a plan, whether it is in the plan itself or not.</summary>
    /// <exception cref="BadInputException">What it is made from cannot be measured, or does not determine it.</exception>
    public FeatureResult Construct(ConstructionPlan construction, InspectionPlan plan, AlignedScan scan)
    {
        var features = FeaturesOf(plan, scan);
        return Constructed.Of(construction, [.. construction.From.Select(f => features[f])]);
    }

    /// <summary>What an evaluation may draw on.</summary>
    internal EvaluationContext EvaluationOf(InspectionPlan plan, MeasuredScan measured)
    {
        var (scan, features, whole) = (measured.Scan, new PlanFeatures(plan, measured), new PlanFeatures(plan, measured, leaveOut: false));
        var cuts = new ConcurrentDictionary<(string, RigidTransform), Lazy<SectionSheet>>();
        SectionPlan Named(string name) => plan.Compare.Sections.FirstOrDefault(s => s.Name == name)
            ?? throw new BadInputException($"The plan has no section '{name}'.");
        SectionSheet Made(string name, RigidTransform by) => Section(Named(name), scan with { Transform = by.After(scan.Transform) }, plan);
        return new(Nominal, Tree, scan, plan.Align.Words, id => features[id], id => whole[id],
            plan.Datums.ToDictionary(d => d.Label, d => d.Features), SearchLimits(plan))
        {
            // Many characteristics lie in one section.
            Cut = (name, by) => cuts.GetOrAdd((name, by), _ => new(() => Made(name, by))).Value,
        };
    }

    /// <summary>The features of a plan on a scan.</summary>
    public PlanFeatures FeaturesOf(InspectionPlan plan, AlignedScan scan) => new(plan, new(scan, Nominal));

    /// <summary>What one characteristic rests on, measured anew.</summary>
    /// <exception cref="BadInputException">The plan has no such characteristic, or a feature cannot be measured.</exception>
    public StageEvidence Evidence(InspectionPlan plan, int no, AlignedScan scan)
    {
        var row = plan.Characteristics.FirstOrDefault(c => c.No == no)
            ?? throw new BadInputException($"no: the plan has no characteristic {no}.");
        return StageEvidence.Of(row, EvaluationOf(plan, new(scan, Nominal)));
    }

    /// <summary>All stations in order, nothing known beforehand.</summary>
    /// <param name="scan">Raw scan in mm.</param>
    public InspectionResult Run(
        TriangleMesh scan, InspectionPlan plan, IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var keys = OutcomeKeys.Of(new("", "", null, ""), new("", "", ""), plan);
        return new Replay(plan, keys, new MemoryOutcomes(), () => this, () => Prepare(scan, plan, null, cancel)).All(progress, cancel);
    }

    /// <summary>Why no verdict may rest on an alignment.</summary>
    public static string Unlike(AlignmentResult alignment) => alignment.Mirrored
        ? "The scan is a mirror image of the nominal: mirrored, it would lie on it. Check the axes of the export, or whether this is the "
            + "part of the opposite hand."
        : string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"The scan does not resemble the nominal: only {100 * alignment.Inliers:0} % of it lies near the surface and it covers "
                + $"{100 * alignment.Coverage:0} %.");

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

    /// <summary>
    /// The plan's limits of the search for counterparts; the distance from the size of the part when the plan gives none.
    /// </summary>
    public DeviationOptions SearchLimits(InspectionPlan plan) =>
        new(plan.Compare.MaxDistance ?? DeviationOptions.For(Nominal).MaxDistance, plan.Compare.MaxAngleDegrees);

    private static Relay<(double Share, string What)>? Adapt(IProgress<RunProgress>? progress) =>
        progress is null ? null : new Relay<(double Share, string What)>(p => progress.Report(new(p.Share, p.What)));

    /// <summary>Passes progress on at once, on the reporting thread.</summary>
    private sealed class Relay<T>(Action<T> to) : IProgress<T>
    {
        public void Report(T value) => to(value);
    }
}
