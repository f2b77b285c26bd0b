using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;

namespace Bostel.Server.Tests;

/// <summary>The block the stage draws, number by number as its description says.</summary>
public class StageGeometryTests
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
        var block = await SentAsync(GeometryCodec.Send(mesh, labels, edges, values));
        Assert.Equal([4, mesh.VertexCount, mesh.TriangleCount, mesh.MeasuredTriangleCount, 3, 7, 0], block.Head);
        var origin = block.Origin;
        Assert.Equal(mesh.Bounds.Center.ToArray(), origin);
        Assert.Equal(mesh.Coordinates.Select((c, i) => (float)(c - origin[i % 3])), block.Positions);
        Assert.Equal(Turned(mesh.Indices), Turned(block.Corners));
        Assert.Equal(labels, block.Labels);
        double[] ends = [0, 0, 0, 1, 2, 3, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12];
        Assert.Equal(ends.Select((c, i) => (float)(c - origin[i % 3])), block.Segments);
        Assert.Equal(values, block.Values);
    }

    private static TriangleMesh Sheet(int side, int? measured = null)
    {
        var points = Enumerable.Range(0, side * side)
            .SelectMany(i => new Vector3D(500 + (0.1 * (i % side)), -20 + (0.1 * (i / side)), Math.Sin(0.02 * (i % side))).ToArray());
        var triangles = Enumerable.Range(0, side * side).Where(i => i % side < side - 1 && i / side < side - 1)
            .SelectMany(i => new[] { i, i + 1, i + side + 1, i, i + side + 1, i + side });
        return new([.. points], [.. triangles], measuredTriangles: measured);
    }

    private static async Task<StageBlock> SentAsync(IResult result)
    {
        var body = new MemoryStream();
        var context = new DefaultHttpContext { RequestServices = new ServiceCollection().AddLogging().BuildServiceProvider() };
        context.Response.Body = body;
        await result.ExecuteAsync(context);
        Assert.Equal("application/octet-stream", context.Response.ContentType);
        return new(body.ToArray());
    }

    /// <summary>Triangles in their order, each begun with its lowest corner: the codec may begin with another, in the same sense.</summary>
    private static IEnumerable<int> Turned(int[] corners) => corners.Chunk(3).SelectMany(t =>
    {
        var first = Array.IndexOf(t, t.Min());
        return new[] { t[first], t[(first + 1) % 3], t[(first + 2) % 3] };
    });
}
