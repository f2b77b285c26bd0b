using Bostel.Core.Comparison;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>Dimensions in a section, of lines and circles fitted by least squares to the points of its outlines.</summary>
internal static class SectionSize
{
    /// <summary>Of a section is shown so many times what its parts take.</summary>
    private const double Around = 2.2, LeastShown = 12;

    public static Evaluated Of(SectionDimensionPlan plan, EvaluationContext context)
    {
        var sheet = context.Section(plan.Section);
        var found = SectionDimension.Of(plan.Measure, SectionDimension.Named(sheet, plan.Places), plan.Nominal);
        var what = string.Join(" to ", found.Parts.Select(p => p.Arc ? "least-squares circle" : "least-squares line"));
        var flat = Box3D.Of(found.Parts.SelectMany(p => p.Run.Chunk(2)).Select(p => new Vector3D(p[0], p[1], 0)));
        return new(
            found.Value,
            Contribution.Of(found.Sigmas.Select((s, k) => new Contribution(
                found.Parts.Count == 1 ? "scatter of its points" : $"scatter of part {k + 1}", s.Sigma, s.Freedom))),
            $"section '{plan.Section}': {what}", [])
        {
            Device = plan.Measure is SectionMeasure.Angle ? DeviceShare.None : new(1, Math.Abs(found.Value), 0),
            Points = found.Parts.Sum(p => p.Points),
            Coverage = found.Parts.Min(p => p.Coverage),
            Faces = [.. found.Parts.Select(p => p.Face)],
            Remark = Askew(found, sheet),
            View = new(
                sheet.Frame.InSpace([flat.Center.X, flat.Center.Y]), sheet.Frame.Normal, Math.Max(LeastShown, Around * flat.Diagonal)),
        };
    }

    /// <summary>What the sheet remarks of the faces that the dimension rests on.</summary>
    private static string? Askew(SectionDimension found, SectionSheet sheet) =>
        sheet.Oblique.Where(o => found.Parts.Any(p => p.Face == o.Face)).Select(o => o.Words).FirstOrDefault();
}
