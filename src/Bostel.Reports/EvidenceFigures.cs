using Bostel.Core.Features;
using Bostel.Core.Figures;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>A row that does not conform, seen near.</summary>
/// <param name="At">Where its evidence lies in the picture, px.</param>
public sealed record EvidenceFigure(
    CharacteristicResult Row, byte[] Png, int Width, int Height, ColourScale Scale, FigurePlan Figure, (double X, double Y) At);

/// <summary>The map about each row that is open, from where it is seen.</summary>
public static class EvidenceFigures
{
    private const int Width = 900, Height = 600;

    /// <summary>So many times what matters is shown around it.</summary>
    private const double Around = 2;

    /// <param name="block">What it asks for; null: nothing.</param>
    public static IReadOnlyList<EvidenceFigure> Of(
        EvidenceBlock? block, InspectionPlan plan, AlignedScan scan, InspectionRunner runner, IReadOnlyList<CharacteristicResult> rows)
    {
        if (block is null)
        {
            return [];
        }

        var open = rows.Where(r => r.View is not null
            && (r.Verdict == Verdict.NonConforming || (block.NotProven && r.Verdict == Verdict.NotProven))).Take(EvidenceBlock.Most);
        return [.. open.Select(row => Draw(row, plan, scan, runner))];
    }

    /// <summary>The row that is farthest out, measured by its tolerance; null when none is out, or none can be seen.</summary>
    /// <param name="drawn">Those that are drawn already.</param>
    public static EvidenceFigure? Worst(
        InspectionPlan plan, AlignedScan scan, InspectionRunner runner, IReadOnlyList<CharacteristicResult> rows,
        IReadOnlyList<EvidenceFigure> drawn)
    {
        static double Width(CharacteristicResult r) => (r.UpperLimit - (r.LowerLimit ?? 0)) is > 0 and var width ? width : 1;
        var worst = rows.Where(r => r is { Verdict: Verdict.NonConforming, View: not null }).MaxBy(r => r.Beyond / Width(r));
        return worst is null ? null : drawn.FirstOrDefault(e => e.Row == worst) ?? Draw(worst, plan, scan, runner);
    }

    private static EvidenceFigure Draw(CharacteristicResult row, InspectionPlan plan, AlignedScan scan, InspectionRunner runner)
    {
        var view = row.View!;
        var back = Vector3D.FromArray(view.Direction);
        var up = Math.Abs(back.Normalized().Z) > 0.95 ? Vector3D.UnitY : Vector3D.UnitZ;
        var span = Math.Min(Around * view.Size, runner.Nominal.Mesh.Bounds.Diagonal);
        var figure = new FigurePlan(new(view.Target, view.Direction, up.ToArray(), span))
        {
            Lower = plan.Compare.Lower,
            Upper = plan.Compare.Upper,
        };
        var scale = new ColourScale(figure.Lower, figure.Upper, plan.Compare.Ramp);
        var rgb = FigureRenderer.Render(
            figure, scan.Mesh, scan.Transform, scan.Deviations.Values, scale, runner.Nominal, Width, Height);
        return new EvidenceFigure(row, PngWriter.Encode(rgb, Width, Height), Width, Height, scale, figure,
            figure.Project(Vector3D.FromArray(view.Target), Width, Height));
    }
}
