using Bostel.Core;
using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>Where a characteristic of the plan lies in a section: its number, and the middles of its parts on the sheet.</summary>
public sealed record SectionMark(int No, IReadOnlyList<double[]> Parts)
{
    /// <summary>All of a section; one whose parts the sheet does not have is not measured, and says so in its row.</summary>
    public static IReadOnlyList<SectionMark> Of(InspectionPlan plan, SectionPlan section, SectionSheet sheet)
    {
        var marks = new List<SectionMark>();
        foreach (var row in plan.Characteristics.OfType<SectionDimensionPlan>().Where(c => c.Section == section.Name))
        {
            try
            {
                marks.Add(new(row.No, [.. SectionDimension.Named(sheet, row.Places).Select(p => p.At)]));
            }
            catch (BadInputException)
            {
                // Its row says why.
            }
        }

        return marks;
    }
}
