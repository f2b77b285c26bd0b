using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Nominals;

/// <summary>Borders of faces, as degenerate triangles in an index: how far a point lies from them.</summary>
internal static class FaceBorder
{
    /// <summary>The border of faces taken together.</summary>
    /// <returns>Null when the surface is closed in itself.</returns>
    public static TriangleTree? Of(IReadOnlyCollection<int> faces, NominalModel nominal) =>
        Of(nominal, (face, other) => faces.Contains(face) && (other < 0 || !faces.Contains(other)));

    /// <summary>The borders between all faces.</summary>
    /// <returns>Null when there are none.</returns>
    public static TriangleTree? OfAll(NominalModel nominal) => Of(nominal, (face, other) => face > other);

    /// <param name="bounds">Whether a face has a border towards another, which is −1 where the surface ends.</param>
    private static TriangleTree? Of(NominalModel nominal, Func<int, int, bool> bounds)
    {
        var topology = nominal.Topology;
        var coordinates = new List<double>();
        for (var h = 0; h < topology.Neighbours.Length; h++)
        {
            var other = topology.Neighbours[h];
            if (bounds(nominal.FaceOfTriangle[h / 3], other < 0 ? -1 : nominal.FaceOfTriangle[other]))
            {
                coordinates.AddRange(nominal.Mesh.Vertex(nominal.Mesh.Indices[h]).ToArray());
                coordinates.AddRange(nominal.Mesh.Vertex(nominal.Mesh.Indices[MeshTopology.Next(h)]).ToArray());
            }
        }

        var count = coordinates.Count / 6;
        return count == 0
            ? null
            : new(new TriangleMesh(
                [.. coordinates], [.. Enumerable.Range(0, count).SelectMany(i => new[] { 2 * i, (2 * i) + 1, (2 * i) + 1 })]));
    }
}
