using System.Security.Claims;
using Bostel.Cad;
using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Core.Segmentation;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Server.Jobs;
using Bostel.Server.Services;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Endpoints;

public static class PartEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/floor", FloorAsync).WithName("floor");
        api.MapPost("/parts", async (NewPart part, ReceiveService receive, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            var made = await receive.CreatePartAsync(part.Number, part.Name, part.Revision, null, who.Name(), cancel);
            return new PartSummary(made.Id, made.Number, made.Name, made.Revision, null, 0, 0, 0, 0, 1, 0);
        }).WithName("createPart");
        api.MapPost("/uploads", UploadAsync).WithName("upload").DisableAntiforgery();
        api.MapPost("/parts/{id:guid}/nominal", async (Guid id, NominalFromUpload upload, JobQueue jobs, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            _ = LengthUnit.Factor(upload.Unit);
            var suffix = Path.GetExtension(upload.FileName).ToLowerInvariant();
            if (!CadTranslator.Suffixes.Contains(suffix) && suffix is not (".stl" or ".obj" or ".ply"))
            {
                throw new BadInputException($"{upload.FileName}: a nominal is a STEP, IGES, STL, OBJ or PLY file.");
            }

            return Views.Of(await jobs.AddAsync("nominal", id, new() { FileSha = upload.Sha, FileName = upload.FileName, Unit = upload.Unit }, who.Name(), cancel));
        }).WithName("setNominal");
        api.MapGet("/parts/{id:guid}/nominal", async (Guid id, BostelContext context, MeshCache meshes, CancellationToken cancel) =>
        {
            var nominal = await context.Parts.Where(p => p.Id == id).Select(p => p.Nominal).SingleOrDefaultAsync(cancel);
            if (nominal is null)
            {
                return null;
            }

            var runner = await meshes.RunnerAsync(nominal.ModelSha, cancel);
            var faces = runner.Nominal.Faces.Select(f => new FaceView(f.Id, f.Kind, f.Area, f.Internal, NominalModelStore.Numbers(f.Shape) ?? [], f.Center.ToArray(), f.Start, f.End, f.Body, f.Color)).ToList();
            return new NominalView(nominal.Id, nominal.FileName, nominal.Unit, [nominal.SizeX, nominal.SizeY, nominal.SizeZ], nominal.Area, nominal.Triangles, faces, nominal.Remarks, [.. runner.Nominal.Bodies.Select(b => new BodyView(b.Name, b.Color))]);
        }).WithName("nominal");
        api.MapGet("/nominals/{id:guid}/geometry", async (Guid id, BostelContext context, MeshCache meshes, HttpContext http, CancellationToken cancel) =>
        {
            var sha = await context.Nominals.Where(n => n.Id == id).Select(n => n.ModelSha).SingleOrDefaultAsync(cancel) ?? throw new BadInputException("There is no such nominal.");
            var model = (await meshes.RunnerAsync(sha, cancel)).Nominal;
            http.Response.Headers.CacheControl = "private, max-age=31536000, immutable";
            return GeometryCodec.Send(model.Mesh, model.FaceOfTriangle, model.Edges);
        }).WithName("nominalGeometry");
        api.MapGet("/parts/{id:guid}/plan", async (Guid id, PlanService plans, CancellationToken cancel) => Views.Of(await plans.GetAsync(id, cancel))).WithName("plan");
        api.MapPut("/parts/{id:guid}/plan", async (Guid id, PlanEdit edit, PlanService plans, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await plans.SaveAsync(id, edit.BasedOn, edit.Plan, who.Name(), cancel))).WithName("savePlan");
        api.MapPost("/parts/{id:guid}/plan/undo", async (Guid id, PlanStep step, PlanService plans, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await plans.UndoAsync(id, step.BasedOn, who.Name(), cancel))).WithName("undoPlan");
        api.MapPost("/parts/{id:guid}/plan/redo", async (Guid id, PlanStep step, PlanService plans, ClaimsPrincipal who, CancellationToken cancel) =>
            Views.Of(await plans.RedoAsync(id, step.BasedOn, who.Name(), cancel))).WithName("redoPlan");
        api.MapPost("/captures", async (Capture capture, JobQueue jobs, ClaimsPrincipal who, CancellationToken cancel) =>
        {
            PieceEndpoints.RequireSerial(capture.Serial);
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
            return Views.Of(await jobs.AddAsync("capture", capture.PartId, new() { Serial = capture.Serial, Recipe = recipe }, who.Name(), cancel));
        }).WithName("capture");
    }

    private static async Task<FloorView> FloorAsync(BostelContext context, CancellationToken cancel)
    {
        var parts = await context.Parts.AsNoTracking().OrderBy(p => p.Number).ToListAsync(cancel);
        var plans = await context.Plans.AsNoTracking().ToDictionaryAsync(p => p.PartId, cancel);
        var bodies = await context.PlanRevisions.AsNoTracking().Where(r => context.Plans.Any(p => p.Id == r.PlanId && p.Head == r.Number)).ToDictionaryAsync(r => r.PlanId, r => r.Body, cancel);
        var reports = (await context.Reports.AsNoTracking().OrderBy(r => r.IssuedAt).Select(r => new { r.PieceId, r.Number }).ToListAsync(cancel)).GroupBy(r => r.PieceId).ToDictionary(g => g.Key, g => g.Last().Number);
        var pieces = await context.Pieces.AsNoTracking().Include(p => p.Run).OrderByDescending(p => p.CreatedAt).ToListAsync(cancel);
        var numbers = parts.ToDictionary(p => p.Id, p => p.Number);
        var summaries = pieces.Select(p => new PieceSummary(
            p.Id, p.PartId, numbers[p.PartId], p.Serial, p.Run?.Verdict is null ? "waiting" : reports.ContainsKey(p.Id) ? "issued" : "evaluated", p.Run?.Verdict, p.Triangles, p.CreatedAt, p.Problem,
            reports.GetValueOrDefault(p.Id))).ToList();
        int Count(Guid part, Verdict? verdict) => summaries.Count(p => p.PartId == part && p.Verdict == verdict);
        return new([.. parts.Select(p =>
        {
            var plan = plans[p.Id];
            var rows = Core.Plans.InspectionPlan.Parse(bodies[plan.Id]).Characteristics.Count;
            return new PartSummary(
                p.Id, p.Number, p.Name, p.Revision, p.NominalId, Count(p.Id, null), Count(p.Id, Verdict.Conforming), Count(p.Id, Verdict.NonConforming),
                Count(p.Id, Verdict.NotProven) + Count(p.Id, Verdict.NotMeasured), plan.Head, rows);
        })], summaries);
    }

    /// <summary>Takes the request's body as it streams in; memory stays flat.</summary>
    private static async Task<Upload> UploadAsync(string name, HttpRequest request, BlobStore blobs, BostelContext context, ClaimsPrincipal who, CancellationToken cancel)
    {
        var fileName = Path.GetFileName(name.Replace('\\', '/'));
        if (string.IsNullOrWhiteSpace(fileName) || fileName.Length > 200)
        {
            throw new BadInputException("name: the file needs a name of at most 200 characters.");
        }

        var suffix = Path.GetExtension(fileName).ToLowerInvariant();
        if (!MeshFormats.Suffixes.Contains(suffix) && !CadTranslator.Suffixes.Contains(suffix))
        {
            throw new BadInputException($"{fileName}: '{suffix}' files are not read here ({string.Join(", ", CadTranslator.Suffixes.Concat(MeshFormats.Suffixes))}).");
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
