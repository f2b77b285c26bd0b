using Bostel.Core;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Server.Security;
using Bostel.Server.Services;

namespace Bostel.Server.Endpoints;

/// <summary>The floor: parts, pieces in pages, and their small pictures.</summary>
public static class FloorEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/floor", async (FloorService floor, CancellationToken cancel) => await floor.FloorAsync(cancel))
            .WithName("floor").Needs(Role.Reader);
        api.MapGet("/pieces",
            async (FloorService floor, CancellationToken cancel, string list = "all", string? search = null, Guid? part = null,
            int skip = 0) => await floor.PiecesAsync(
                ListOf(list), search, part, skip >= 0 ? skip : throw new BadInputException("skip: is 0 or more."), cancel))
            .WithName("pieces").Needs(Role.Reader);
        api.MapGet("/parts/{id:guid}/table", async (Guid id, PiecesTable table, CancellationToken cancel) =>
        {
            var (name, content) = await table.WriteAsync(id, cancel);
            return TypedResults.File(content, ReportFormat.Xlsx.MediaType(), name);
        }).WithName("piecesTable").Needs(Role.Reader);
        api.MapGet("/parts/{id:guid}/trend", async (Guid id, PartTrend trend, CancellationToken cancel) => await trend.OfAsync(id, cancel))
            .WithName("trend").Needs(Role.Reader);
        api.MapGet("/nominals/{id:guid}/picture", async (Guid id, FloorService floor, HttpContext http, CancellationToken cancel) =>
            Picture(http, await floor.PictureOfNominalAsync(id, cancel))).WithName("nominalPicture").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/picture", async (Guid id, FloorService floor, HttpContext http, CancellationToken cancel) =>
            Picture(http, await floor.PictureOfPieceAsync(id, cancel))).WithName("piecePicture").Needs(Role.Reader);
        api.MapGet("/pieces/{id:guid}/align/alternatives/{index:int}/picture",
            async (Guid id, int index, FloorService floor, HttpContext http, CancellationToken cancel) =>
            Picture(http, await floor.PictureOfAlternativeAsync(id, index, cancel))).WithName("alternativePicture").Needs(Role.Reader);
    }

    private static PieceList ListOf(string name) => Enum.TryParse<PieceList>(name, true, out var list) && Enum.IsDefined(list)
        ? list
        : throw new BadInputException(
            $"list: '{name}' is not one of {string.Join(", ", Enum.GetNames<PieceList>()).ToLowerInvariant()}.");

    /// <summary>Asked for with the key of what is shown, so that it never changes.</summary>
    private static IResult Picture(HttpContext http, byte[] png)
    {
        http.Response.Headers.CacheControl = PieceEndpoints.StageCaching;
        return TypedResults.Bytes(png, "image/png");
    }
}
