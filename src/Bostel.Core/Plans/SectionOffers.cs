using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>What can be measured of one part of a section, or between two.</summary>
public static class SectionOffers
{
    /// <summary>Each as a characteristic with the nominal's own value, judged by general tolerances (ISO 2768 m) to begin with.</summary>
    /// <param name="section">In the plan or not yet.</param>
    /// <param name="parts">Places on the nominal, two at the most; none: of the cut itself.</param>
    /// <param name="scan">In the alignment of the plan's comparison.</param>
    /// <exception cref="BadInputException">No part of the section lies at a place.</exception>
    public static IReadOnlyList<CharacteristicResult> For(
        SectionPlan section, IReadOnlyList<double[]> parts, AlignedScan scan, InspectionPlan plan, InspectionRunner runner)
    {
        if (parts.Count > 2 || parts.Any(p => p is not { Length: 3 } || !p.All(double.IsFinite)))
        {
            throw new BadInputException("parts: at most two places of three coordinates.");
        }

        var sheet = runner.Section(section, scan, plan);
        var found = SectionDimension.Named(sheet, parts);
        var context = runner.EvaluationOf(plan, new MeasuredScan(scan, runner.Nominal)) with { Cut = (_, _) => sheet };
        return [.. SectionDimension.Possible(found).Select(m => (CharacteristicPlan)Asked(m, section, parts, found, plan))
            .Append(Profile(section, found, plan))
            .Select(c => Evaluation.Judge(
                c, Evaluation.Measure(c.By(plan.Standard), context), plan.Decision, plan.Device, plan.Temperature))];
    }

    /// <summary>Of the cut faces that the parts lie on, or of all; as wide as the band of the map to begin with.</summary>
    private static LineProfilePlan Profile(SectionPlan section, IReadOnlyList<SectionPart> found, InspectionPlan plan) =>
        new(NextNo(plan), $"{section.Name} profile")
        {
            Section = section.Name,
            Faces = [.. found.Select(p => p.Face).Distinct().Order()],
            Tolerance = Math.Round(plan.Compare.Upper - plan.Compare.Lower, 6),
            Alignment = plan.Compare.Alignment,
        };

    private static int NextNo(InspectionPlan plan) => 1 + plan.Characteristics.Select(c => c.No).DefaultIfEmpty().Max();

    private static SectionDimensionPlan Asked(
        SectionMeasure measure, SectionPlan section, IReadOnlyList<double[]> parts, IReadOnlyList<SectionPart> found, InspectionPlan plan)
    {
        var no = NextNo(plan);
        var nominal = Math.Round(SectionDimension.OnNominal(measure, found, null), 4);
        var allowed = measure is SectionMeasure.Angle
            ? UsualTolerances.OfAngle(found.Min(p => p.Nominal))
            : UsualTolerances.OfLength(Math.Abs(nominal));
        SectionDimensionPlan made = measure switch
        {
            SectionMeasure.Radius => new SectionRadiusPlan(no, $"{section.Name} radius"),
            SectionMeasure.Diameter => new SectionDiameterPlan(no, $"{section.Name} diameter"),
            SectionMeasure.Distance => new SectionDistancePlan(no, $"{section.Name} distance"),
            SectionMeasure.Greatest => new SectionGreatestPlan(no, $"{section.Name} greatest distance"),
            SectionMeasure.Least => new SectionLeastPlan(no, $"{section.Name} least distance"),
            _ => new SectionAnglePlan(no, $"{section.Name} angle"),
        };
        return made with
        {
            Section = section.Name,
            Parts = [.. parts.SelectMany(p => p)],
            Nominal = nominal,
            Lower = -allowed,
            Upper = allowed,
            Alignment = plan.Compare.Alignment,
        };
    }
}
