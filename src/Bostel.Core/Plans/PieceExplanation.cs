using System.Globalization;
using Bostel.Core.Comparison;
using Bostel.Core.Nominals;

namespace Bostel.Core.Plans;

/// <summary>What a piece's deviation is made of, or why that cannot be told.</summary>
/// <param name="FaceName">Names a face, as a sentence begins.</param>
public sealed record PieceExplanation(Explanation? Made, string? Failure, Func<int, string> FaceName)
{
    /// <summary>For screen, report and plan.</summary>
    public static string Name(ExplainedPart part) => part switch
    {
        ExplainedPart.Pose => "shift and turn",
        ExplainedPart.Size => "shrinkage or growth",
        ExplainedPart.Bend => "bend and twist",
        _ => "errors of single faces",
    };

    /// <summary>
    /// Names faces by the smallest feature of the plan that they are of, else by number and kind.
    /// </summary>
    public static Func<int, string> Names(InspectionPlan plan, NominalModel nominal) => face =>
        plan.Features.Where(f => f.Faces.Contains(face)).OrderBy(f => f.Faces.Length).FirstOrDefault() is { } feature
            ? feature.Name + (feature.Faces.Length > 1 ? string.Create(CultureInfo.InvariantCulture, $" (face {face})") : "")
            : string.Create(CultureInfo.InvariantCulture, $"Face {face} ({nominal.Face(face).Kind})");
}
