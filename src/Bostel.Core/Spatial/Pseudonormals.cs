using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>Face, edge and corner normals that give the correct side for a closest point (Bærentzen and Aanæs 2005).</summary>
internal sealed class Pseudonormals
{
    private readonly double[] _faces;
    private readonly double[] _corners;
    private readonly int[] _neighbours;
    private readonly int[] _indices;

    public Pseudonormals(TriangleMesh mesh)
    {
        _indices = mesh.Indices;
        _neighbours = mesh.Topology.Neighbours;
        _faces = new double[mesh.Indices.Length];
        _corners = new double[mesh.Coordinates.Length];
        for (var t = 0; t < mesh.TriangleCount; t++)
        {
            var (a, b, c) = mesh.Triangle(t);
            var n = (b - a).Cross(c - a).Normalized();
            Store(_faces, t, n);
            Accumulate(_indices[3 * t], MeshNormals.CornerAngle(a, b, c) * n);
            Accumulate(_indices[(3 * t) + 1], MeshNormals.CornerAngle(b, c, a) * n);
            Accumulate(_indices[(3 * t) + 2], MeshNormals.CornerAngle(c, a, b) * n);
        }
    }

    public Vector3D Face(int triangle) => Vector3D.At(_faces, triangle);

    public Vector3D At(int triangle, TrianglePart part)
    {
        if (part == TrianglePart.Face)
        {
            return Face(triangle);
        }

        if (part >= TrianglePart.Corner0)
        {
            return Vector3D.At(_corners, _indices[(3 * triangle) + (part - TrianglePart.Corner0)]);
        }

        var across = _neighbours[(3 * triangle) + (part - TrianglePart.Edge0)];
        return across < 0 ? Face(triangle) : Face(triangle) + Face(across);
    }

    private void Accumulate(int vertex, Vector3D n) => Store(_corners, vertex, Vector3D.At(_corners, vertex) + n);

    private static void Store(double[] to, int i, Vector3D v)
    {
        to[3 * i] = v.X;
        to[(3 * i) + 1] = v.Y;
        to[(3 * i) + 2] = v.Z;
    }
}
