using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>
/// A part of the scan that hangs together and has no counterpart on the nominal: a lump beyond the search distance, a burr, a clamp. It
/// says something of the faces it grows from (<see cref="Beside"/>), or, when it stands alone, of those it stands before.
/// </summary>
/// <param name="Area">mm².</param>
/// <param name="Reach">Distance of its farthest point from the nominal, mm.</param>
/// <param name="At">That point, in nominal coordinates.</param>
/// <param name="Beside">Scan points with a counterpart that lie beside it.</param>
/// <param name="Before">Faces nearest to it, when nothing lies beside it.</param>
/// <param name="Vertices">Its scan points.</param>
public sealed record UnmatchedArea(
    double Area, double Reach, Vector3D At, IReadOnlyCollection<int> Beside, IReadOnlyCollection<int> Before,
    IReadOnlyCollection<int> Vertices)
{
    /// <summary>Fewer points than this are ragged edges of the scan.</summary>
    private const int Least = 8;

    /// <summary>A face counts as being behind an area when it is nearest to at least this share of its points.</summary>
    private const double BeforeShare = 0.1;

    /// <summary>All such areas of a scan, the largest first. Patches were not measured and count as nothing.</summary>
    public static IReadOnlyList<UnmatchedArea> Find(AlignedScan scan, NominalModel nominal, TriangleTree tree)
    {
        var none = Enumerable.Range(0, scan.Mesh.MeasuredVertexCount).Where(v => scan.Deviations.Triangles[v] < 0);
        return [.. scan.Beside.Groups(none).Where(g => g.Count >= Least).Select(Describe).OrderByDescending(a => a.Area)];

        UnmatchedArea Describe(List<int> group)
        {
            var beside = new HashSet<int>();
            var near = new List<int>();
            var nearest = new Dictionary<int, int>();
            double reach = 0, area = 0;
            var at = scan.Transform.Apply(scan.Mesh.Vertex(group[0]));
            foreach (var v in group)
            {
                scan.Beside.Of(v, near);
                beside.UnionWith(near.Where(o => o < scan.Mesh.MeasuredVertexCount && scan.Deviations.Triangles[o] >= 0));
                var p = scan.Transform.Apply(scan.Mesh.Vertex(v));
                var hit = tree.Closest(p);
                var face = nominal.FaceOfTriangle[hit.Triangle];
                nearest[face] = nearest.GetValueOrDefault(face) + 1;
                area += scan.Beside.AreaOf(v);
                (reach, at) = hit.Distance > reach ? (hit.Distance, p) : (reach, at);
            }

            var before = beside.Count > 0 ? [] : nearest.Where(n => n.Value >= BeforeShare * group.Count).Select(n => n.Key).Order()
                .ToArray();
            return new(area, reach, at, beside, before, group);
        }
    }
}
