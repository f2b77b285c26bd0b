using Bostel.Core.Features;
using Bostel.Core.Figures;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>A row of the table where it belongs on the part.</summary>
/// <param name="Place">Of its line's end and of its balloon, px.</param>
public sealed record Balloon(int No, Verdict Verdict, PlacedLabel Place);

/// <summary>The part from one side with the balloons of the rows that are seen from there.</summary>
public sealed record OverviewFigure(FigurePlan Figure, byte[] Png, int Width, int Height, IReadOnlyList<Balloon> Balloons);

/// <summary>The part from above and, where rows lie on its other sides, from below.</summary>
public static class OverviewFigures
{
    private const int Width = 1200, Height = 900;

    /// <summary>Side of a balloon, px.</summary>
    public const double Size = 46;

    /// <summary>More would stand above and below the picture.</summary>
    private const int MostBalloons = 34;

    public static IReadOnlyList<OverviewFigure> Of(
        InspectionPlan plan, AlignedScan scan, InspectionRunner runner, IReadOnlyList<CharacteristicResult> rows)
    {
        var above = FigurePlan.Overview(runner.Nominal, plan.Compare.Lower, plan.Compare.Upper) with { ShowDeviation = false };
        double[] d = above.Camera.Direction;
        var below = above with { Camera = above.Camera with { Direction = [-d[0], -d[1], -d[2]] } };
        var seen = rows.Where(r => r.View is not null).ToLookup(r => Faces(r.View!, above.Camera));
        (FigurePlan Figure, IEnumerable<CharacteristicResult> Rows)[] sides = [(above, seen[true]), (below, seen[false])];
        return [.. sides.Where((f, i) => i == 0 || f.Rows.Any()).Select(f => Draw(f.Figure, scan, runner, [.. f.Rows]))];
    }

    private static bool Faces(EvidenceView view, FigureCamera camera) =>
        Vector3D.FromArray(view.Direction).Dot(Vector3D.FromArray(camera.Direction)) >= 0;

    private static OverviewFigure Draw(
        FigurePlan figure, AlignedScan scan, InspectionRunner runner, IReadOnlyList<CharacteristicResult> rows)
    {
        // What is open comes first where there are more than room for.
        var shown = rows.OrderBy(r => r.Verdict == Verdict.Conforming).ThenBy(r => r.Plan.No).Take(MostBalloons).ToList();
        var labelled = figure with { Labels = [.. shown.Select(r => new LabelPlan(r.View!.Target))] };
        var places = LabelLayout.Place(labelled, runner.Nominal.Mesh.Bounds, Size, Size, Width, Height);
        var rgb = FigureRenderer.Render(
            figure, scan.Mesh, scan.Transform, null, new(figure.Lower, figure.Upper, new()), runner.Nominal, Width, Height);
        return new(figure, PngWriter.Encode(rgb, Width, Height), Width, Height,
            [.. shown.Zip(places).Select(p => new Balloon(p.First.Plan.No, p.First.Verdict, p.Second))]);
    }
}
