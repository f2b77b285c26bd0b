using System.Security.Cryptography;
using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Data;
using Bostel.Server.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>Where scans may be put by hand or by a device, and how often it is looked at.</summary>
public sealed record IntakeOptions(string Folder, TimeSpan Every);

/// <summary>
/// Watches a folder. A file is taken when it has stopped growing, filed under the part whose number its name begins with (the rest of the
/// name is the serial number), and moved to "taken"; one that cannot be is moved to "aside" with the reason beside it. Several servers may
/// watch one folder: each file is claimed by an atomic rename.
/// </summary>
public sealed class IntakeService(IServiceScopeFactory scopes, IntakeOptions options, ILogger<IntakeService> log) : BackgroundService
{
    public const string Who = "intake";
    private static readonly TimeSpan Abandoned = TimeSpan.FromMinutes(10);
    private readonly Dictionary<string, (long Length, DateTime Written)> _seen = [];

    private string Taken => Path.Combine(options.Folder, "taken");
    private string Aside => Path.Combine(options.Folder, "aside");
    private string Claimed => Path.Combine(options.Folder, "claimed");

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(options.Every);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                await LookAsync(stoppingToken);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogWarning("The intake folder could not be worked through: {Message}", e.Message);
            }
        }
    }

    private async Task LookAsync(CancellationToken cancel)
    {
        foreach (var folder in (string[])[Taken, Aside, Claimed])
        {
            Directory.CreateDirectory(folder);
        }

        // What a server that died had claimed goes back.
        foreach (var file in new DirectoryInfo(Claimed).GetFiles().Where(f => DateTime.UtcNow - f.LastAccessTimeUtc > Abandoned))
        {
            file.MoveTo(Path.Combine(options.Folder, file.Name), overwrite: false);
        }

        foreach (var file in new DirectoryInfo(options.Folder).GetFiles().OrderBy(f => f.LastWriteTimeUtc))
        {
            var now = (file.Length, file.LastWriteTimeUtc);
            if (file.Name.StartsWith('.') || !_seen.TryGetValue(file.Name, out var before) || before != now)
            {
                _seen[file.Name] = now;
                continue;
            }

            _seen.Remove(file.Name);
            await ClaimAsync(file, cancel);
        }
    }

    private async Task ClaimAsync(FileInfo file, CancellationToken cancel)
    {
        var claimed = Path.Combine(Claimed, file.Name);
        try
        {
            File.Move(file.FullName, claimed, overwrite: false);
            File.SetLastAccessTimeUtc(claimed, DateTime.UtcNow);
        }
        catch (IOException)
        {
            // Another server has it.
            return;
        }

        try
        {
            await FileAsync(claimed, file.Name, cancel);
            File.Move(claimed, Path.Combine(Taken, file.Name), overwrite: true);
        }
        catch (BadInputException e)
        {
            await PutAsideAsync(claimed, file.Name, e.Message, cancel);
        }
        catch
        {
            // The database is away or the server stops: the file waits for another try.
            File.Move(claimed, file.FullName, overwrite: false);
            throw;
        }
    }

    private async Task FileAsync(string path, string name, CancellationToken cancel)
    {
        await using var scope = scopes.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<BostelContext>();
        var stem = Path.GetFileNameWithoutExtension(name);
        var parts = await context.Parts.AsNoTracking().ToListAsync(cancel);
        var part = parts.Where(p => stem.StartsWith(p.Number, StringComparison.OrdinalIgnoreCase)).OrderByDescending(p => p.Number.Length)
            .ThenByDescending(p => p.CreatedAt).FirstOrDefault()
            ?? throw new BadInputException($"{name}: no part number stands at the beginning of the name; there are "
                + $"{string.Join(", ", parts.Select(p => p.Number).Order().Take(10))}.");
        var serial = stem[part.Number.Length..].TrimStart('-', '_', ' ');
        if (serial.Length is 0 or > 60)
        {
            throw new BadInputException(
                $"{name}: after the part number {part.Number} the name needs a serial number of at most 60 characters.");
        }

        if (await context.Pieces.Where(p => p.PartId == part.Id && p.Serial == serial).Select(p => new { p.FileSha, p.FileName })
            .SingleOrDefaultAsync(cancel) is { } there)
        {
            // A server that was killed after it had filed this very file left it to be moved away.
            await using var again = File.OpenRead(path);
            if (there.FileName == name && Convert.ToHexStringLower(await SHA256.HashDataAsync(again, cancel)) == there.FileSha)
            {
                return;
            }

            throw new BadInputException($"{name}: piece {serial} of part {part.Number} is there already.");
        }

        // Read before anything is stored: a file that cannot be read leaves no piece behind.
        MeshFile file;
        await using (var stream = File.OpenRead(path))
        {
            file = await Task.Run(() => MeshFormats.Read(stream, name, null, cancel), cancel);
        }

        var blobs = scope.ServiceProvider.GetRequiredService<BlobStore>();
        await using var content = File.OpenRead(path);
        var (sha, length) = await blobs.SaveAsync(content, content.Length, cancel);
        var piece = new Piece
        {
            Id = Guid.NewGuid(),
            PartId = part.Id,
            Serial = serial,
            FileName = name,
            FileSha = sha,
            Unit = file.Unit ?? "mm",
            CreatedBy = Who,
            CreatedAt = DateTimeOffset.UtcNow,
        };
        context.Pieces.Add(piece);
        context.Record(Who, "took a file in", name, $"part {part.Number} piece {serial}, {length} bytes");
        await scope.ServiceProvider.GetRequiredService<JobQueue>().AddAsync(JobKind.Receive, piece.Id, new(), Who, cancel);
    }

    private async Task PutAsideAsync(string claimed, string name, string reason, CancellationToken cancel)
    {
        log.LogInformation("The intake put {Name} aside: {Reason}", name, reason);
        var target = Path.Combine(Aside, name);
        File.Move(claimed, target, overwrite: true);
        await File.WriteAllTextAsync(target + ".reason.txt", reason + "\n", cancel);
        await using var scope = scopes.CreateAsyncScope();
        var context = scope.ServiceProvider.GetRequiredService<BostelContext>();
        context.Record(Who, "put a file aside", name, reason);
        await context.SaveChangesAsync(cancel);
    }
}
