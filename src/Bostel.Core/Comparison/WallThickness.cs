using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>Wall thickness at the vertices of a closed, outward-oriented mesh.</summary>
public static class WallThickness
{
    private const int Chunk = 2048;
    private const int MaxShrinks = 60;

    /// <summary>
    /// What lies within this angle of the point, seen from the sphere's centre, belongs to the point's own surface (30°, after Ma et al.).
    /// </summary>
    private const double Around = Math.PI / 6;

    /// <summary>
    /// By ray: the distance along the inward normal to the first opposite wall, which must face the ray (within 60°). NaN where no wall is
    /// met within the limit.
    /// </summary>
    public static double[] ByRay(TriangleMesh mesh, TriangleTree tree, double limit, CancellationToken cancel = default) =>
        Each(mesh, limit, cancel, (p, n) => Ray(tree, p, n, limit));

    /// <summary>
    /// By inscribed sphere: the diameter of the largest sphere that touches the surface at the point from inside and holds no other part of
    /// it, by shrinking (Ma, Bae and Choi 2012): from the ray's half length down, each time to the sphere through the point and the
    /// surface's nearest point. It is never more than the ray's value, and does not leap where the opposite wall ends. NaN where the ray
    /// meets no wall.
    /// </summary>
    public static double[] BySphere(TriangleMesh mesh, TriangleTree tree, double limit, CancellationToken cancel = default) =>
        Each(mesh, limit, cancel, (p, n) => Sphere(tree, p, n, limit));

    private static double[] Each(TriangleMesh mesh, double limit, CancellationToken cancel, Func<Vector3D, Vector3D, double> measure)
    {
        if (mesh.TriangleCount == 0)
        {
            throw new BadInputException("Wall thickness needs triangles, and this is a cloud of points.");
        }

        if (!(limit > 0))
        {
            throw new BadInputException("limit: must be above 0 mm.");
        }

        var thickness = new double[mesh.VertexCount];
        _ = mesh.VertexNormals;
        Parallel.For(0, (thickness.Length + Chunk - 1) / Chunk, new ParallelOptions { CancellationToken = cancel }, chunk =>
        {
            for (var v = chunk * Chunk; v < Math.Min(thickness.Length, (chunk + 1) * Chunk); v++)
            {
                var n = mesh.Normal(v);
                thickness[v] = n.LengthSquared < 0.25 ? double.NaN : measure(mesh.Vertex(v), n.Normalized());
            }
        });
        return thickness;
    }

    private static double Ray(TriangleTree tree, Vector3D p, Vector3D n, double limit)
    {
        var from = 1e-6 * tree.Mesh.Bounds.Diagonal;
        var hit = tree.FirstHit(p, -n, from, limit, out var distance);
        return hit >= 0 && tree.FaceNormal(hit).Dot(-n) > 0.5 ? distance : double.NaN;
    }

    private static double Sphere(TriangleTree tree, Vector3D p, Vector3D n, double limit)
    {
        var ray = Ray(tree, p, n, limit);
        if (double.IsNaN(ray))
        {
            return double.NaN;
        }

        var radius = ray / 2;
        for (var i = 0; i < MaxShrinks; i++)
        {
            var hit = tree.Closest(p - (radius * n), radius * (1 - 1e-9));
            if (!hit.Found)
            {
                break;
            }

            var d = p - hit.Point;
            var along = n.Dot(d);

            // The point itself, or the surface right around it, seen from the centre: facets and noise there are no opposite wall.
            var center = p - (radius * n);
            if (along <= 1e-9 * radius || (p - center).AngleTo(hit.Point - center) < Around)
            {
                break;
            }

            radius = d.LengthSquared / (2 * along);
        }

        return 2 * radius;
    }
}
