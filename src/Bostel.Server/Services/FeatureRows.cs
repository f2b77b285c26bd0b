using Bostel.Core.Features;
using Bostel.Core.Plans;
using Bostel.Core.Segmentation;
using Bostel.Data;

namespace Bostel.Server.Services;

/// <summary>Measured features as table rows.</summary>
public static class FeatureRows
{
    public static FeatureRow Of(Guid run, FeatureResult f) => new()
    {
        RunId = run,
        FeatureId = f.Plan.Id,
        Name = f.Plan.Name,
        Kind = f.Nominal.Kind,
        Measured = NominalModelStore.Numbers(f.Shape) ?? [],
        Nominal = NominalModelStore.Numbers(f.Nominal.Shape) ?? [],
        Used = f.Used,
        Rejected = f.Rejected,
        Coverage = f.Coverage,
        Scatter = f.Scatter,
        Form = f.Form,
        EdgeMargin = f.EdgeMargin,
        RadiusSigma = f.RadiusSigma,
        PositionSigma = f.PositionSigma,
        DirectionSigma = f.DirectionSigma,
    };

    public static FeatureRow Failed(Guid run, string id, InspectionPlan plan, string why) => new()
    {
        RunId = run,
        FeatureId = id,
        Name = plan.Features.FirstOrDefault(f => f.Id == id)?.Name ?? id,
        Failure = why,
    };
}
