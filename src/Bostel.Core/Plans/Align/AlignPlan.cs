using System.Text.Json.Serialization;
using Bostel.Core.Alignment;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Plans;

/// <summary>How the scan is brought onto the nominal. The ways are a closed set; each is a file of its own beside this one.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "method")]
[JsonDerivedType(typeof(AllSurfacesPlan), "all-surfaces")]
[JsonDerivedType(typeof(ChosenFacesPlan), "faces")]
[JsonDerivedType(typeof(ByDatumsPlan), "datums")]
[JsonDerivedType(typeof(AxisSystemPlan), "axis-system")]
[JsonDerivedType(typeof(ReferencePointsPlan), "reference-points")]
[JsonDerivedType(typeof(PointPairsPlan), "point-pairs")]
[JsonDerivedType(typeof(AsGivenPlan), "as-given")]
public abstract record AlignPlan
{
    /// <summary>The way in words, for screen, report, log and command line.</summary>
    [JsonIgnore]
    public abstract string Words { get; }

    /// <summary>Faces of the nominal that it names.</summary>
    [JsonIgnore]
    public virtual IReadOnlyList<int> NamedFaces => [];

    /// <summary>Features of the plan that it names.</summary>
    internal virtual IReadOnlyList<string> NamedFeatures => [];

    /// <summary>What of the plan beside this section the pose rests on, for its key; null: nothing.</summary>
    internal virtual object? RestsOn(InspectionPlan plan) => null;

    /// <summary>What holds a motion of the part, in words; null: nothing, it stays as it came.</summary>
    internal abstract string? HeldBy(Motion motion, AlignmentResult result);

    internal abstract AlignmentResult Run(AlignmentTask task);

    /// <summary>What is missing or wrong, each as "field: sentence".</summary>
    /// <exception cref="BadInputException">A pose is none.</exception>
    internal abstract IEnumerable<string> Faults(IReadOnlySet<string> datums);

    /// <summary>What measured features rest on: how each is measured, constructed and found.</summary>
    private protected static object RestsOnFeatures(InspectionPlan plan, IEnumerable<string> ids)
    {
        var features = plan.Features.ToDictionary(f => f.Id);
        var constructions = plan.Constructions.ToDictionary(c => c.Id);
        IEnumerable<ConstructionPlan> Made(string id) => constructions.TryGetValue(id, out var c) ? c.From.SelectMany(Made).Append(c) : [];
        IEnumerable<FeaturePlan> Measured(string id) =>
            constructions.TryGetValue(id, out var c) ? c.From.SelectMany(Measured) : [features[id]];
        var all = ids.ToList();
        return new
        {
            features = all.SelectMany(Measured),
            constructions = all.SelectMany(Made).ToArray() is { Length: > 0 } made ? made : null,
            plan.Compare.MaxDistance,
            plan.Compare.MaxAngleDegrees,
        };
    }

    private protected static bool IsVector(double[] v) => v.Length == 3 && v.All(double.IsFinite);

    private protected static string Counted(int n, string what) => n == 1 ? $"1 {what}" : $"{n} {what}s";
}

/// <summary>What an alignment works on.</summary>
/// <param name="Scan">Prepared scan, mm.</param>
/// <param name="BestFit">The best fit of the scan to all surfaces, sought once for all ways that start from it.</param>
/// <param name="MeasuredIn">The scan in a pose that was found first; ways that begin in the same pose share what is measured there.</param>
internal sealed record AlignmentTask(
    TriangleMesh Scan, InspectionPlan Plan, NominalModel Nominal, AlignmentTarget Target,
    IProgress<(double Share, string What)>? Progress, CancellationToken Cancel, Func<AlignmentResult> BestFit,
    Func<RigidTransform, MeasuredScan> MeasuredIn)
{
    /// <summary>The plan's features, measured in a pose that was found first.</summary>
    public PlanFeatures FeaturesIn(RigidTransform pose) => new(Plan, MeasuredIn(pose));

    public AlignmentResult Assess(RigidTransform pose) => SurfaceAlignment.Assess(Scan, Target, pose);

    public AlignmentResult Stepped(DatumPose pose) => Assess(pose.Transform) with { Steps = pose.Steps };
}
