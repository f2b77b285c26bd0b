using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>Deviations of one outline of a section: one value a point, mm, positive out of the material, NaN without counterpart.</summary>
/// <param name="Feet">Where each point belongs on the nominal's outlines, 3·N coordinates; the point itself without counterpart.</param>
/// <param name="Segments">On which segment, counted through all the nominal's outlines, each by its first point; −1: on none.</param>
public sealed record OutlineDeviation(SectionOutline Outline, double[] Values, double[] Feet, int[] Segments);

/// <summary>
/// Deviation of the outlines of a scan from those of its nominal within one plane. The nominal outline is drawn out across the plane into a
/// ribbon, so that the exact distance to a surface and its sign serve in the plane as they do in space.
/// </summary>
public static class SectionDeviation
{
    /// <summary>A limit of the angle that every surface meets.</summary>
    private const double AnySide = -2;

    private const double LeastSegment = 1e-9;

    /// <param name="scan">Outlines of the scan, in nominal coordinates.</param>
    /// <param name="nominal">Outlines of the nominal in the same plane.</param>
    /// <param name="normal">Of the plane.</param>
    /// <param name="options">Search distance, and the largest angle between the outlines' normals.</param>
    /// <param name="lies">
    /// Whether the surface lies at a point as the nominal's does, given the outline's index, the point's, and the nominal's segment:
    /// facets that bridge an edge, and surfaces cut nearly along, tell nothing in the plane. Null: everywhere.
    /// </param>
    /// <param name="joined">False: the points of an outline are any points of the plane, and have no normals.</param>
    /// <exception cref="BadInputException">The nominal has no outline in this plane.</exception>
    public static IReadOnlyList<OutlineDeviation> Of(
        IReadOnlyList<SectionOutline> scan, IReadOnlyList<SectionOutline> nominal, Vector3D normal, DeviationOptions options,
        bool joined = true, Func<int, int, int, bool>? lies = null)
    {
        var n = normal.Normalized();
        if (nominal.Count == 0)
        {
            throw new BadInputException("section: the plane does not cut the nominal.");
        }

        var (mesh, segmentOf) = Ribbon(nominal, n);
        var ribbon = new TriangleTree(mesh);
        var cosine = joined ? Math.Cos(options.MaxAngleDegrees * Math.PI / 180) : AnySide;
        return [.. scan.Select((outline, o) =>
        {
            var (values, feet, segments) = (new double[outline.Count], new double[3 * outline.Count], new int[outline.Count]);
            var search = new ClosestSearch(ribbon);
            for (var i = 0; i < outline.Count; i++)
            {
                var p = outline.Point(i);
                var outward = joined ? OutwardAt(outline, i, n) : n;
                var hit = search.Closest(p, options.MaxDistance, outward, cosine);

                if (joined && (!hit.Found || hit.Distance > Deviation.LeastWithin))
                {
                    // As on the surface: where a corner turned its normal, what lies far nearer than all that faces alike is its own.
                    var reach = Deviation.FarNearer * (hit.Found ? hit.Distance : options.MaxDistance);
                    var own = ribbon.Closest(p, reach, -1, outward, Deviation.FarSide);
                    hit = own.Found ? own : hit;
                }

                var segment = hit.Found ? segmentOf[hit.Triangle / 2] : -1;
                var found = hit.Found && lies?.Invoke(o, i, segment) != false;
                values[i] = found ? ribbon.SignedDistance(p, hit) : double.NaN;
                segments[i] = found ? segment : -1;
                (feet[3 * i], feet[(3 * i) + 1], feet[(3 * i) + 2]) = found ? hit.Point : p;
            }

            return new OutlineDeviation(outline, values, feet, segments);
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

    /// <returns>Two triangles a segment, and which segment each pair is.</returns>
    private static (TriangleMesh Mesh, List<int> SegmentOf) Ribbon(IReadOnlyList<SectionOutline> outlines, Vector3D normal)
    {
        var segments = new List<int>();
        var before = 0;
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
                // A cut through a vertex may leave a segment of a rounding's length: it has no direction.
                if (Vector3D.Distance(outline.Point(i), outline.Point((i + 1) % outline.Count)) < LeastSegment)
                {
                    continue;
                }

                var (a, b) = (first + (2 * i), first + (2 * ((i + 1) % outline.Count)));
                indices.AddRange([a, b, b + 1, a, b + 1, a + 1]);
                segments.Add(before + i);
            }

            before += outline.Count;
        }

        return (new([.. coordinates], [.. indices]), segments);
    }
}
