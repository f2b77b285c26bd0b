using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>Deviations of one outline of a section: one value a point, mm, positive out of the material, NaN without counterpart.</summary>
public sealed record OutlineDeviation(SectionOutline Outline, double[] Values);

/// <summary>
/// Deviation of the outlines of a scan from those of its nominal within one plane. The nominal outline is drawn out across the plane into a
/// ribbon, so that the exact distance to a surface and its sign serve in the plane as they do in space.
/// </summary>
public static class SectionDeviation
{
    /// <param name="scan">Outlines of the scan, in nominal coordinates.</param>
    /// <param name="nominal">Outlines of the nominal in the same plane.</param>
    /// <param name="normal">Of the plane.</param>
    /// <param name="options">Search distance, and the largest angle between the outlines' normals.</param>
    /// <exception cref="BadInputException">The nominal has no outline in this plane.</exception>
    public static IReadOnlyList<OutlineDeviation> Of(
        IReadOnlyList<SectionOutline> scan, IReadOnlyList<SectionOutline> nominal, Vector3D normal, DeviationOptions options)
    {
        var n = normal.Normalized();
        if (nominal.Count == 0)
        {
            throw new BadInputException("section: the plane does not cut the nominal.");
        }

        var ribbon = new TriangleTree(Ribbon(nominal, n));
        var cosine = Math.Cos(options.MaxAngleDegrees * Math.PI / 180);
        return [.. scan.Select(outline =>
        {
            var values = new double[outline.Count];
            var search = new ClosestSearch(ribbon);
            for (var i = 0; i < outline.Count; i++)
            {
                var p = outline.Point(i);
                var hit = search.Closest(p, options.MaxDistance, OutwardAt(outline, i, n), cosine);
                values[i] = hit.Found ? ribbon.SignedDistance(p, hit) : double.NaN;
            }

            return new OutlineDeviation(outline, values);
        })];
    }

    /// <summary>Statistics over all outlines, each point weighted by the length around it.</summary>
    public static DeviationStatistics Statistics(IReadOnlyList<OutlineDeviation> outlines, double lower, double upper) =>
        DeviationStatistics.Of(
        [.. outlines.SelectMany(o => o.Values)],
        [.. outlines.SelectMany(o => Enumerable.Range(0, o.Outline.Count).Select(i => LengthAround(o.Outline, i)))], lower, upper);

    /// <summary>Out of the material at a point: the material lies to the left of the outline's sense.</summary>
    internal static Vector3D OutwardAt(SectionOutline outline, int i, Vector3D normal)
    {
        var (before, after) = Around(outline, i);
        var along = (outline.Point(after) - outline.Point(before)).Normalized();
        return along.Cross(normal);
    }

    private static (int Before, int After) Around(SectionOutline outline, int i) => outline.Closed
        ? ((i + outline.Count - 1) % outline.Count, (i + 1) % outline.Count)
        : (Math.Max(0, i - 1), Math.Min(outline.Count - 1, i + 1));

    private static double LengthAround(SectionOutline outline, int i)
    {
        var (before, after) = Around(outline, i);
        return 0.5 * (Vector3D.Distance(outline.Point(i), outline.Point(before))
            + Vector3D.Distance(outline.Point(i), outline.Point(after)));
    }

    private static TriangleMesh Ribbon(IReadOnlyList<SectionOutline> outlines, Vector3D normal)
    {
        var coordinates = new List<double>();
        var indices = new List<int>();
        foreach (var outline in outlines)
        {
            // As high as the segments are long: slender quads would cost accuracy.
            var half = Math.Max(1e-3, outline.Length() / Math.Max(1, outline.Count));
            var first = coordinates.Count / 3;
            for (var i = 0; i < outline.Count; i++)
            {
                coordinates.AddRange((outline.Point(i) - (half * normal)).ToArray());
                coordinates.AddRange((outline.Point(i) + (half * normal)).ToArray());
            }

            for (var i = 0; i < outline.Count - (outline.Closed ? 0 : 1); i++)
            {
                var (a, b) = (first + (2 * i), first + (2 * ((i + 1) % outline.Count)));
                indices.AddRange([a, b, b + 1, a, b + 1, a + 1]);
            }
        }

        return new([.. coordinates], [.. indices]);
    }
}
