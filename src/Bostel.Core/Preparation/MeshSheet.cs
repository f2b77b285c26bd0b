using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Preparation;

/// <summary>A hole as the data sheet lists it.</summary>
public sealed record HoleEntry(double Diameter, double Perimeter, int Edges, Vector3D Center);

/// <summary>
/// What a file holds, measured: lengths mm, areas mm², volumes mm³. Of a cloud only counts, bounds and spacing are known.
/// </summary>
/// <param name="Vertices">Points.</param>
/// <param name="Triangles">0 for a cloud.</param>
/// <param name="Size">Of the bounds.</param>
/// <param name="Area">Of all triangles.</param>
/// <param name="Volume">Enclosed; null when the surface is not closed or not of one sense.</param>
/// <param name="Closed">No border edge.</param>
/// <param name="Pieces">Connected pieces.</param>
/// <param name="Holes">Closed border loops, largest first; at most the first hundred.</param>
/// <param name="HoleCount">All closed border loops.</param>
/// <param name="BorderEdges">Edges of one triangle.</param>
/// <param name="NonManifoldEdges">Edges of three triangles and more.</param>
/// <param name="Degenerate">Triangles without area.</param>
/// <param name="Duplicate">Triangles there twice.</param>
/// <param name="FlippedEdges">Edges whose two triangles disagree in sense.</param>
/// <param name="InsideOut">Closed, of one sense, and enclosing negative volume.</param>
/// <param name="MeanEdge">Or the spacing of a cloud.</param>
/// <param name="EdgeSpread">95th over 5th percentile of the edge lengths: how uneven the density is.</param>
/// <param name="Noise">Standard deviation along the normal, an upper estimate (see <see cref="Roughness"/>).</param>
public sealed record MeshSheet(
    int Vertices, int Triangles, Vector3D Size, double Area, double? Volume, bool Closed, int Pieces, IReadOnlyList<HoleEntry> Holes,
    int HoleCount, int BorderEdges, int NonManifoldEdges,
    int Degenerate, int Duplicate, int FlippedEdges, bool InsideOut, double MeanEdge, double EdgeSpread, double Noise)
{
    private const int HolesListed = 100;

    public static MeshSheet Of(TriangleMesh mesh)
    {
        if (mesh.TriangleCount == 0)
        {
            var spacing = PointSpacing.Median(mesh.Coordinates, new PointTree(mesh.Coordinates));
            return new(mesh.VertexCount, 0, mesh.Bounds.Size, 0, null, false, 0, [], 0, 0, 0, 0, 0, 0, false, spacing, 1, 0);
        }

        var topology = mesh.Topology;
        var loops = BoundaryLoops.Find(mesh);
        var flipped = FlippedEdgesOf(mesh, topology);
        var closed = topology.BoundaryEdges == 0;
        double? volume = closed && flipped == 0 ? Enumerable.Range(0, mesh.TriangleCount).Sum(t => MeshRepair.SignedVolume(mesh, t)) : null;
        var useless = MeshRepair.Useless(mesh);
        var degenerate = Enumerable.Range(0, mesh.TriangleCount).Count(t => MeshRepair.IsDegenerate(mesh, t));
        var lengths = EdgeLengths(mesh);
        return new(
            mesh.VertexCount, mesh.TriangleCount, mesh.Bounds.Size, mesh.Area(), volume is { } v ? Math.Abs(v) : null, closed,
            topology.Pieces().Count,
            [.. loops.Take(HolesListed).Select(l => new HoleEntry(l.Diameter, l.Perimeter, l.Vertices.Length, l.Center))], loops.Count,
            topology.BoundaryEdges, topology.NonManifoldEdges,
            degenerate, useless.Count(u => u) - degenerate, flipped, volume < 0, lengths.Average(),
            lengths[(int)(0.95 * (lengths.Length - 1))] / Math.Max(1e-12, lengths[(int)(0.05 * (lengths.Length - 1))]),
            mesh.Noise);
    }

    private static int FlippedEdgesOf(TriangleMesh mesh, MeshTopology topology)
    {
        var flipped = 0;
        for (var h = 0; h < topology.Neighbours.Length; h++)
        {
            var n = topology.Neighbours[h];
            flipped += n > h / 3 && MeshRepair.SameSense(mesh.Indices, h, n) ? 1 : 0;
        }

        return flipped;
    }

    /// <summary>Sorted edge lengths of a sample of the triangles.</summary>
    private static double[] EdgeLengths(TriangleMesh mesh)
    {
        var step = Math.Max(1, mesh.TriangleCount / 50_000);
        var lengths = Enumerable.Range(0, mesh.TriangleCount / step).SelectMany(i =>
        {
            var (a, b, c) = mesh.Triangle(i * step);
            return new[] { (b - a).Length, (c - b).Length, (a - c).Length };
        }).ToArray();
        Array.Sort(lengths);
        return lengths;
    }
}
