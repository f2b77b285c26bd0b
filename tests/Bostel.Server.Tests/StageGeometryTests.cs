using System.Runtime.InteropServices;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>The block the stage draws, number by number as its description says.</summary>
public partial class StageGeometryTests
{
    /// <summary>40 vertices a side fit into one piece of what is written; 300 a side need several.</summary>
    [Theory]
    [InlineData(40)]
    [InlineData(300)]
    public async Task EveryNumberArrivesInItsPlace(int side)
    {
        var mesh = Sheet(side, measured: 10);
        var labels = Enumerable.Range(0, mesh.TriangleCount).Select(t => t % 7).ToArray();
        var values = Enumerable.Range(0, mesh.VertexCount).Select(v => v / 8f).ToArray();
        NominalEdge[] edges = [new([0, 0, 0, 1, 2, 3, 4, 5, 6], [0]), new([7, 8, 9, 10, 11, 12], [0, 1])];
        using var reader = await SentAsync(GeometryCodec.Send(mesh, labels, edges, values));
        Assert.Equal("BGEO", new string(reader.ReadChars(4)));
        Assert.Equal(
            [4, mesh.VertexCount, mesh.TriangleCount, mesh.MeasuredTriangleCount, 3, 7, 0], Numbers(reader, 7, r => r.ReadInt32()));
        var origin = Numbers(reader, 3, r => r.ReadDouble());
        Assert.Equal(mesh.Bounds.Center.ToArray(), origin);
        Assert.Equal(
            mesh.Coordinates.Select((c, i) => (float)(c - origin[i % 3])), Decoded<float>(reader, mesh.VertexCount, 3));
        Assert.Equal(Turned(mesh.Indices), Turned(Decoded<int>(reader, mesh.TriangleCount, 3, triangles: true)));
        Assert.Equal(labels, Decoded<int>(reader, labels.Length, 1));
        double[] ends = [0, 0, 0, 1, 2, 3, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12];
        Assert.Equal(ends.Select((c, i) => (float)(c - origin[i % 3])), Decoded<float>(reader, 3, 6));
        Assert.Equal(values, Decoded<float>(reader, values.Length, 1));
        Assert.Equal(reader.BaseStream.Length, reader.BaseStream.Position);
    }

    private static TriangleMesh Sheet(int side, int? measured = null)
    {
        var points = Enumerable.Range(0, side * side)
            .SelectMany(i => new Vector3D(500 + (0.1 * (i % side)), -20 + (0.1 * (i / side)), Math.Sin(0.02 * (i % side))).ToArray());
        var triangles = Enumerable.Range(0, side * side).Where(i => i % side < side - 1 && i / side < side - 1)
            .SelectMany(i => new[] { i, i + 1, i + side + 1, i, i + side + 1, i + side });
        return new([.. points], [.. triangles], measuredTriangles: measured);
    }

    private static async Task<BinaryReader> SentAsync(IResult result)
    {
        var body = new MemoryStream();
        var context = new DefaultHttpContext { RequestServices = new ServiceCollection().AddLogging().BuildServiceProvider() };
        context.Response.Body = body;
        await result.ExecuteAsync(context);
        Assert.Equal("application/octet-stream", context.Response.ContentType);
        body.Position = 0;
        return new(body);
    }

    private static T[] Numbers<T>(BinaryReader reader, int count, Func<BinaryReader, T> read) =>
        [.. Enumerable.Range(0, count).Select(_ => read(reader))];

    /// <summary>Pieces of 65,536 records, a length before each, by the library's decoder.</summary>
    private static T[] Decoded<T>(BinaryReader reader, int count, int numbers, bool triangles = false)
        where T : struct
    {
        var all = new T[count * numbers];
        for (var from = 0; from < count; from += 65536)
        {
            var piece = Math.Min(65536, count - from);
            var bytes = reader.ReadBytes(reader.ReadInt32());
            ref var place = ref MemoryMarshal.GetReference(MemoryMarshal.AsBytes(all.AsSpan(from * numbers)));
            Assert.Equal(0, triangles
                ? DecodeIndexBuffer(ref place, (nuint)(3 * piece), 4, in bytes[0], (nuint)bytes.Length)
                : DecodeVertexBuffer(ref place, (nuint)piece, (nuint)(4 * numbers), in bytes[0], (nuint)bytes.Length));
        }

        return all;
    }

    /// <summary>Triangles in their order, each begun with its lowest corner: the codec may begin with another, in the same sense.</summary>
    private static IEnumerable<int> Turned(int[] corners) => corners.Chunk(3).SelectMany(t =>
    {
        var first = Array.IndexOf(t, t.Min());
        return new[] { t[first], t[(first + 1) % 3], t[(first + 2) % 3] };
    });

    [LibraryImport("libmeshoptimizer.so.2d", EntryPoint = "meshopt_decodeVertexBuffer")]
    private static partial int DecodeVertexBuffer(ref byte to, nuint count, nuint size, in byte buffer, nuint length);

    [LibraryImport("libmeshoptimizer.so.2d", EntryPoint = "meshopt_decodeIndexBuffer")]
    private static partial int DecodeIndexBuffer(ref byte to, nuint count, nuint size, in byte buffer, nuint length);
}
