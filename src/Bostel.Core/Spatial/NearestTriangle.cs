using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>The triangle nearest to a single point, for which an index is not worth its building.</summary>
public static class NearestTriangle
{
    /// <summary>
    /// Number of the triangle, the lowest of those that are equally near; −1 without any. No triangle is farther than the nearest vertex
    /// of one, and none lies farther from its nearest vertex than its longest edge: only the triangles around the vertices within the sum
    /// of both are looked at.
    /// </summary>
    /// <param name="p">In the frame of the mesh, mm.</param>
    public static int At(TriangleMesh mesh, Vector3D p)
    {
        const int Chunk = 8192;
        var rings = mesh.Rings;
        var least = new double[(mesh.VertexCount + Chunk - 1) / Chunk];
        Parallel.For(0, least.Length, chunk =>
        {
            least[chunk] = double.PositiveInfinity;
            for (var v = chunk * Chunk; v < Math.Min(mesh.VertexCount, (chunk + 1) * Chunk); v++)
            {
                var square = (mesh.Vertex(v) - p).LengthSquared;
                if (square < least[chunk] && rings.Of(v).Length > 0)
                {
                    least[chunk] = square;
                }
            }
        });

        var reach = Math.Sqrt(least.Append(double.PositiveInfinity).Min()) + mesh.LongestEdge;
        var (nearest, best) = (-1, double.PositiveInfinity);
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            if (least[v / Chunk] > reach * reach)
            {
                v += Chunk - 1;
                continue;
            }

            if ((mesh.Vertex(v) - p).LengthSquared > reach * reach)
            {
                continue;
            }

            foreach (var corner in rings.Of(v))
            {
                var (a, b, c) = mesh.Triangle(corner / 3);
                var square = (TriangleDistance.ClosestPoint(p, a, b, c, out _) - p).LengthSquared;
                if (square < best || (square == best && corner / 3 < nearest))
                {
                    (nearest, best) = (corner / 3, square);
                }
            }
        }

        return nearest;
    }
}
