using Bostel.Core.Geometry;
using Bostel.Core.Plans;

namespace Bostel.Reports;

/// <summary>Where the box of a label stands in a picture, px, and where its line begins at the part.</summary>
public readonly record struct PlacedLabel(double AnchorX, double AnchorY, double X, double Y);

/// <summary>
/// Lays labels out beside the part: those of its left half in a column at its left, the others at its right, each column in the order of
/// the places from the top. So none covers another, no two lines of a column cross where the places do not force them to, and none covers
/// the part where the picture has room beside it. The same as on the stage (web/src/stage/spread.ts).
/// </summary>
public static class LabelLayout
{
    private const double Gap = 6, Away = 18, Margin = 8;

    /// <param name="width">Of a box, px.</param>
    /// <param name="height">See <paramref name="width"/>.</param>
    /// <param name="part">The box round the part, nominal coordinates.</param>
    public static IReadOnlyList<PlacedLabel> Place(
        FigurePlan figure, Box3D part, double width, double height, int pictureWidth, int pictureHeight)
    {
        var corners = part.Corners.Select(c => figure.Project(c, pictureWidth, pictureHeight)).ToList();
        var (left, right) = (corners.Min(c => c.X), corners.Max(c => c.X));
        var anchors = figure.Labels.Select(l => figure.Project(Vector3D.FromArray(l.Point), pictureWidth, pictureHeight)).ToList();
        var placed = new PlacedLabel[anchors.Count];
        var middle = (left + right) / 2;
        Column(a => a.X < middle, Math.Max(Margin, left - Away - width));
        Column(a => a.X >= middle, Math.Min(pictureWidth - Margin - width, right + Away));
        return placed;

        void Column(Func<(double X, double Y), bool> belongs, double x)
        {
            var order = Enumerable.Range(0, anchors.Count).Where(i => belongs(anchors[i]))
                .OrderBy(i => anchors[i].Y).ThenBy(i => i).ToList();
            var step = height + Gap;
            var last = pictureHeight - Margin - height;
            for (var k = 0; k < order.Count; k++)
            {
                // No higher than those above leave room, no lower than those below need.
                var least = k == 0 ? Margin : placed[order[k - 1]].Y + step;
                var most = last - ((order.Count - 1 - k) * step);
                var (ax, ay) = anchors[order[k]];
                placed[order[k]] = new(ax, ay, x, Math.Max(least, Math.Min(ay - (height / 2), most)));
            }
        }
    }
}
