using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>The limits of rows that take theirs from the plan's general tolerances.</summary>
public static class GeneralLimits
{
    /// <summary>The plan with the limits of all such rows as its general tolerances give them.</summary>
    /// <exception cref="BadInputException">They say nothing of such a row; names it.</exception>
    public static InspectionPlan WithGeneralLimits(this InspectionPlan plan, NominalModel nominal)
    {
        if (plan.General is not { } rule || !plan.Characteristics.Any(c => c.General))
        {
            return plan;
        }

        return plan with
        {
            Characteristics = [.. plan.Characteristics.Select(c => !c.General ? c : Given(c, plan, nominal)
                ?? throw new BadInputException(
                    $"Characteristic {c.No}, {c.Name}: {rule.Words} says nothing of its {c.Kind}; it needs limits of its own."))],
        };
    }

    /// <summary>A row with the limits that the general tolerances give it; null: they say nothing of it, or the plan has none.</summary>
    internal static CharacteristicPlan? Given(CharacteristicPlan row, InspectionPlan plan, NominalModel nominal) => plan.General switch
    {
        null => null,

        // Of nothing there is no size; what it lacks is said when it is measured.
        _ when row.Refers is { Features.Count: 0, Faces.Count: 0, Section: null } => null,
        var rule => row switch
        {
            DimensionalPlan d => Deviation(d, rule, plan, nominal) is { } by ? d with { General = true, Lower = -by, Upper = by } : null,
            GeometricalPlan g => Zone(g, rule, plan, nominal) is { } width ? g with { General = true, Tolerance = width } : null,
            _ => null,
        },
    };

    private static double? Deviation(DimensionalPlan row, GeneralTolerances rule, InspectionPlan plan, NominalModel nominal) =>
        (row, row.Nominal) switch
        {
            (_, null) => null,
            (AnglePlan or ConeAnglePlan, _) => rule.OfAngle(row.Refers.Features.Min(f => Side(f, plan, nominal))),
            (SectionAnglePlan, _) => rule.OfAngle(null),
            (RadiusPlan, { } radius) when !PerfectFeature.Of(nominal, plan, row.Refers.Features[0]).Nominal.Internal =>
                rule.OfExternalRadius(radius),
            (_, { } size) => rule.OfLength(size),
        };

    private static double? Zone(GeometricalPlan row, GeneralTolerances rule, InspectionPlan plan, NominalModel nominal)
    {
        return row switch
        {
            FlatnessPlan or StraightnessPlan => rule.OfForm(Side(row.Refers.Features[0], plan, nominal)),
            RoundnessPlan => PerfectFeature.Of(nominal, plan, row.Refers.Features[0]) is { NominalRadius: { } r }
                ? rule.OfRoundness(2 * r) : null,
            PerpendicularityPlan => rule.OfPerpendicularity(Shorter()),
            SymmetryPlan => rule.OfSymmetry(Shorter()),
            CircularRunOutPlan => rule.OfRunOut,
            SurfaceProfilePlan => rule.OfProfile,
            _ => null,
        };

        // The longer of the two is the datum (ISO 2768-2, 5.2).
        double Shorter() => row.Refers.Features.Concat(plan.Datums.Where(d => row.Refers.Letters.Contains(d.Label))
            .SelectMany(d => d.Features)).Min(f => Side(f, plan, nominal));
    }

    private static double Side(string feature, InspectionPlan plan, NominalModel nominal) =>
        PerfectFeature.LongerSide(PerfectFeature.Of(nominal, plan, feature));
}
