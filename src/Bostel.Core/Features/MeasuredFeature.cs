using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>
/// What is kept of a measured feature: how it was measured (<see cref="Plan"/>: faces, criterion, margin, search distance), its numbers,
/// and how sure they are (standard deviations, mm and rad). The points themselves are found again from the scan. <see cref="Failure"/> says
/// why there are no numbers.
/// </summary>
public sealed record MeasuredFeature(FeaturePlan Plan)
{
    /// <summary>How it follows from other features; null: it was measured itself.</summary>
    public ConstructionPlan? Construction { get; init; }

    public string? Failure { get; init; }
    public string Kind { get; init; } = "";

    /// <summary>The shape as numbers, see <see cref="NominalModelStore.Numbers"/>.</summary>
    public double[] Measured { get; init; } = [];
    public double[] Nominal { get; init; } = [];
    public int Used { get; init; }
    public LeftOut LeftOut { get; init; } = LeftOut.Nothing;
    public double Coverage { get; init; }
    public double Scatter { get; init; }
    public double Form { get; init; }
    public double EdgeMargin { get; init; }

    /// <summary>The margin that was cut to fit a narrow face, mm; null: it was not.</summary>
    public double? MarginCutFrom { get; init; }
    public double RadiusSigma { get; init; }
    public double PositionSigma { get; init; }
    public double DirectionSigma { get; init; }

    /// <summary>Of a pattern: its step, and each place against the ideal.</summary>
    public PatternReading? Pattern { get; init; }

    /// <summary>One that could not be measured.</summary>
    public static MeasuredFeature Failed(FeaturePlan plan, ConstructionPlan? construction, string reason) =>
        new(plan) { Construction = construction, Failure = reason };

    public static MeasuredFeature Of(FeatureResult f) => new(f.Plan)
    {
        Construction = f.Construction,
        Kind = f.Nominal.Kind,
        Measured = NominalModelStore.Numbers(f.Shape) ?? [],
        Nominal = NominalModelStore.Numbers(f.Nominal.Shape) ?? [],
        Used = f.Used,
        LeftOut = f.LeftOut,
        Coverage = f.Coverage,
        Scatter = f.Scatter,
        Form = f.Form,
        EdgeMargin = f.EdgeMargin,
        MarginCutFrom = f.MarginCutFrom,
        RadiusSigma = f.RadiusSigma,
        PositionSigma = f.PositionSigma,
        DirectionSigma = f.DirectionSigma,
        Pattern = PatternReadings.Of(f),
    };
}
