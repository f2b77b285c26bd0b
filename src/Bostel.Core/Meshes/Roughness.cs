using Bostel.Core.Geometry;

namespace Bostel.Core.Meshes;

/// <summary>How far each vertex stands out from the mean of its neighbours along its normal, and what that says about the noise.</summary>
public sealed class Roughness
{
    /// <summary>Ratio of the standard deviation to the median of absolute values of a normal distribution.</summary>
    private const double NormalConsistent = 1.482602218505602;

    private Roughness(double[] heights, double noise) => (Heights, Noise) = (heights, noise);

    /// <summary>Signed height of each vertex over the mean of its neighbours, mm; 0 at borders and bare vertices.</summary>
    public double[] Heights { get; }

    /// <summary>
    /// Standard deviation of the noise along the normal, mm: the median absolute height over all inside vertices, made consistent with a normal
    /// distribution, over √(1 + 1/n), the factor by which the mean of n equally noisy neighbours adds to it. Sharp edges are few and do not move a
    /// median; strong curvature at a coarse spacing reads as noise, so this is an upper estimate.
    /// </summary>
    public double Noise { get; }

    public static Roughness Of(TriangleMesh mesh, VertexRings rings)
    {
        var heights = new double[mesh.VertexCount];
        var inside = new bool[mesh.VertexCount];
        var normals = mesh.VertexNormals;
        Parallel.For(0, (heights.Length + 8191) / 8192, chunk =>
        {
            for (var v = chunk * 8192; v < Math.Min(heights.Length, (chunk + 1) * 8192); v++)
            {
                var mean = Vector3D.Zero;
                long balance = 0;
                var corners = rings.Of(v);
                foreach (var corner in corners)
                {
                    var (p, q) = (mesh.Indices[MeshTopology.Next(corner)], mesh.Indices[MeshTopology.Next(MeshTopology.Next(corner))]);
                    mean += mesh.Vertex(p);
                    balance += p - q;
                }

                if (corners.Length > 2 && balance == 0)
                {
                    inside[v] = true;
                    heights[v] = (mesh.Vertex(v) - (mean / corners.Length)).Dot(new(normals[3 * v], normals[(3 * v) + 1], normals[(3 * v) + 2]));
                }
            }
        });
        var sizes = Enumerable.Range(0, mesh.MeasuredVertexCount).Where(v => inside[v]).Select(v => Math.Abs(heights[v])).ToArray();
        if (sizes.Length == 0)
        {
            return new(heights, 0);
        }

        Array.Sort(sizes);
        var meanNeighbours = 3.0 * mesh.TriangleCount / Math.Max(1, mesh.VertexCount);
        return new(heights, NormalConsistent * sizes[sizes.Length / 2] / Math.Sqrt(1 + (1 / meanNeighbours)));
    }
}
