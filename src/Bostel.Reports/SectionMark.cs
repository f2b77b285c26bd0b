using Bostel.Core.Comparison;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>Where a characteristic of the plan lies in a section: its number, and the middles of its parts on the sheet.</summary>
public sealed record SectionMark(int No, IReadOnlyList<double[]> Parts)
{
    /// <summary>All of a section; of one whose parts the sheet does not have its row says so.</summary>
    public static IReadOnlyList<SectionMark> Of(InspectionPlan plan, SectionPlan section, SectionSheet sheet) =>
        [.. plan.Characteristics.OfType<SectionDimensionPlan>().Where(c => c.Section == section.Name)
            .Select(c => (c.No, Parts: c.Places.Select(p => SectionDimension.At(sheet, p)?.At).ToList()))
            .Where(m => m.Parts.TrueForAll(p => p is not null)).Select(m => new SectionMark(m.No, [.. m.Parts.Select(p => p!)]))];
}
