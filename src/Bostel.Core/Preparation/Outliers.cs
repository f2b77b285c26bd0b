using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Preparation;

/// <summary>Finds single vertices and points that cannot belong to the surface.</summary>
public static class Outliers
{
    /// <summary>Of a point of a cloud.</summary>
    private const int Neighbours = 6;

    /// <summary>In spacings; what has too few neighbours within it stands alone.</summary>
    private const double FarthestNeighbour = 40;

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
    /// above the mean of all (statistical outlier removal, Rusu 2008), and those with fewer neighbours than that within forty spacings.
    /// </summary>
    public static bool[] LonePoints(TriangleMesh cloud, double sigmas)
    {
        Require(sigmas);
        var tree = new PointTree(cloud.Coordinates);
        var reach = FarthestNeighbour * PointSpacing.Median(cloud.Coordinates, tree);
        var means = new double[cloud.VertexCount];
        Parallel.For(0, means.Length, v =>
        {
            // The point itself is the nearest, at no distance.
            Span<int> found = stackalloc int[Neighbours + 1];
            Span<double> squares = stackalloc double[Neighbours + 1];
            if (tree.Nearest(cloud.Vertex(v), found, squares, reach) <= Neighbours)
            {
                means[v] = double.PositiveInfinity;
                return;
            }

            foreach (var square in squares)
            {
                means[v] += Math.Sqrt(square) / Neighbours;
            }
        });
        var known = means.Where(double.IsFinite).ToArray();
        if (known.Length == 0)
        {
            return new bool[means.Length];
        }

        var mean = known.Average();
        var deviation = Math.Sqrt(known.Average(m => (m - mean) * (m - mean)));
        return [.. means.Select(m => m > mean + (sigmas * deviation))];
    }

    private static void Require(double sigmas)
    {
        if (!(sigmas >= 1))
        {
            throw new BadInputException("sigmas: must be 1 or more.");
        }
    }
}
