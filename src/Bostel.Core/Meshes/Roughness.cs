using Bostel.Core.Geometry;

namespace Bostel.Core.Meshes;

/// <summary>How far each vertex stands out from the mean of its neighbours along its normal, and what that says about the noise.</summary>
public sealed class Roughness
{
    /// <summary>Ratio of the standard deviation to the median of absolute values of a normal distribution.</summary>
    private const double NormalConsistent = 1.482602218505602;

    /// <summary>
    /// (7/6)² + 6·(5/18)² + 6·(1/36)² + 6·(2/36)²: the squared weights of vertex, first and second ring in the twice applied
    /// umbrella.
    /// </summary>
    private const double TwiceDifferenced = (49.0 / 36) + (6 * 25.0 / 324) + (6 * 1.0 / 1296) + (6 * 4.0 / 1296);

    private Roughness(double[] heights, double noise) => (Heights, Noise) = (heights, noise);

    /// <summary>Signed height of each vertex over the mean of its neighbours, mm; 0 at borders and bare vertices.</summary>
    public double[] Heights { get; }

    /// <summary>
    /// Standard deviation of the noise along the normal, mm. Even curvature gives every vertex the same height, so the height of a vertex
    /// less the mean of its neighbours' heights is left with noise; the median absolute value of that over all inside vertices, made
    /// consistent with a normal distribution, is divided by √1.847, what independent noise comes to after both differences on a regular
    /// mesh of six neighbours. Sharp edges are few and do not move a median; curvature that changes from vertex to vertex reads as noise.
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
                    heights[v] = (mesh.Vertex(v) - (mean / corners.Length))
                        .Dot(Vector3D.At(normals, v));
                }
            }
        });
        var sizes = Enumerable.Range(0, mesh.MeasuredVertexCount).Where(v => inside[v]).Select(v => Math.Abs(heights[v] - MeanAround(v)))
            .ToArray();
        if (sizes.Length == 0)
        {
            return new(heights, 0);
        }

        Array.Sort(sizes);
        return new(heights, NormalConsistent * sizes[sizes.Length / 2] / Math.Sqrt(TwiceDifferenced));

        double MeanAround(int v)
        {
            double sum = 0;
            var corners = rings.Of(v);
            foreach (var corner in corners)
            {
                sum += heights[mesh.Indices[MeshTopology.Next(corner)]];
            }

            return sum / corners.Length;
        }
    }
}
