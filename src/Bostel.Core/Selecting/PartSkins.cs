using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Selecting;

/// <summary>
/// Tells which pieces of a scan bound the same material. From a skin, going into its own material, one comes out through the
/// other skin from behind; from a table or a fixture, going into theirs, one moves away from the part or meets it from its front.
/// </summary>
internal static class PartSkins
{
    /// <summary>Smaller pieces than this share of the largest are no skins but islands.</summary>
    private const double LeastArea = 0.05;

    /// <summary>A part with more than this share of the nominal's area misses no skin.</summary>
    private const double Complete = 0.9;

    /// <summary>Farthest from skin to skin, as a share of the scan's size.</summary>
    private const double Farthest = 0.2;

    private const int Samples = 200;

    /// <summary>
    /// So much of a skin's area must lead to another: the rest may lead to a third piece, or past its rim. From foreign pieces none does.
    /// </summary>
    private const double LeastVotes = 0.2;

    /// <summary>
    /// The numbers of the pieces that make up the part: the given piece when it is complete; else the group of pieces round the same
    /// material whose area together is nearest to the nominal's.
    /// </summary>
    public static HashSet<int> Of(
        TriangleMesh mesh, int[] labels, IReadOnlyList<ConnectedPiece> pieces, ConnectedPiece part, double nominalArea)
    {
        var large = pieces.Where(p => p.Area >= LeastArea * pieces[0].Area).ToList();
        if (large.Count < 2 || part.Area > Complete * nominalArea)
        {
            return [part.Number];
        }

        var members = large.Select(p => p.Number).ToHashSet();
        int[] origin = [.. Enumerable.Range(0, mesh.TriangleCount).Where(t => members.Contains(labels[t]))];
        var tree = new TriangleTree(mesh.KeepTriangles(t => members.Contains(labels[t])));
        var group = large.ToDictionary(p => p.Number, p => p.Number);
        foreach (var piece in large)
        {
            foreach (var other in Behind(mesh, labels, piece, tree, origin))
            {
                var (from, to) = (group[piece.Number], group[other]);
                foreach (var number in members.Where(m => group[m] == from))
                {
                    group[number] = to;
                }
            }
        }

        var best = large.GroupBy(p => group[p.Number]).MinBy(g => Math.Abs(Math.Log(g.Sum(p => p.Area) / nominalArea)))!;
        return [.. best.Select(p => p.Number)];
    }

    /// <summary>The pieces that enough of a piece's area leads to through its own material.</summary>
    private static IEnumerable<int> Behind(TriangleMesh mesh, int[] labels, ConnectedPiece piece, TriangleTree tree, int[] origin)
    {
        int[] own = [.. Enumerable.Range(0, labels.Length).Where(t => labels[t] == piece.Number)];
        var reach = Farthest * mesh.Bounds.Diagonal;
        var votes = new Dictionary<int, double>();
        var asked = 0.0;
        for (var k = 0; k < Math.Min(Samples, own.Length); k++)
        {
            var (a, b, c) = mesh.Triangle(own[(int)((long)k * own.Length / Math.Min(Samples, own.Length))]);
            var normal = (b - a).Cross(c - a);
            var area = normal.Length;
            if (area <= 0)
            {
                continue;
            }

            var inward = -normal.Normalized();
            asked += area;
            var hit = tree.FirstHit(((a + b + c) / 3) + (1e-6 * reach * inward), inward, 0, reach, out _);
            if (hit >= 0 && tree.FaceNormal(hit).Dot(inward) > 0 && labels[origin[hit]] != piece.Number)
            {
                votes[labels[origin[hit]]] = votes.GetValueOrDefault(labels[origin[hit]]) + area;
            }
        }

        return votes.Where(v => v.Value >= LeastVotes * asked).Select(v => v.Key).Order();
    }
}
