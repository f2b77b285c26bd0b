using System.Text.Json.Serialization;
using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>How much a face counts in the alignment; 0 leaves it out.</summary>
public sealed record FaceWeight(int Face, double Weight);

/// <summary>A best fit, to all surfaces or to some.</summary>
public abstract record BestFitPlan : StartedPlan
{
    public IReadOnlyList<FaceWeight> Weights { get; init; } = [];

    /// <summary>Motions that keep the start's value.</summary>
    public IReadOnlyList<Motion> Locked { get; init; } = [];

    /// <summary>
    /// Balances the part within its tolerance bands: those of its surface profiles, elsewhere the band of the comparison.
    /// </summary>
    public bool Balance { get; init; }

    [JsonIgnore]
    public override string Words
    {
        get
        {
            var leftOut = Weights.Where(w => w.Weight == 0).Select(w => w.Face).ToArray();
            return Fitted + (Balance ? ", balanced within the tolerance bands" : "")
                + (leftOut.Length > 0 ? $", without {Counted(leftOut.Length, "face")} ({string.Join(", ", leftOut)})" : "")
                + (Weights.Any(w => w.Weight is not (0 or 1)) ? ", faces weighted" : "")
                + (Locked.Count > 0 ? $", {string.Join(", ", Locked.Select(AlignmentScope.NameOf))} kept" : "") + Aside;
        }
    }

    [JsonIgnore]
    public override IReadOnlyList<int> NamedFaces => [.. Chosen ?? [], .. Weights.Select(w => w.Face)];

    private protected abstract string Fitted { get; }

    /// <summary>Numbers of the faces that take part; null: all.</summary>
    private protected abstract IReadOnlyCollection<int>? Chosen { get; }

    internal override string? HeldBy(Motion motion, AlignmentResult result) => Locked.Contains(motion)
        ? "kept from the start"
        : result.Uncertainty is { } u && !double.IsFinite(u.Covariance[7 * (int)motion]) ? null
        : Chosen is { } faces ? Counted(faces.Count, "chosen face") : "all surfaces";

    internal override object? RestsOn(InspectionPlan plan) => Balance
        ? new { plan.Compare.Lower, plan.Compare.Upper, profiles = Profiles(plan).Select(p => new { p.Faces, p.Tolerance }) }
        : null;

    internal override IEnumerable<string> Faults(IReadOnlySet<string> datums)
    {
        if (Locked.Count > 0 && Start is null)
        {
            yield return "locked: motions can only keep the value of a start; align.start is missing.";
        }

        if (!Weights.All(w => w.Weight >= 0 && double.IsFinite(w.Weight)))
        {
            yield return "weights: a weight must be 0 or more.";
        }

        if (Weights.Select(w => w.Face).Distinct().Count() != Weights.Count)
        {
            yield return "weights: a face appears twice.";
        }

        foreach (var fault in base.Faults(datums))
        {
            yield return fault;
        }
    }

    /// <summary>Which triangles of the nominal count how much, and what is locked.</summary>
    /// <exception cref="BadInputException">A face the nominal does not have.</exception>
    private protected AlignmentScope Scope(NominalModel nominal)
    {
        var chosen = Chosen?.Select(f => nominal.Face(f).Id).ToHashSet();
        var weights = Weights.ToDictionary(w => nominal.Face(w.Face).Id, w => w.Weight);
        return new()
        {
            Locked = Locked,
            TriangleWeights = chosen is null && weights.Count == 0
                ? null
                : [.. nominal.FaceOfTriangle.Select(f => chosen is null || chosen.Contains(f) ? weights.GetValueOrDefault(f, 1) : 0)],
        };
    }

    private protected override AlignmentResult From(AlignmentResult first, AlignmentTask task) => Balance
        ? Balanced(first.Transform, task)
        : SurfaceAlignment.RefineFrom(task.Scan, task.Target, first.Transform, Scope(task.Nominal), null, task.Cancel);

    private AlignmentResult Balanced(RigidTransform start, AlignmentTask task)
    {
        var (plan, nominal) = (task.Plan, task.Nominal);
        var (lower, upper) = (new double[nominal.Mesh.TriangleCount], new double[nominal.Mesh.TriangleCount]);
        Array.Fill(lower, plan.Compare.Lower);
        Array.Fill(upper, plan.Compare.Upper);
        foreach (var profile in Profiles(plan).Where(c => c.Tolerance is > 0))
        {
            var faces = profile.Faces.Select(f => nominal.Face(f).Id).ToHashSet();
            for (var t = 0; t < lower.Length; t++)
            {
                if (faces.Contains(nominal.FaceOfTriangle[t]))
                {
                    (lower[t], upper[t]) = (-profile.Tolerance!.Value / 2, profile.Tolerance.Value / 2);
                }
            }
        }

        return SurfaceAlignment.Balance(task.Scan, task.Target, start, lower, upper, Scope(nominal), null, task.Cancel);
    }

    private static IEnumerable<SurfaceProfilePlan> Profiles(InspectionPlan plan) => plan.Characteristics.OfType<SurfaceProfilePlan>();
}

/// <summary>Best fit to all of the nominal.</summary>
public sealed record AllSurfacesPlan : BestFitPlan
{
    private protected override string Fitted => "best fit to all surfaces";

    private protected override IReadOnlyCollection<int>? Chosen => null;

    internal override AlignmentResult Run(AlignmentTask task)
    {
        if (Balance)
        {
            return base.Run(task);
        }

        var scope = Scope(task.Nominal);
        return Start is { } start
            ? SurfaceAlignment.RefineFrom(task.Scan, task.Target, RigidTransform.FromArray(start), scope, task.Progress, task.Cancel)
            : Preferred(task, scope, scope.IsEverything
                ? task.BestFit()
                : SurfaceAlignment.FitToAllSurfaces(task.Scan, task.Target, scope, task.Progress, task.Cancel));
    }
}

/// <summary>Best fit to chosen faces.</summary>
public sealed record ChosenFacesPlan : BestFitPlan
{
    public int[] Faces { get; init; } = [];

    private protected override string Fitted => $"best fit to {Counted(Faces.Length, "chosen face")} ({string.Join(", ", Faces)})";

    private protected override IReadOnlyCollection<int>? Chosen => Faces;

    internal override IEnumerable<string> Faults(IReadOnlySet<string> datums) =>
        Faces.Length > 0 ? base.Faults(datums) : ["faces: at least one face is needed."];
}
