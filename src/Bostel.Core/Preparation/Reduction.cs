using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Preparation;

/// <summary>A reduced mesh and how far it lies from the one it was made of, measured both ways: the larger of the two, mm.</summary>
public sealed record ReducedMesh(TriangleMesh Mesh, double Deviation);

/// <summary>Fewer triangles, with edges and curvature kept.</summary>
public static class Reduction
{
    /// <summary>Reduces to a number of triangles, or as near as the shape allows.</summary>
    /// <exception cref="BadInputException">The number is below 4.</exception>
    public static ReducedMesh ToCount(TriangleMesh mesh, int triangles, CancellationToken cancel = default)
    {
        if (triangles < 4)
        {
            throw new BadInputException($"triangles: {triangles} is too few; 4 is the least.");
        }

        return triangles >= mesh.TriangleCount ? new(mesh, 0) : Measured(mesh, Collapse(mesh, triangles, cancel));
    }

    /// <summary>The reduction alone, its deviation not measured.</summary>
    public static TriangleMesh Collapse(TriangleMesh mesh, int triangles, CancellationToken cancel = default) =>
        new EdgeCollapse(mesh).Run(triangles, double.PositiveInfinity, cancel);

    /// <summary>
    /// Reduces as far as a deviation allows. The quadric only estimates it, so the result is measured, and made again with a stricter
    /// estimate when it lies too far.
    /// </summary>
    /// <exception cref="BadInputException">The deviation is not above 0.</exception>
    public static ReducedMesh Within(TriangleMesh mesh, double deviation, CancellationToken cancel = default)
    {
        if (!(deviation > 0))
        {
            throw new BadInputException("maxDeviation: must be above 0 mm.");
        }

        for (var estimate = 0.7 * deviation; estimate > 0.02 * deviation; estimate *= 0.6)
        {
            var reduced = Measured(mesh, new EdgeCollapse(mesh).Run(4, estimate * estimate, cancel));
            if (reduced.Deviation <= deviation)
            {
                return reduced;
            }
        }

        return new(mesh, 0);
    }

    /// <summary>The largest distance of the vertices of either mesh from the other.</summary>
    private static ReducedMesh Measured(TriangleMesh original, TriangleMesh reduced) =>
        ReferenceEquals(original, reduced)
            ? new(reduced, 0)
            : new(reduced, Math.Max(Farthest(original, new(reduced)), Farthest(reduced, new(original))));

    private static double Farthest(TriangleMesh points, TriangleTree surface)
    {
        const int Chunk = 4096;
        var chunks = new double[(points.VertexCount + Chunk - 1) / Chunk];
        Parallel.For(0, chunks.Length, chunk =>
        {
            var search = new ClosestSearch(surface);
            for (var v = chunk * Chunk; v < Math.Min(points.VertexCount, (chunk + 1) * Chunk); v++)
            {
                chunks[chunk] = Math.Max(chunks[chunk], search.Closest(points.Vertex(v)).DistanceSquared);
            }
        });
        return Math.Sqrt(chunks.Max());
    }
}
