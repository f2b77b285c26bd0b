using System.Security.Claims;
using System.Text.Json;
using Bostel.Cad;
using Bostel.Core;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Formats;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Data;
using Bostel.Server.Jobs;
using Bostel.Server.Security;
using Bostel.Server.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

public static class PartEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/parts", async (NewPart part, ReceiveService receive, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            var made = await receive.CreatePartAsync(part.Number, part.Name, part.Revision, null, who.Name(), cancel);
            return new PartSummary(made.Id, made.Number, made.Name, made.Revision, null, 0, 0, 0, 0, 1, 0, []);
        }).WithName("createPart").Needs(Role.Inspector);
        api.MapPost("/uploads", UploadAsync).WithName("upload").DisableAntiforgery().Needs(Role.Inspector)
            .WithMetadata(new RequestSizeLimitAttribute(RequestGuards.MostFile));
        api.MapPost("/parts/{id:guid}/nominal",
            async (Guid id, NominalFromUpload upload, JobQueue jobs, BlobStore blobs, BostelContext context, ClaimsPrincipal who,
            CancellationToken cancel) =>
        {
            _ = LengthUnit.Factor(upload.Unit);
            var name = Texts.FileName(upload.FileName);
            if (!NominalReader.Suffixes.Contains(Path.GetExtension(name).ToLowerInvariant()))
            {
                throw new BadInputException($"{name}: a nominal is one of {string.Join(", ", NominalReader.Suffixes)}.");
            }

            await RequirePartAsync(id, context, cancel);
            await blobs.RequireAsync(upload.Sha, cancel);
            return Views.Of(await jobs.AddAsync(
                JobKind.Nominal, id, new() { FileSha = upload.Sha, FileName = name, Unit = upload.Unit }, who.Name(), cancel));
        }).WithName("setNominal").Needs(Role.Inspector);
        api.MapGet("/parts/{id:guid}/nominal", async (Guid id, BostelContext context, MeshCache meshes, CancellationToken cancel) =>
        {
            var nominal = await context.Parts.Where(p => p.Id == id).Select(p => p.Nominal).SingleOrDefaultAsync(cancel);
            if (nominal is null)
            {
                return null;
            }

            var runner = await meshes.RunnerAsync(nominal.ModelSha, cancel);
            var faces = runner.Nominal.Faces.Select(f =>
                new FaceView(f.Id, f.Kind, f.Area, f.Internal, NominalModelStore.Numbers(f.Shape) ?? [], f.Center.ToArray(),
                    f.Start, f.End, f.Sweep, f.Body, f.Color)).ToList();
            return new NominalView(nominal.Id, nominal.FileName, nominal.Unit, [nominal.SizeX, nominal.SizeY, nominal.SizeZ],
                nominal.Area,
                nominal.Triangles, faces, nominal.Remarks, [.. runner.Nominal.Bodies.Select(b => new BodyView(b.Name, b.Color))],
                nominal.Frame is not null);
        }).WithName("nominal").Needs(Role.Reader);
        api.MapPost("/parts/{id:guid}/nominal/reference",
            async (Guid id, ReferenceRequest request, JobQueue jobs, BostelContext context, ClaimsPrincipal who,
            CancellationToken cancel) =>
        {
            if (!await context.Pieces.AnyAsync(p => p.Id == request.Piece && p.PartId == id, cancel))
            {
                throw new NotFoundException("There is no such piece of this part.");
            }

            return Views.Of(await jobs.AddAsync(JobKind.Nominal, id, new() { Piece = request.Piece }, who.Name(), cancel));
        }).WithName("takeReference").Needs(Role.Inspector);
        api.MapPost("/parts/{id:guid}/nominal/axes",
            async (Guid id, ReferenceAxes axes, JobQueue jobs, NominalService nominals, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            _ = await nominals.RequireReferenceAsync(id, cancel);
            var asked = JsonSerializer.Serialize(axes, JsonSerializerOptions.Web);
            return Views.Of(await jobs.AddAsync(JobKind.Nominal, id, new() { Axes = asked }, who.Name(), cancel));
        }).WithName("setAxes").Needs(Role.Inspector);
        api.MapGet("/nominals/{id:guid}/model", async (Guid id, BostelContext context, BlobStore blobs, CancellationToken cancel) =>
        {
            var nominal = await context.Nominals.AsNoTracking().SingleOrDefaultAsync(n => n.Id == id, cancel)
                ?? throw new NotFoundException("There is no such nominal.");
            return TypedResults.File(await blobs.BytesAsync(nominal.ModelSha, cancel), "application/octet-stream",
                Path.GetFileNameWithoutExtension(nominal.FileName) + NominalModelStore.Suffix);
        }).WithName("nominalModel").Needs(Role.Reader);
        api.MapGet("/nominals/{id:guid}/geometry",
            async (Guid id, BostelContext context, MeshCache meshes, HttpContext http, CancellationToken cancel) =>
        {
            var model = (await RunnerAsync(id, context, meshes, http, cancel)).Nominal;
            return GeometryCodec.Send(model.Mesh, model.FaceOfTriangle, model.Edges);
        }).WithName("nominalGeometry").Needs(Role.Reader);
        api.MapGet("/nominals/{id:guid}/surface",
            async (Guid id, BostelContext context, MeshCache meshes, HttpContext http, CancellationToken cancel) =>
        {
            var surface = (await RunnerAsync(id, context, meshes, http, cancel)).Surface;
            int[] faces = [.. surface.Mesh.Indices.Where((_, corner) => corner % 3 == 0).Select(v => surface.FaceOfVertex[v])];
            return GeometryCodec.Send(surface.Mesh, faces);
        }).WithName("nominalSurface").Needs(Role.Reader);
        api.MapPost("/nominals/{id:guid}/distance",
            async (Guid id, DistanceRequest asked, BostelContext context, MeshCache meshes, HttpContext http, CancellationToken cancel) =>
            PlaceDistance.Between(asked.A, asked.B, (await RunnerAsync(id, context, meshes, http, cancel)).Nominal))
            .WithName("distance").Needs(Role.Reader);
        api.MapPost("/captures",
            async (Capture capture, JobQueue jobs, BostelContext context, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            var serial = Texts.Serial(capture.Serial);
            await RequirePartAsync(capture.PartId, context, cancel);
            var recipe = new Scanner.ScanRecipe
            {
                Seed = capture.Seed,
                Spacing = capture.Spacing,
                Noise = capture.Noise,
                Unit = capture.Unit,
                StrayPieces = capture.StrayPieces,
                TablePatch = capture.TablePatch,
                Errors = capture.Errors,
                Device = capture.Device,
                Coat = capture.Coat,
                NoiseGrowth = capture.NoiseGrowth,
                Misregistration = capture.Misregistration,
                NarrowestFace = capture.NarrowestFace,
                Fixture = capture.Fixture,
                Cloud = capture.Cloud,
            }.ToJson();
            _ = Scanner.ScanRecipe.Parse(recipe, "capture");
            return Views.Of(
                await jobs.AddAsync(JobKind.Capture, capture.PartId, new() { Serial = serial, Recipe = recipe }, who.Name(), cancel));
        }).WithName("capture").Needs(Role.Inspector);
    }

    /// <exception cref="NotFoundException">There is no such part.</exception>
    /// <summary>The runner of a nominal whose geometry is asked for, which a browser may keep: a nominal never changes.</summary>
    private static async Task<InspectionRunner> RunnerAsync(
        Guid nominal, BostelContext context, MeshCache meshes, HttpContext http, CancellationToken cancel)
    {
        var sha = await context.Nominals.Where(n => n.Id == nominal).Select(n => n.ModelSha).SingleOrDefaultAsync(cancel)
            ?? throw new NotFoundException("There is no such nominal.");
        http.Response.Headers.CacheControl = "private, max-age=31536000, immutable";
        return await meshes.RunnerAsync(sha, cancel);
    }

    private static async Task RequirePartAsync(Guid id, BostelContext context, CancellationToken cancel)
    {
        if (!await context.Parts.AnyAsync(p => p.Id == id, cancel))
        {
            throw new NotFoundException("There is no such part.");
        }
    }

    /// <summary>Takes the request's body as it streams in; memory stays flat.</summary>
    private static async Task<Upload> UploadAsync(
        string name, HttpRequest request, BlobStore blobs, BostelContext context, ClaimsPrincipal who, CancellationToken cancel)
    {
        var fileName = Texts.FileName(name);
        var suffix = Path.GetExtension(fileName).ToLowerInvariant();
        if (!MeshFormats.Suffixes.Contains(suffix) && !CadTranslator.Suffixes.Contains(suffix))
        {
            throw new BadInputException($"{fileName}: '{suffix}' files are not read here "
                + $"({string.Join(", ", CadTranslator.Suffixes.Concat(MeshFormats.Suffixes))}).");
        }

        try
        {
            var (sha, length) = await blobs.SaveAsync(request.Body, request.ContentLength, cancel);
            if (length == 0)
            {
                throw new BadInputException($"{fileName}: the file is empty.");
            }

            context.Record(who.Name(), "uploaded", fileName, $"{length} bytes, SHA-256 {sha}");
            await context.SaveChangesAsync(cancel);
            return new(sha, fileName, length);
        }
        catch (BadHttpRequestException e)
        {
            throw new BadInputException($"{fileName}: the upload was cut off; nothing was kept.", e);
        }
    }
}
