namespace Bostel.Core.Meshes;

/// <summary>
/// The triangles around each vertex: those of vertex v are <c>Corners[Starts[v] .. Starts[v + 1]]</c>, as half-edge numbers 3·t + k of the
/// corner.
/// </summary>
public sealed class VertexRings
{
    private VertexRings(int[] starts, int[] corners) => (Starts, Corners) = (starts, corners);

    public int[] Starts { get; }
    public int[] Corners { get; }

    /// <summary>Counting sort of the corners by vertex: linear time, corners of a vertex in ascending order.</summary>
    public static VertexRings Build(TriangleMesh mesh)
    {
        var indices = mesh.Indices;
        var starts = new int[mesh.VertexCount + 1];
        foreach (var v in indices)
        {
            starts[v + 1]++;
        }

        for (var v = 0; v < mesh.VertexCount; v++)
        {
            starts[v + 1] += starts[v];
        }

        var fill = starts.AsSpan(0, mesh.VertexCount).ToArray();
        var corners = new int[indices.Length];
        for (var h = 0; h < indices.Length; h++)
        {
            corners[fill[indices[h]]++] = h;
        }

        return new(starts, corners);
    }

    public ReadOnlySpan<int> Of(int vertex) => Corners.AsSpan(Starts[vertex], Starts[vertex + 1] - Starts[vertex]);
}
