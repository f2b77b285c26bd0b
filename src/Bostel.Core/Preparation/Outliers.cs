using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Preparation;

/// <summary>Finds single vertices and points that cannot belong to the surface.</summary>
public static class Outliers
{
    /// <summary>
    /// Vertices of a mesh that stand out from the mean of their neighbours by more than <paramref name="sigmas"/> times the noise, while at
    /// most one neighbour stands out a third as far: along a sharp edge the neighbours on the edge stand out alike, so edges are kept.
    /// </summary>
    public static bool[] Spikes(TriangleMesh mesh, double sigmas)
    {
        Require(sigmas);
        var rings = mesh.Rings;
        var roughness = Roughness.Of(mesh, rings);
        var limit = sigmas * roughness.Noise;
        var found = new bool[mesh.VertexCount];
        for (var v = 0; v < found.Length; v++)
        {
            var height = Math.Abs(roughness.Heights[v]);
            if (height <= limit || height == 0)
            {
                continue;
            }

            var alike = 0;
            foreach (var corner in rings.Of(v))
            {
                alike += Math.Abs(roughness.Heights[mesh.Indices[MeshTopology.Next(corner)]]) > height / 3 ? 1 : 0;
            }

            found[v] = alike <= 1;
        }

        return found;
    }

    /// <summary>
    /// Points of a cloud whose mean distance to their six nearest neighbours is more than <paramref name="sigmas"/> standard deviations
    /// above the mean of all (statistical outlier removal, Rusu 2008), and those with fewer neighbours than that within the distance this
    /// allows.
    /// </summary>
    public static bool[] LonePoints(TriangleMesh cloud, double sigmas)
    {
        Require(sigmas);
        const int Neighbours = 6;
        var tree = new PointTree(cloud.Coordinates);
        var spacing = PointSpacing(cloud, tree);
        var means = new double[cloud.VertexCount];
        Parallel.For(0, means.Length, () => new List<int>(), (v, _, near) =>
        {
            var p = cloud.Vertex(v);
            for (var radius = 2.5 * spacing; radius < 50 * spacing; radius *= 2)
            {
                tree.Within(p, radius, near);
                if (near.Count > Neighbours)
                {
                    means[v] = near.Select(n => Vector3D.Distance(p, cloud.Vertex(n))).Order().Take(Neighbours + 1).Sum() / Neighbours;
                    return near;
                }
            }

            means[v] = double.PositiveInfinity;
            return near;
        }, _ => { });
        var known = means.Where(double.IsFinite).ToArray();
        if (known.Length == 0)
        {
            return new bool[means.Length];
        }

        var mean = known.Average();
        var deviation = Math.Sqrt(known.Average(m => (m - mean) * (m - mean)));
        return [.. means.Select(m => m > mean + (sigmas * deviation))];
    }

    /// <summary>Median distance of points to their nearest neighbour, over a sample.</summary>
    public static double PointSpacing(TriangleMesh cloud, PointTree tree)
    {
        var step = Math.Max(1, cloud.VertexCount / 2000);
        var near = new List<int>();
        var distances = new List<double>();
        var guess = cloud.Bounds.Diagonal / Math.Sqrt(Math.Max(1, cloud.VertexCount));
        for (var v = 0; v < cloud.VertexCount; v += step)
        {
            var p = cloud.Vertex(v);
            for (var radius = 0.25 * guess; radius < 1e3 * guess; radius *= 2)
            {
                tree.Within(p, radius, near);
                var least = near.Where(n => n != v).Select(n => Vector3D.Distance(p, cloud.Vertex(n))).Where(d => d > 0).DefaultIfEmpty(0)
                    .Min();
                if (least > 0)
                {
                    distances.Add(least);
                    break;
                }
            }
        }

        distances.Sort();
        return distances.Count == 0 ? guess : distances[distances.Count / 2];
    }

    private static void Require(double sigmas)
    {
        if (!(sigmas >= 1))
        {
            throw new BadInputException("sigmas: must be 1 or more.");
        }
    }
}
