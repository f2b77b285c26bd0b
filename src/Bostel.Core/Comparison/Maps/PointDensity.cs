using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>How a scan was made: how far apart its points lie, and how far preparing moved them.</summary>
public static class PointDensity
{
    /// <summary>Points around one in a cloud: those in its surface, all sides.</summary>
    private const int Around = 6;

    /// <summary>
    /// Spacing at each vertex, mm: the mean length of its edges in a mesh, the mean distance to the six nearest in a cloud. NaN on patches.
    /// </summary>
    public static double[] Spacing(TriangleMesh scan, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var points = scan.TriangleCount == 0 ? new PointTree(scan.Coordinates) : null;
        return Each(scan, progress, cancel, v => points is null ? Edges(scan, v) : Nearest(points, scan.Vertex(v)));
    }

    /// <summary>
    /// Distance of each vertex from the scan as it was received, mm; positive where it lies out of the received surface's material. Of a
    /// cloud, which has no sides, the plain distance to the nearest point. NaN on patches, and where a surface as received has ended.
    /// </summary>
    /// <param name="received">The scan before preparing, in the same coordinates.</param>
    public static double[] Moved(TriangleMesh scan, TriangleMesh received, IProgress<double>? progress = null,
        CancellationToken cancel = default)
    {
        if (received.TriangleCount == 0)
        {
            var points = new PointTree(received.Coordinates);
            return Each(scan, progress, cancel, v => (received.Vertex(points.Nearest(scan.Vertex(v))) - scan.Vertex(v)).Length);
        }

        var tree = new TriangleTree(received);
        return Each(scan, progress, cancel, v =>
        {
            var p = scan.Vertex(v);
            var hit = tree.Closest(p, double.PositiveInfinity, -1, scan.TriangleCount > 0 ? scan.Normal(v) : default,
                scan.TriangleCount > 0 ? 0 : -2);
            return hit.Found ? tree.SignedDistance(p, hit) : double.NaN;
        });
    }

    private static double Edges(TriangleMesh scan, int v)
    {
        var (sum, count) = (0.0, 0);
        foreach (var corner in scan.Rings.Of(v))
        {
            var next = MeshTopology.Next(corner);
            sum += (scan.Vertex(scan.Indices[next]) - scan.Vertex(v)).Length
                + (scan.Vertex(scan.Indices[MeshTopology.Next(next)]) - scan.Vertex(v)).Length;
            count += 2;
        }

        return count > 0 ? sum / count : double.NaN;
    }

    private static double Nearest(PointTree points, Vector3D p)
    {
        Span<int> found = stackalloc int[Around + 1];
        Span<double> squares = stackalloc double[Around + 1];
        var n = points.Nearest(p, found, squares);
        var sum = 0.0;
        for (var i = 1; i < n; i++)
        {
            sum += Math.Sqrt(squares[i]);
        }

        return n > 1 ? sum / (n - 1) : double.NaN;
    }

    private static double[] Each(TriangleMesh scan, IProgress<double>? progress, CancellationToken cancel, Func<int, double> at)
    {
        // Made once before many threads ask for them.
        _ = scan.TriangleCount > 0 ? (scan.Rings, scan.VertexNormals) : default;
        return VertexValues.Of(scan.VertexCount, scan.MeasuredVertexCount, at, progress, cancel);
    }
}
