using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Core.Selecting;
using Bostel.Data;
using Bostel.Scanner;
using Bostel.Server.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>The first station: scans read, pieces captured with the simulated scanner.</summary>
public sealed class ReceiveService(BostelContext context, BlobStore blobs, MeshCache meshes, PlanService plans, LayoutService layouts)
{
    /// <param name="stillMine">Asked in the transaction that keeps the outcome.</param>
    public async Task ScanAsync(Guid pieceId, IProgress<RunProgress> progress, Func<Task<bool>> stillMine, CancellationToken cancel)
    {
        var source = await context.Pieces.AsNoTracking().SingleAsync(p => p.Id == pieceId, cancel);
        var report = new Forward(progress, "Reading the scan");
        MeshFile file;
        await using (var stream = File.OpenRead(await blobs.FileAsync(source.FileSha, cancel)))
        {
            file = MeshFormats.Read(
                stream, source.FileName, report, cancel, source.Columns is null ? null : PointColumns.Parse(source.Columns));
        }

        var (size, diagonal) = (file.Mesh.Bounds.Size, PartDiagonal(file.Mesh));
        await context.InTransactionAsync(async () =>
        {
            await Transactions.RequireAsync(stillMine);
            var piece = await context.Pieces.Include(p => p.Part).SingleAsync(p => p.Id == pieceId, cancel);
            var remarks = file.Remarks;
            if (file.Unit is { } stated && piece.Format is null && stated != piece.Unit)
            {
                (remarks, piece.Unit) = ([.. file.Remarks, $"the file says its unit is {stated}"], stated);
            }

            (piece.RawX, piece.RawY, piece.RawZ, piece.PartDiagonal) = (size.X, size.Y, size.Z, diagonal);
            (piece.Vertices, piece.Triangles, piece.Format, piece.Remarks, piece.Problem) =
                (file.Mesh.VertexCount, file.Mesh.TriangleCount, file.Format, [.. remarks], null);
            piece.Columns = file.Columns?.ToString();
            context.Record(piece.CreatedBy, "received a scan", $"{piece.Part!.Number} piece {piece.Serial}",
                $"{piece.FileName}, {piece.Triangles} triangles");
        }, cancel);
    }

    /// <summary>Captures a new piece with the simulated scanner; the scan is stored as the file it would write.</summary>
    public async Task CaptureAsync(Guid partId, JobArguments arguments, string who, IProgress<RunProgress> progress,
        Func<Task<bool>> stillMine, CancellationToken cancel)
    {
        var part = await context.Parts.AsNoTracking().Include(p => p.Nominal).SingleAsync(p => p.Id == partId, cancel);
        var nominal = part.Nominal ?? throw new BadInputException($"Part {part.Number} has no nominal yet: there is nothing to scan.");
        var runner = await meshes.RunnerAsync(nominal.ModelSha, cancel);
        var recipe = ScanRecipe.Parse(arguments.Recipe ?? "{}", "recipe");
        progress.Report(new(0.05, "Scanning"));
        var scan = SimulatedScanner.Scan(runner.Nominal, recipe, new Forward(progress, "Scanning"), cancel);
        using var memory = new MemoryStream();
        var name = $"{part.Number}-{arguments.Serial}{(recipe.Cloud ? ".xyz" : ".stl")}";
        MeshFormats.Write(memory, name, scan.Mesh);
        var size = scan.Mesh.Bounds.Size;
        await context.InTransactionAsync(async () =>
        {
            await Transactions.RequireAsync(stillMine);
            if (await context.Pieces.AnyAsync(p => p.PartId == partId && p.Serial == arguments.Serial, cancel))
            {
                return;
            }

            context.Pieces.Add(new()
            {
                Id = Guid.NewGuid(),
                PartId = partId,
                Serial = arguments.Serial!,
                FileName = name,
                FileSha = await BlobStore.AddAsync(context, memory.ToArray(), cancel),
                Unit = recipe.Unit,
                Format = recipe.Cloud ? "XYZ text" : "STL binary",
                Columns = recipe.Cloud ? "x y z" : null,
                Vertices = scan.Mesh.VertexCount,
                Triangles = scan.Mesh.TriangleCount,
                RawX = size.X,
                RawY = size.Y,
                RawZ = size.Z,
                PartDiagonal = PartDiagonal(scan.Mesh),
                CreatedBy = who,
                CreatedAt = DateTimeOffset.UtcNow,
            });
            context.Record(who, "captured a piece", $"{part.Number} piece {arguments.Serial}",
                $"simulated scanner, {scan.Mesh.TriangleCount} triangles, recipe {JsonSerializer.Serialize(recipe)}");
        }, cancel);
    }

    private static double PartDiagonal(TriangleMesh mesh) =>
        mesh.TriangleCount == 0 ? mesh.Bounds.Diagonal : ConnectedPieces.Find(mesh, null).Pieces[0].Size.Length;

    /// <summary>A new part with an empty plan, or a given one.</summary>
    public async Task<Part> CreatePartAsync(
        string number, string name, string revision, InspectionPlan? plan, string who, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(number) || string.IsNullOrWhiteSpace(revision) || number.Length > 60 || revision.Length > 20
            || name.Length > 200)
        {
            throw new BadInputException(
                "number: a part needs a number of at most 60 characters, a revision of at most 20 and a name of at most 200.");
        }

        if (await context.Parts.AnyAsync(p => p.Number == number && p.Revision == revision, cancel))
        {
            throw new BadInputException($"number: part {number} revision {revision} is there already.");
        }

        var part = new Part
        {
            Id = Guid.NewGuid(),
            Number = number.Trim(),
            Name = name.Trim(),
            Revision = revision.Trim(),
            CreatedAt = DateTimeOffset.UtcNow
        };
        context.Parts.Add(part);
        plan ??= new InspectionPlan
        {
            Part = part.Number,
            Revision = part.Revision,
            Report = await layouts.ForNewPartsAsync(cancel)
        };
        plans.Create(part, plan, who);
        context.Record(who, "created a part", $"part {part.Number}", $"revision {part.Revision}");
        await context.SaveChangesAsync(cancel);
        return part;
    }

    private sealed class Forward(IProgress<RunProgress> progress, string what) : IProgress<double>
    {
        public void Report(double value) => progress.Report(new(0.05 + (0.9 * value), what));
    }
}
