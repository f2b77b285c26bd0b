using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Segmentation;

namespace Bostel.Server.Services;

/// <summary>
/// Geometry for the stage: "BGEO", version, vertex, triangle and edge-point counts, flags, a double-precision origin, then float32 positions
/// about the origin, uint32 indices, and (flag 1) a uint32 label a triangle, (flag 2) float32 edge segments with two end points each.
/// Single precision about the part's own middle is off by less than 10⁻⁵ mm on a part of 200 mm.
/// </summary>
public static class GeometryCodec
{
    public static byte[] Encode(TriangleMesh mesh, int[]? labels = null, IReadOnlyList<NominalEdge>? edges = null)
    {
        using var memory = new MemoryStream();
        using var writer = new BinaryWriter(memory);
        var segments = edges?.Sum(e => (e.Points.Length / 3) - 1) ?? 0;
        var origin = mesh.Bounds.Center;
        writer.Write("BGEO"u8);
        writer.Write(1);
        writer.Write(mesh.VertexCount);
        writer.Write(mesh.TriangleCount);
        writer.Write(segments);
        writer.Write((labels is null ? 0 : 1) | (edges is null ? 0 : 2));
        writer.Write(origin.X);
        writer.Write(origin.Y);
        writer.Write(origin.Z);
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            Write(mesh.Vertex(v));
        }

        foreach (var i in mesh.Indices)
        {
            writer.Write(i);
        }

        foreach (var label in labels ?? [])
        {
            writer.Write(label);
        }

        foreach (var edge in edges ?? [])
        {
            for (var i = 0; i + 5 < edge.Points.Length; i += 3)
            {
                Write(new(edge.Points[i], edge.Points[i + 1], edge.Points[i + 2]));
                Write(new(edge.Points[i + 3], edge.Points[i + 4], edge.Points[i + 5]));
            }
        }

        writer.Flush();
        return memory.ToArray();

        void Write(Vector3D p)
        {
            writer.Write((float)(p.X - origin.X));
            writer.Write((float)(p.Y - origin.Y));
            writer.Write((float)(p.Z - origin.Z));
        }
    }
}
