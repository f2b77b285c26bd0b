using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>
/// Which edges and corners of an open surface are its border: a closest point there says where the surface ends, not how far it is away.
/// </summary>
internal sealed class SurfaceBorder
{
    private readonly TriangleMesh _mesh;
    private readonly bool[] _vertices;

    public SurfaceBorder(TriangleMesh mesh)
    {
        _mesh = mesh;
        _vertices = new bool[mesh.VertexCount];
        var neighbours = mesh.Topology.Neighbours;
        for (var h = 0; h < neighbours.Length; h++)
        {
            if (neighbours[h] < 0)
            {
                _vertices[mesh.Indices[h]] = _vertices[mesh.Indices[MeshTopology.Next(h)]] = true;
            }
        }
    }

    public bool Holds(int vertex) => _vertices[vertex];

    public bool Holds(in ClosestHit hit) => hit.Part switch
    {
        TrianglePart.Face => false,
        <= TrianglePart.Edge2 => _mesh.Topology.Neighbours[(3 * hit.Triangle) + (hit.Part - TrianglePart.Edge0)] < 0,
        _ => _vertices[_mesh.Indices[(3 * hit.Triangle) + (hit.Part - TrianglePart.Corner0)]],
    };
}
