using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>Deviation measured not along the shortest way to the nominal, but along a direction, or radially from an axis.</summary>
public static class DirectedDeviation
{
    /// <summary>Cosine of 80°: of a surface that lies nearly along the direction, the least deviation is an endless one in it.</summary>
    private const double Along = 0.17;

    /// <summary>Nearer to the axis than this there is no way out from it, mm.</summary>
    private const double OnAxis = 1e-6;

    /// <summary>Deviation of every vertex along one direction, either way. Signs and NaN as in <see cref="Compute"/>.</summary>
    /// <param name="direction">Nominal coordinates, any length but 0.</param>
    public static double[] AlongDirection(
        TriangleMesh scan, RigidTransform transform, NominalModel nominal, TriangleTree tree, DeviationOptions options, Vector3D direction,
        IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var d = direction.Normalized();
        return Compute(scan, transform, nominal, tree, options, _ => d, progress, cancel);
    }

    /// <summary>Deviation of every vertex along the way from an axis to it. Signs and NaN as in <see cref="Compute"/>.</summary>
    /// <param name="axis">Nominal coordinates.</param>
    public static double[] Radially(
        TriangleMesh scan, RigidTransform transform, NominalModel nominal, TriangleTree tree, DeviationOptions options, Line3D axis,
        IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var along = axis.Direction.Normalized();
        return Compute(scan, transform, nominal, tree, options, p =>
        {
            var outward = p - axis.Point;
            outward -= outward.Dot(along) * along;
            return outward.Length > OnAxis ? outward.Normalized() : Vector3D.Zero;
        }, progress, cancel);
    }

    /// <summary>
    /// mm, positive out of the material; NaN on patches, where the nominal is not met within the distance by a face that is turned like the
    /// scan, and where scan or nominal lie within 10° of the direction.
    /// </summary>
    private static double[] Compute(
        TriangleMesh scan, RigidTransform transform, NominalModel nominal, TriangleTree tree, DeviationOptions options,
        Func<Vector3D, Vector3D> directionAt, IProgress<double>? progress, CancellationToken cancel)
    {
        var cosine = Math.Cos(options.MaxAngleDegrees * Math.PI / 180);
        var normals = scan.HasNormals ? scan.VertexNormals : null;
        return VertexValues.Of(
            scan.VertexCount, scan.MeasuredVertexCount, () => new List<(double Distance, int Triangle)>(), (v, hits) =>
            {
                var p = transform.Apply(scan.Vertex(v));
                var n = normals is null ? Vector3D.Zero : transform.Rotate(Vector3D.At(normals, v));
                return At(p, n, directionAt(p), hits);
            }, progress, cancel);

        double At(Vector3D p, Vector3D n, Vector3D d, List<(double Distance, int Triangle)> hits)
        {
            if (d == Vector3D.Zero || (n != Vector3D.Zero && Math.Abs(n.Dot(d)) < Along))
            {
                return double.NaN;
            }

            var (best, reach) = (double.NaN, options.MaxDistance);
            tree.AllHits(p, d, hits);
            foreach (var (distance, triangle) in hits)
            {
                if (Math.Abs(distance) > reach)
                {
                    continue;
                }

                // The tangent plane of the exact surface, not the triangle: narrow ones may lean anywhere.
                var (foot, normal) = Surface(p + (distance * d), triangle);
                if (Math.Abs(normal.Dot(d)) >= Along && (n == Vector3D.Zero || normal.Dot(n) >= cosine))
                {
                    (best, reach) = ((p - foot).Dot(normal) / Math.Abs(d.Dot(normal)), Math.Abs(distance));
                }
            }

            return best;
        }

        (Vector3D Foot, Vector3D Normal) Surface(Vector3D hit, int triangle) =>
            nominal.ChordError > 0 && nominal.ExactFoot(triangle, hit) is var (foot, normal)
                && (foot - hit).Length <= 3 * nominal.ChordError
                ? (foot, normal) : (hit, tree.FaceNormal(triangle));
    }
}
