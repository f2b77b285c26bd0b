using System.Buffers;
using System.Buffers.Binary;
using System.Runtime.InteropServices;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Microsoft.AspNetCore.Http.HttpResults;

namespace Bostel.Server.Services;

/// <summary>
/// Geometry for the stage: "BGEO", version 4, counts of vertices, triangles, measured triangles and edge segments, flags, four bytes of
/// nothing, a double-precision origin, then float32 positions about the origin, triangles of three uint32 corners, and (flag 1) a uint32
/// label a triangle, (flag 2) edge segments of two float32 end points, (flag 4) a float32 value a vertex. Each of these comes in pieces
/// of 65,536 records, the last shorter: an int32 of its bytes, then the bytes as <see cref="Meshopt"/> encodes them. Single precision about
/// the part's own middle is off by less than 10⁻⁵ mm on a part of 200 mm.
/// </summary>
public static class GeometryCodec
{
    /// <summary>Records encoded at a time.</summary>
    private const int Piece = 1 << 16;

    /// <summary>The answer to a request: written piece by piece, so that a large scan does not lie in memory once more.</summary>
    /// <exception cref="Core.BadInputException">More than a browser takes in one piece.</exception>
    public static PushStreamHttpResult Send(
        TriangleMesh mesh, int[]? labels = null, IReadOnlyList<NominalEdge>? edges = null, float[]? values = null)
    {
        var segments = edges is null ? null : Segments(edges, mesh.Bounds.Center);
        var numbers = mesh.Coordinates.LongLength
            + mesh.Indices.LongLength + (labels?.Length ?? 0) + (segments?.Length ?? 0) + (values?.Length ?? 0);
        if (4 * numbers > Array.MaxLength)
        {
            throw new Core.BadInputException("The scan is too large to be shown; reduce it first.");
        }

        return TypedResults.Stream(
            async body =>
            {
                await body.WriteAsync(Head(mesh, labels, segments, values));
                await PutAsync(body, mesh.VertexCount, 12, Positions(mesh));
                await PutAsync(body, mesh.TriangleCount, 12, Of(mesh.Indices, 3), triangles: true);
                await PutAsync(body, labels?.Length ?? 0, 4, Of(labels, 1));
                await PutAsync(body, (segments?.Length ?? 0) / 6, 24, Of(segments, 6));
                await PutAsync(body, values?.Length ?? 0, 4, Of(values, 1));
            },
            "application/octet-stream");
    }

    private static byte[] Head(TriangleMesh mesh, int[]? labels, float[]? segments, float[]? values)
    {
        var bytes = new byte[56];
        "BGEO"u8.CopyTo(bytes);
        var flags = (labels is null ? 0 : 1) | (segments is null ? 0 : 2) | (values is null ? 0 : 4);
        ((int[])[4, mesh.VertexCount, mesh.TriangleCount, mesh.MeasuredTriangleCount, (segments?.Length ?? 0) / 6, flags])
            .CopyTo(MemoryMarshal.Cast<byte, int>(bytes.AsSpan(4, 24)));
        mesh.Bounds.Center.ToArray().CopyTo(MemoryMarshal.Cast<byte, double>(bytes.AsSpan(32, 24)));
        return bytes;
    }

    /// <summary>Puts records from a place on into the room given.</summary>
    private delegate void Fill(int from, Span<byte> room);

    /// <summary>Single-precision coordinates about the origin.</summary>
    private static Fill Positions(TriangleMesh mesh)
    {
        var origin = mesh.Bounds.Center.ToArray();
        return (from, room) =>
        {
            var positions = MemoryMarshal.Cast<byte, float>(room);
            for (var i = 0; i < positions.Length; i++)
            {
                positions[i] = (float)(mesh.Coordinates[(3 * from) + i] - origin[i % 3]);
            }
        };
    }

    /// <summary>Numbers as they are.</summary>
    /// <param name="a">Numbers in a record.</param>
    private static Fill Of<T>(T[]? numbers, int a)
        where T : struct =>
        (from, room) => MemoryMarshal.AsBytes(numbers.AsSpan(a * from, room.Length / 4)).CopyTo(room);

    private static float[] Segments(IReadOnlyList<NominalEdge> edges, Core.Geometry.Vector3D origin) =>
        [.. edges.SelectMany(e => Enumerable.Range(0, (e.Points.Length / 3) - 1).SelectMany(i => e.Points.Skip(3 * i).Take(6)))
            .Select((c, i) => (float)(c - origin[i % 3]))];

    /// <param name="size">Bytes of a record.</param>
    private static async Task PutAsync(Stream body, int count, int size, Fill fill, bool triangles = false)
    {
        if (count == 0)
        {
            return;
        }

        var piece = Math.Min(count, Piece);
        var plain = ArrayPool<byte>.Shared.Rent(size * piece);
        var most = triangles ? Meshopt.TrianglesBound(piece) : Meshopt.RecordsBound(piece, size);
        var coded = ArrayPool<byte>.Shared.Rent(sizeof(int) + most);
        for (var from = 0; from < count; from += Piece)
        {
            await body.WriteAsync(coded.AsMemory(0, Encoded(from)));
        }

        ArrayPool<byte>.Shared.Return(plain);
        ArrayPool<byte>.Shared.Return(coded);

        int Encoded(int from)
        {
            var records = plain.AsSpan(0, size * Math.Min(Piece, count - from));
            fill(from, records);
            var to = coded.AsSpan(sizeof(int));
            var length = triangles ? Meshopt.Triangles(records, to) : Meshopt.Records(records, size, to);
            BinaryPrimitives.WriteInt32LittleEndian(coded, length);
            return sizeof(int) + length;
        }
    }
}
