using System.Buffers;
using System.Runtime.InteropServices;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Microsoft.AspNetCore.Http.HttpResults;

namespace Bostel.Server.Services;

/// <summary>
/// Geometry for the stage: "BGEO", version 3, counts of vertices, triangles, measured triangles and edge segments, flags, four bytes of
/// nothing, a double-precision origin, then float32 positions about the origin, uint32 indices, and (flag 1) a uint32 label a triangle,
/// (flag 2) float32 edge segments with two end points each, (flag 4) a float32 value a vertex. Single precision about the part's own
/// middle is off by less than 10⁻⁵ mm on a part of 200 mm.
/// </summary>
public static class GeometryCodec
{
    /// <summary>Numbers written at a time.</summary>
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
                await PutAsync(body, mesh.Coordinates.Length, Positions(mesh));
                await PutAsync(body, mesh.Indices);
                await PutAsync(body, labels);
                await PutAsync(body, segments);
                await PutAsync(body, values);
            },
            "application/octet-stream");
    }

    private static byte[] Head(TriangleMesh mesh, int[]? labels, float[]? segments, float[]? values)
    {
        var bytes = new byte[56];
        "BGEO"u8.CopyTo(bytes);
        var flags = (labels is null ? 0 : 1) | (segments is null ? 0 : 2) | (values is null ? 0 : 4);
        ((int[])[3, mesh.VertexCount, mesh.TriangleCount, mesh.MeasuredTriangleCount, (segments?.Length ?? 0) / 6, flags])
            .CopyTo(MemoryMarshal.Cast<byte, int>(bytes.AsSpan(4, 24)));
        mesh.Bounds.Center.ToArray().CopyTo(MemoryMarshal.Cast<byte, double>(bytes.AsSpan(32, 24)));
        return bytes;
    }

    /// <summary>Single-precision coordinates about the origin, as bytes: as many from a place on as there is room for.</summary>
    private static Action<int, Memory<byte>> Positions(TriangleMesh mesh)
    {
        var origin = mesh.Bounds.Center.ToArray();
        return (from, room) =>
        {
            var positions = MemoryMarshal.Cast<byte, float>(room.Span);
            for (var i = 0; i < positions.Length; i++)
            {
                positions[i] = (float)(mesh.Coordinates[from + i] - origin[(from + i) % 3]);
            }
        };
    }

    private static float[] Segments(IReadOnlyList<NominalEdge> edges, Core.Geometry.Vector3D origin) =>
        [.. edges.SelectMany(e => Enumerable.Range(0, (e.Points.Length / 3) - 1).SelectMany(i => e.Points.Skip(3 * i).Take(6)))
            .Select((c, i) => (float)(c - origin[i % 3]))];

    private static Task PutAsync<T>(Stream body, T[]? numbers)
        where T : struct =>
        PutAsync(body, numbers?.Length ?? 0, (from, room) => MemoryMarshal.AsBytes(
            numbers.AsSpan(from, room.Length / 4)).CopyTo(room.Span));

    /// <param name="count">Numbers of four bytes.</param>
    /// <param name="fill">Puts numbers from a place on into the room given.</param>
    private static async Task PutAsync(Stream body, int count, Action<int, Memory<byte>> fill)
    {
        var piece = ArrayPool<byte>.Shared.Rent(4 * Piece);
        for (var from = 0; from < count; from += Piece)
        {
            var room = piece.AsMemory(0, 4 * Math.Min(Piece, count - from));
            fill(from, room);
            await body.WriteAsync(room);
        }

        ArrayPool<byte>.Shared.Return(piece);
    }
}
