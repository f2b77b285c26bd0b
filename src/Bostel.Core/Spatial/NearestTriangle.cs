using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>The triangle nearest to a single point, for which an index is not worth its building.</summary>
public static class NearestTriangle
{
    /// <summary>
    /// Number of the triangle, the lowest of those that are equally near; −1 without any. No triangle is farther than the nearest vertex of one, and none lies
    /// farther from its nearest vertex than its longest edge: only the triangles around the vertices within the sum of both are looked at.
    /// </summary>
    /// <param name="p">In the frame of the mesh, mm.</param>
    public static int At(TriangleMesh mesh, Vector3D p)
    {
        var rings = mesh.Rings;
        var least = double.PositiveInfinity;
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            var square = (mesh.Vertex(v) - p).LengthSquared;
            if (square < least && rings.Of(v).Length > 0)
            {
                least = square;
            }
        }

        var reach = Math.Sqrt(least) + mesh.LongestEdge;
        var (nearest, best) = (-1, double.PositiveInfinity);
        for (var v = 0; v < mesh.VertexCount; v++)
        {
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
