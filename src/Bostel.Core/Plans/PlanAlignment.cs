using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Segmentation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>Carries out the alignment a plan asks for.</summary>
internal static class PlanAlignment
{
    /// <summary>
    /// Half of the smallest turn between the poses of parts with up to six equal sides: nearer than this a pose is meant, rad.
    /// </summary>
    private const double FarthestPreferred = Math.PI / 6;

    public static AlignmentResult Run(
        TriangleMesh scan, InspectionPlan plan, NominalModel nominal, AlignmentTarget target, DeviationOptions options,
        IProgress<(double Share, string What)>? progress, CancellationToken cancel)
    {
        var align = plan.Align;
        if (align.Method == "point-pairs")
        {
            var (pose, residuals) = PointPairs.Fit(align.PointPairs);
            return SurfaceAlignment.Assess(scan, target, pose) with
            {
                Steps = [.. residuals.Select((r, i) => new AlignmentStep($"pair {i + 1}", 0, 0, r, ""))],
            };
        }

        if (align.Method == "as-given")
        {
            return SurfaceAlignment.Assess(scan, target, align.StartPose!.Value);
        }

        var scope = align.Scope(nominal);
        var all = align.Method == "all-surfaces" && !align.Balance;
        var first = align.StartPose is { } start
            ? all ? SurfaceAlignment.RefineFrom(scan, target, start, scope, progress, cancel) : SurfaceAlignment.Assess(scan, target, start)
            : Preferred(scan, target, all ? scope : null, align.PreferredPose,
                SurfaceAlignment.FitToAllSurfaces(scan, target, all ? scope : null, progress, cancel), cancel);
        if (all || !first.Resembles)
        {
            return first;
        }

        var result = align.Method switch
        {
            "all-surfaces" or "faces" when align.Balance => Balanced(scan, plan, nominal, target, first.Transform, scope, cancel),
            "faces" => SurfaceAlignment.RefineFrom(scan, target, first.Transform, scope, null, cancel),
            "datums" => ByDatums(scan, plan, nominal, target, first.Transform, options, cancel),
            _ => Stepped(scan, target, ReferencePoints.Fit(new(scan), align.ReferencePoints, first.Transform, align.SearchDistance)),
        };
        return result with { Alternatives = first.Alternatives };
    }

    /// <summary>
    /// Of poses that fit equally well the one turned nearest to a preferred pose, if one lies near it; the others stay its alternatives. A
    /// preference made in another frame than this scan's lies near none of them and decides nothing.
    /// </summary>
    private static AlignmentResult Preferred(
        TriangleMesh scan, AlignmentTarget target, AlignmentScope? scope, RigidTransform? preferred, AlignmentResult best,
        CancellationToken cancel)
    {
        if (preferred is not { } wanted || best.Alternatives.Count == 0)
        {
            return best;
        }

        double Off(RigidTransform pose) => pose.After(wanted.Inverse()).RotationAngle();
        var chosen = best.Alternatives.MinBy(a => Off(a.Transform))!;
        if (Off(chosen.Transform) >= Math.Min(Off(best.Transform), FarthestPreferred))
        {
            return best;
        }

        var refined = SurfaceAlignment.RefineFrom(scan, target, chosen.Transform, scope, null, cancel);
        return refined with
        {
            Alternatives =
                [new AlternativePose(best.Transform, best.Rms, 1 / chosen.TimesWorse),
                    .. best.Alternatives.Where(a => a != chosen).Select(a => a with { TimesWorse = a.TimesWorse / chosen.TimesWorse })],
        };
    }

    private static AlignmentResult Balanced(
        TriangleMesh scan, InspectionPlan plan, NominalModel nominal, AlignmentTarget target, RigidTransform start, AlignmentScope scope,
        CancellationToken cancel)
    {
        var (lower, upper) = (new double[nominal.Mesh.TriangleCount], new double[nominal.Mesh.TriangleCount]);
        Array.Fill(lower, plan.Compare.Lower);
        Array.Fill(upper, plan.Compare.Upper);
        var features = plan.Features.ToDictionary(f => f.Id);
        foreach (var profile in plan.Characteristics.Where(c => c.Kind == "profile-of-a-surface" && c.Tolerance is > 0))
        {
            var faces = profile.Faces.Concat(profile.Features.SelectMany(f => features[f].Faces)).Select(f => nominal.Face(f).Id)
                .ToHashSet();
            for (var t = 0; t < lower.Length; t++)
            {
                if (faces.Contains(nominal.FaceOfTriangle[t]))
                {
                    (lower[t], upper[t]) = (-profile.Tolerance!.Value / 2, profile.Tolerance.Value / 2);
                }
            }
        }

        return SurfaceAlignment.Balance(scan, target, start, lower, upper, scope, null, cancel);
    }

    /// <summary>The datum features are measured in the pose found first, by the criteria the plan gives them.</summary>
    private static AlignmentResult ByDatums(
        TriangleMesh scan, InspectionPlan plan, NominalModel nominal, AlignmentTarget target, RigidTransform pose, DeviationOptions options,
        CancellationToken cancel)
    {
        var map = Deviation.Compute(scan, pose, nominal, target.Tree, options, null, cancel);
        var aligned = new AlignedScan(scan, pose, map);
        var features = plan.Features.ToDictionary(f => f.Id);
        var datums = plan.Datums.ToDictionary(d => d.Label);
        var found = DatumAlignment.Solve(
            [.. plan.Align.Datums.Select(label =>
                DatumSystem.AlignmentDatumOf(new(label,
                    [.. datums[label].Features.Select(f => FeatureExtraction.Measure(features[f], aligned, nominal))])))],
            RigidTransform.Identity);
        return Stepped(scan, target, found with { Transform = found.Transform.After(pose) });
    }

    private static AlignmentResult Stepped(TriangleMesh scan, AlignmentTarget target, DatumPose pose) =>
        SurfaceAlignment.Assess(scan, target, pose.Transform) with { Steps = pose.Steps };
}
