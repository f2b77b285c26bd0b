using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>The border of faces taken together, as degenerate triangles in an index: how far a point lies from it.</summary>
internal static class FaceBorder
{
    /// <returns>Null when the surface is closed in itself.</returns>
    public static TriangleTree? Of(IReadOnlyCollection<int> faces, NominalModel nominal)
    {
        var topology = nominal.Topology;
        var coordinates = new List<double>();
        for (var h = 0; h < topology.Neighbours.Length; h++)
        {
            var other = topology.Neighbours[h];
            if (faces.Contains(nominal.FaceOfTriangle[h / 3]) && (other < 0 || !faces.Contains(nominal.FaceOfTriangle[other])))
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
