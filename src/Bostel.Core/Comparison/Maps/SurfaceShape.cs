using System.Text.Json.Serialization;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>What of the curvature of a surface is told.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<CurvatureKind>))]
public enum CurvatureKind
{
    /// <summary>Mean of the two principal curvatures, 1/mm.</summary>
    [JsonStringEnumMemberName("mean")]
    Mean,

    /// <summary>The principal curvature larger in size, 1/mm.</summary>
    [JsonStringEnumMemberName("greatest")]
    Greatest,

    /// <summary>One over the greatest, mm.</summary>
    [JsonStringEnumMemberName("radius")]
    Radius,
}

/// <summary>
/// How a scan is shaped at each vertex, without a nominal: its slope against a pull direction, and its curvature. Both are taken over all
/// that lies within a radius on the same side, since single triangles of a scan lean with its noise.
/// </summary>
public static class SurfaceShape
{
    /// <summary>
    /// Points within the radius that lean farther than this against the vertex belong to another surface: cosine of 60°.
    /// </summary>
    private const double SameSide = 0.5;

    /// <summary>Fewer points do not determine the six terms of a surface of second order with anything to spare.</summary>
    private const int FewestPoints = 9;

    /// <summary>Points used for one vertex: more tell no more than the eye can see, and cost time.</summary>
    private const int MostPoints = 120;

    /// <summary>
    /// Draft, degrees: how far the surface leans back from a wall along the pull direction. 0 on such a wall, 90 on what faces the pull,
    /// negative where it undercuts. NaN on patches and without normals.
    /// </summary>
    /// <param name="pull">In the scan's coordinates, any length but 0.</param>
    /// <param name="radius">Normals are averaged within it, mm.</param>
    /// <exception cref="BadInputException">A cloud without normals.</exception>
    public static double[] Draft(TriangleMesh scan, Vector3D pull, double radius, IProgress<double>? progress = null,
        CancellationToken cancel = default)
    {
        var d = pull.Normalized();
        return Each(scan, radius, "Draft", progress, cancel, (_, _, near) =>
        {
            var mean = Vector3D.Zero;
            foreach (var i in near)
            {
                mean += scan.TriangleCount > 0 ? scan.VertexAreas[i] * scan.Normal(i) : scan.Normal(i);
            }

            return Math.Asin(Math.Clamp(mean.Normalized().Dot(d), -1, 1)) * 180 / Math.PI;
        });
    }

    /// <summary>
    /// Curvature from the surface of second order fitted to the points within a radius, over the plane square to the vertex normal (Cazals
    /// and Pouget, Estimating differential quantities using polynomial fitting of osculating jets, 2005). Positive where the material
    /// bulges. NaN on patches, where fewer than nine points lie within the radius, and a radius larger than <paramref name="flat"/>.
    /// </summary>
    /// <param name="radius">mm.</param>
    /// <param name="flat">mm.</param>
    /// <exception cref="BadInputException">A cloud without normals.</exception>
    public static double[] Curvature(
        TriangleMesh scan, CurvatureKind kind, double radius, double flat, IProgress<double>? progress = null,
        CancellationToken cancel = default) =>
        Each(scan, radius, "Curvature", progress, cancel, (v, n, near) =>
        {
            if (near.Count < FewestPoints || Principal(scan, v, n, near, radius) is not var (k1, k2))
            {
                return double.NaN;
            }

            var greatest = Math.Abs(k1) >= Math.Abs(k2) ? k1 : k2;
            return kind switch
            {
                CurvatureKind.Mean => (k1 + k2) / 2,
                CurvatureKind.Greatest => greatest,
                _ => Math.Abs(greatest) * flat >= 1 ? 1 / greatest : double.NaN,
            };
        });

    /// <summary>The principal curvatures, positive where the material bulges; null where the points do not determine them.</summary>
    private static (double, double)? Principal(TriangleMesh scan, int vertex, Vector3D n, List<int> near, double radius)
    {
        var frame = Frames.Along(scan.Vertex(vertex), n).Inverse();
        var (matrix, right, x) = (new double[6, 6], new double[6], new double[6]);
        Span<double> row = stackalloc double[6];
        foreach (var i in near)
        {
            // In units of the radius, so that all terms are of one size.
            var q = frame.Apply(scan.Vertex(i)) / radius;
            (row[0], row[1], row[2], row[3], row[4], row[5]) = (1, q.X, q.Y, q.X * q.X, q.X * q.Y, q.Y * q.Y);
            for (var r = 0; r < 6; r++)
            {
                right[r] += row[r] * q.Z;
                for (var c = 0; c < 6; c++)
                {
                    matrix[r, c] += row[r] * row[c];
                }
            }
        }

        if (!LinearSolve.Cholesky(matrix, right, x))
        {
            return null;
        }

        // Mean and Gaussian curvature of a graph (do Carmo, Differential Geometry of Curves and Surfaces, 3-3).
        var (p, q2, l, m, k) = (x[1], x[2], 2 * x[3], x[4], 2 * x[5]);
        var w = 1 + (p * p) + (q2 * q2);
        var mean = (((1 + (q2 * q2)) * l) - (2 * p * q2 * m) + ((1 + (p * p)) * k)) / (2 * Math.Pow(w, 1.5));
        var gauss = ((l * k) - (m * m)) / (w * w);
        var root = Math.Sqrt(Math.Max(0, (mean * mean) - gauss));
        return (-(mean - root) / radius, -(mean + root) / radius);
    }

    private static double[] Each(
        TriangleMesh scan, double radius, string what, IProgress<double>? progress, CancellationToken cancel,
        Func<int, Vector3D, List<int>, double> at)
    {
        if (!scan.HasNormals)
        {
            throw new BadInputException($"{what} needs normals, and this cloud has none: it does not tell which side is outside.");
        }

        if (!(radius > 0))
        {
            throw new BadInputException("radius: must be above 0 mm.");
        }

        var tree = new PointTree(scan.Coordinates);

        // Made once before many threads ask for them.
        _ = (scan.VertexNormals, scan.VertexAreas);
        return VertexValues.Of(
            scan.VertexCount, scan.MeasuredVertexCount, () => (Found: new List<int>(), Near: new List<int>()), (v, room) =>
            {
                var n = scan.Normal(v);
                if (n.LengthSquared < 0.25)
                {
                    return double.NaN;
                }

                Gather(scan, tree, v, n, radius, room.Found, room.Near);
                return at(v, n.Normalized(), room.Near);
            }, progress, cancel);
    }

    /// <summary>Points within the radius that face as the vertex does.</summary>
    private static void Gather(
        TriangleMesh scan, PointTree tree, int vertex, Vector3D n, double radius, List<int> found, List<int> near)
    {
        tree.Within(scan.Vertex(vertex), radius, found);
        near.Clear();
        var step = Math.Max(1, found.Count / MostPoints);
        for (var i = 0; i < found.Count; i += step)
        {
            if (scan.Normal(found[i]).Dot(n) >= SameSide)
            {
                near.Add(found[i]);
            }
        }
    }
}
