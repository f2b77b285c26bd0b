using System.Text.Json.Serialization;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>How the scan is brought onto the nominal. The ways are a closed set; each is a file of its own beside this one.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "method")]
[JsonDerivedType(typeof(AllSurfacesPlan), "all-surfaces")]
[JsonDerivedType(typeof(ChosenFacesPlan), "faces")]
[JsonDerivedType(typeof(ByDatumsPlan), "datums")]
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

    /// <summary>What of the plan beside this section the pose rests on, for its key; null: nothing.</summary>
    internal virtual object? RestsOn(InspectionPlan plan) => null;

    /// <summary>What holds a motion of the part, in words; null: nothing, it stays as it came.</summary>
    internal abstract string? HeldBy(Motion motion, AlignmentResult result);

    internal abstract AlignmentResult Run(AlignmentTask task);

    /// <summary>What is missing or wrong, each as "field: sentence".</summary>
    /// <exception cref="BadInputException">A pose is none.</exception>
    internal abstract IEnumerable<string> Faults(IReadOnlySet<string> datums);

    private protected static bool IsVector(double[] v) => v.Length == 3 && v.All(double.IsFinite);

    private protected static string Counted(int n, string what) => n == 1 ? $"1 {what}" : $"{n} {what}s";
}

/// <summary>What an alignment works on.</summary>
/// <param name="Scan">Prepared scan, mm.</param>
/// <param name="BestFit">The best fit of the scan to all surfaces, sought once for all ways that start from it.</param>
internal sealed record AlignmentTask(
    TriangleMesh Scan, InspectionPlan Plan, NominalModel Nominal, AlignmentTarget Target, DeviationOptions Options,
    IProgress<(double Share, string What)>? Progress, CancellationToken Cancel, Func<AlignmentResult> BestFit)
{
    public AlignmentResult Assess(RigidTransform pose) => SurfaceAlignment.Assess(Scan, Target, pose);

    public AlignmentResult Stepped(DatumPose pose) => Assess(pose.Transform) with { Steps = pose.Steps };
}
