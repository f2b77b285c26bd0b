using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>
/// Wall thickness at the vertices of an outward-oriented mesh. NaN where it is open, on patches and against them: nobody measured those.
/// </summary>
public static class WallThickness
{
    private const int MaxShrinks = 60;

    /// <summary>
    /// What lies within this angle of the point, seen from the sphere's centre, belongs to the point's own surface (30°, after Ma et al.).
    /// </summary>
    private const double Around = Math.PI / 6;

    /// <summary>
    /// By ray: the distance along the inward normal to the first opposite wall, which must face the ray (within 60°). NaN where no wall is
    /// met within the limit.
    /// </summary>
    public static double[] ByRay(TriangleMesh mesh, TriangleTree tree, double limit, IProgress<double>? progress = null,
        CancellationToken cancel = default) =>
        Each(mesh, limit, progress, cancel, (p, n) => Ray(tree, p, n, limit));

    /// <summary>
    /// By inscribed sphere: the diameter of the largest sphere that touches the surface at the point from inside and holds no other part of
    /// it, by shrinking (Ma, Bae and Choi 2012): from the ray's half length down, each time to the sphere through the point and the
    /// surface's nearest point. It is never more than the ray's value, and does not leap where the opposite wall ends. So the side of a
    /// plate is as thick as the plate, however far it is to the other side. NaN where a sphere of the limit meets nothing.
    /// </summary>
    public static double[] BySphere(TriangleMesh mesh, TriangleTree tree, double limit, IProgress<double>? progress = null,
        CancellationToken cancel = default) =>
        Each(mesh, limit, progress, cancel, (p, n) => Sphere(tree, p, n, limit));

    private static double[] Each(
        TriangleMesh mesh, double limit, IProgress<double>? progress, CancellationToken cancel, Func<Vector3D, Vector3D, double> measure)
    {
        if (mesh.TriangleCount == 0)
        {
            throw new BadInputException("Wall thickness needs triangles, and this is a cloud of points.");
        }

        if (!(limit > 0))
        {
            throw new BadInputException("limit: must be above 0 mm.");
        }

        _ = mesh.VertexNormals;
        return VertexValues.Of(mesh.VertexCount, mesh.MeasuredVertexCount, v =>
        {
            var n = mesh.Normal(v);
            return n.LengthSquared < 0.25 ? double.NaN : measure(mesh.Vertex(v), n.Normalized());
        }, progress, cancel);
    }

    private static double Ray(TriangleTree tree, Vector3D p, Vector3D n, double limit)
    {
        var from = 1e-6 * tree.Mesh.Bounds.Diagonal;
        var hit = tree.FirstHit(p, -n, from, limit, out var distance);
        return hit >= 0 && hit < tree.Mesh.MeasuredTriangleCount && tree.FaceNormal(hit).Dot(-n) > 0.5 ? distance : double.NaN;
    }

    private static double Sphere(TriangleTree tree, Vector3D p, Vector3D n, double limit)
    {
        var ray = Ray(tree, p, n, limit);
        var (start, radius) = double.IsNaN(ray) ? (limit / 2, limit / 2) : (0, ray / 2);
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

        return radius == start ? double.NaN : 2 * radius;
    }
}
