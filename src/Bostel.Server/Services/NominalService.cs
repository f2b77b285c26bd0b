using System.Text.Json;
using Bostel.Cad;
using Bostel.Core;
using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Data;
using Bostel.Server.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>The nominals of parts: translated from CAD, read from a mesh, or a scan that serves as reference.</summary>
public sealed class NominalService(BostelContext context, BlobStore blobs, MeshCache meshes)
{
    /// <summary>Makes the nominal that a job asks for and puts it in force.</summary>
    /// <param name="stillMine">Asked in the transaction that keeps the outcome.</param>
    public Task MakeAsync(Guid partId, JobArguments arguments, string who, IProgress<RunProgress> progress,
        Func<Task<bool>> stillMine, CancellationToken cancel) => arguments switch
        {
            { Piece: { } piece } => FromPieceAsync(partId, piece, who, progress, stillMine, cancel),
            { Axes: { } axes } => OnAxesAsync(
                partId, JsonSerializer.Deserialize<ReferenceAxes>(axes, JsonSerializerOptions.Web)!, who, progress, stillMine, cancel),
            _ => FromFileAsync(partId, arguments, who, progress, stillMine, cancel),
        };

    private async Task FromFileAsync(Guid partId, JobArguments arguments, string who, IProgress<RunProgress> progress,
        Func<Task<bool>> stillMine, CancellationToken cancel)
    {
        var (sha, name) = (arguments.FileSha!, arguments.FileName!);
        progress.Report(new(0.05, "Translating the nominal"));
        var path = await blobs.FileAsync(sha, cancel);
        var (model, unit) = await NominalReader.ReadAsync(
            path, name, arguments.Unit ?? "mm", cache: TranslationCache.OfUser(), cancel: cancel);
        progress.Report(new(0.9, "Keeping the faces"));
        await KeepAsync(partId, new(name, sha, unit, null), model, "received a nominal", $"{name}, {model.Faces.Count} faces", who,
            stillMine, cancel);
    }

    /// <summary>A scan becomes what the part's other pieces are compared with.</summary>
    private async Task FromPieceAsync(
        Guid partId, Guid pieceId, string who, IProgress<RunProgress> progress, Func<Task<bool>> stillMine, CancellationToken cancel)
    {
        var piece = await context.Pieces.AsNoTracking().SingleOrDefaultAsync(p => p.Id == pieceId && p.PartId == partId, cancel)
            ?? throw new NotFoundException("There is no such piece of this part.");
        progress.Report(new(0.05, "Reading the scan"));
        var scan = await meshes.ScanAsync(Workpiece.SourceOf(piece), cancel);
        progress.Report(new(0.2, "Recognising its surfaces"));
        var model = await Task.Run(() => ReferenceScan.Of(scan, piece.Serial, cancel), cancel);
        progress.Report(new(0.9, "Keeping the faces"));
        await KeepAsync(partId, new(piece.FileName, piece.FileSha, piece.Unit, RigidTransform.Identity.ToArray()), model,
            "took a reference", $"the scan of piece {piece.Serial}, {model.Faces.Count} faces", who, stillMine, cancel);
    }

    /// <summary>The reference in other coordinates.</summary>
    private async Task OnAxesAsync(
        Guid partId, ReferenceAxes axes, string who, IProgress<RunProgress> progress, Func<Task<bool>> stillMine, CancellationToken cancel)
    {
        var now = await RequireReferenceAsync(partId, cancel);
        progress.Report(new(0.05, "Laying the axes"));
        var before = (await meshes.RunnerAsync(now.ModelSha, cancel)).Nominal;
        var to = await Task.Run(() => axes.On(before, cancel), cancel);
        var frame = to.After(RigidTransform.FromArray(now.Frame!)).ToArray();
        await KeepAsync(partId, new(now.FileName, now.FileSha, now.Unit, frame), before.Transformed(to), "set the coordinates",
            $"of the reference {now.FileName}", who, stillMine, cancel);
    }

    /// <exception cref="BadInputException">The part's nominal is none that a scan gave.</exception>
    public async Task<Nominal> RequireReferenceAsync(Guid partId, CancellationToken cancel)
    {
        var nominal = await context.Parts.AsNoTracking().Where(p => p.Id == partId).Select(p => p.Nominal).SingleOrDefaultAsync(cancel);
        return nominal?.Frame is not null
            ? nominal
            : throw new BadInputException("The coordinates of a drawing are not changed; only those of a scan that serves as reference.");
    }

    private sealed record Source(string FileName, string FileSha, string Unit, double[]? Frame);

    private async Task KeepAsync(Guid partId, Source source, NominalModel model, string action, string detail, string who,
        Func<Task<bool>> stillMine, CancellationToken cancel)
    {
        var size = model.Mesh.Bounds.Size;
        var stored = NominalModelStore.Save(model);
        await context.InTransactionAsync(async () =>
        {
            await Transactions.RequireAsync(stillMine);
            var modelSha = await BlobStore.AddAsync(context, stored, cancel);
            var part = await context.Parts.SingleAsync(p => p.Id == partId, cancel);

            // The same file again, or a job that is run again after its process died, is no other nominal.
            var nominal = await context.Nominals.FirstOrDefaultAsync(n => n.PartId == partId && n.FileSha == source.FileSha
                && n.FileName == source.FileName && n.Unit == source.Unit && n.ModelSha == modelSha, cancel);
            if (nominal is null)
            {
                nominal = new Nominal
                {
                    Id = Guid.NewGuid(),
                    PartId = partId,
                    FileName = source.FileName,
                    FileSha = source.FileSha,
                    Unit = source.Unit,
                    Frame = source.Frame,
                    ModelSha = modelSha,
                    SizeX = size.X,
                    SizeY = size.Y,
                    SizeZ = size.Z,
                    Area = model.Mesh.Area(),
                    Triangles = model.Mesh.TriangleCount,
                    Remarks = [.. model.Remarks],
                    CreatedAt = DateTimeOffset.UtcNow,
                };
                context.Nominals.Add(nominal);
                context.Record(who, action, $"part {part.Number}", detail);
            }

            part.NominalId = nominal.Id;
        }, cancel);
    }
}
