using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>Distances from the places of one surface to the nearest of another, mm.</summary>
public sealed record Apart(double Nearest, double Mean, double Farthest)
{
    internal static Apart Of(IReadOnlyList<double> distances, IReadOnlyList<double> weights)
    {
        var (sum, all) = (0.0, 0.0);
        for (var i = 0; i < distances.Count; i++)
        {
            sum += weights[i] * distances[i];
            all += weights[i];
        }

        return new(distances.Min(), sum / all, distances.Max());
    }
}

/// <summary>
/// How far one face lies from another: from each place of the first to the nearest of the second. Of single points: their noise is in the
/// nearest and the farthest, and no uncertainty is told.
/// </summary>
/// <param name="Measured">On the scan, the mean over the area that was measured; null: one of the two was not measured.</param>
/// <param name="Nominal">On the nominal.</param>
public sealed record FaceDistance(Apart? Measured, Apart Nominal)
{
    /// <summary>Places on the nominal for its mean.</summary>
    private const int Places = 1500;

    /// <param name="searchDistance">How far a point may lie from the face it belongs to, mm.</param>
    /// <exception cref="BadInputException">It is one face, or the nominal does not have it.</exception>
    public static FaceDistance Between(int first, int second, AlignedScan scan, NominalModel nominal, double searchDistance)
    {
        if (first == second)
        {
            throw new BadInputException("faces: a distance needs two of them.");
        }

        var (from, to) = (SurfaceOf(first, nominal), SurfaceOf(second, nominal));
        return new(Measure(first, second, scan, nominal, searchDistance), OnNominal(from, new(to)));
    }

    private static TriangleMesh SurfaceOf(int face, NominalModel nominal)
    {
        var id = nominal.Face(face).Id;
        return nominal.Mesh.KeepTriangles(t => nominal.FaceOfTriangle[t] == id);
    }

    /// <summary>The nearest and the farthest place of a polyhedron may be a corner; the mean is that of even places.</summary>
    private static Apart OnNominal(TriangleMesh from, TriangleTree to)
    {
        double[] even = [.. SurfaceSamples.Even(from, Places).Points.Select(p => to.Closest(p).Distance)];
        double[] corners = [.. Enumerable.Range(0, from.VertexCount).Select(v => to.Closest(from.Vertex(v)).Distance)];
        return new(Math.Min(even.Min(), corners.Min()), even.Average(), Math.Max(even.Max(), corners.Max()));
    }

    private static Apart? Measure(int first, int second, AlignedScan scan, NominalModel nominal, double searchDistance)
    {
        var from = FeatureExtraction.VerticesOn([first], scan, nominal, searchDistance);
        var to = FeatureExtraction.VerticesOn([second], scan, nominal, searchDistance);
        if (from.Count == 0 || to.Count == 0)
        {
            return null;
        }

        var (points, distance) = (FeatureExtraction.Coordinates(scan, from), To(to, scan));
        var distances = new double[from.Count];
        Parallel.For(0, distances.Length, i => distances[i] = distance(Vector3D.At(points, i)));
        return Apart.Of(distances, [.. from.Select(v => scan.Mesh.TriangleCount > 0 ? scan.Mesh.VertexAreas[v] : 1)]);
    }

    /// <summary>To the triangles between the points; of a cloud, or where no triangle is whole, to the points themselves.</summary>
    private static Func<Vector3D, double> To(List<int> vertices, AlignedScan scan)
    {
        var own = new bool[scan.Mesh.VertexCount];
        vertices.ForEach(v => own[v] = true);
        var corners = scan.Mesh.Indices;
        var surface = scan.Mesh.KeepTriangles(t => own[corners[3 * t]] && own[corners[(3 * t) + 1]] && own[corners[(3 * t) + 2]]);
        if (surface.TriangleCount > 0)
        {
            var tree = new TriangleTree(surface.Transformed(scan.Transform));
            return p => tree.Closest(p).Distance;
        }

        var points = FeatureExtraction.Coordinates(scan, vertices);
        var nearest = new PointTree(points);
        return p => Vector3D.Distance(p, Vector3D.At(points, nearest.Nearest(p)));
    }
}
