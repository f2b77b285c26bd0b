using System.Security.Cryptography;
using Bostel.Core;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;
using Npgsql;

namespace Bostel.Data;

/// <summary>A stored file is not what it was when it was stored.</summary>
public sealed class DamagedFileException(string message) : Exception(message);

/// <summary>
/// Files by SHA-256: kept in PostgreSQL in 1 MiB chunks, with a bounded cache on the local disk. The same content is stored once. A file is
/// in the database whole or not at all.
/// </summary>
/// <param name="contexts">The database.</param>
/// <param name="folder">The cache.</param>
/// <param name="cacheLimit">Bytes the cache may hold.</param>
/// <param name="freeSpace">Bytes free on the disk; asked of the cache's disk unless given.</param>
public sealed class BlobStore(IDbContextFactory<BostelContext> contexts, string folder, ILogger<BlobStore> log, long cacheLimit = 4L << 30,
    Func<long>? freeSpace = null)
{
    private const string Partial = ".partial";
    private const int Chunk = 1 << 20;

    /// <summary>An upload of unknown length is checked against the free space this often.</summary>
    private const long FreeSpaceEvery = 16L << 20;

    /// <summary>Kept free always: a database that cannot write its log stops altogether.</summary>
    private const long Reserve = 64L << 20;

    /// <summary>Whether a text is a SHA-256: 64 hex digits in lower case. Nothing else may become part of a path.</summary>
    public static bool IsSha(string? sha) => sha is { Length: 64 } && sha.All(char.IsAsciiHexDigitLower);

    /// <summary>Stores a stream. A stream that breaks off leaves nothing behind.</summary>
    /// <param name="content">Read to its end.</param>
    /// <param name="expected">Length announced beforehand; less is an error.</param>
    /// <exception cref="BadInputException">The stream ended before the announced length, or the disk is full.</exception>
    public async Task<(string Sha, long Length)> SaveAsync(Stream content, long? expected = null, CancellationToken cancel = default)
    {
        Directory.CreateDirectory(folder);
        var partial = PartialPath();
        try
        {
            // Once in the cache, once in the database and once in its log.
            RequireRoom(3 * (expected ?? 0));
            var (sha, length) = await SpoolAsync(content, partial, cancel).ConfigureAwait(false);
            if (expected is { } announced && length != announced)
            {
                throw new BadInputException($"The upload was cut off: {length} of {announced} bytes arrived. Nothing was kept.");
            }

            RequireRoom(2 * length);
            await InsertAsync(sha, length, partial, cancel).ConfigureAwait(false);
            File.Move(partial, Path.Combine(folder, sha), overwrite: true);
            Trim();
            return (sha, length);
        }
        catch (IOException e) when (FullDisk.Is(e))
        {
            throw new BadInputException(DiskFull, e);
        }
        finally
        {
            File.Delete(partial);
        }
    }

    public async Task<string> SaveAsync(byte[] content, CancellationToken cancel = default)
    {
        using var memory = new MemoryStream(content, writable: false);
        return (await SaveAsync(memory, null, cancel).ConfigureAwait(false)).Sha;
    }

    /// <summary>Adds content to what the context's open transaction stores: it is there when that is, and not otherwise.</summary>
    public static async Task<string> AddAsync(BostelContext context, byte[] content, CancellationToken cancel = default)
    {
        var sha = Convert.ToHexStringLower(SHA256.HashData(content));

        // Another transaction that stores the same is waited for.
        var added = await context.Database.ExecuteSqlAsync(
            $"""INSERT INTO "Blobs" ("Sha", "Length") VALUES ({sha}, {content.LongLength}) ON CONFLICT DO NOTHING""", cancel)
                .ConfigureAwait(false);
        if (added == 1)
        {
            context.BlobChunks.AddRange(
                content.Chunk(Chunk).Select((data, index) => new BlobChunk { Sha = sha, Index = index, Data = data }));
        }

        return sha;
    }

    /// <summary>Makes sure that a file is stored.</summary>
    /// <exception cref="BadInputException">It is no SHA-256, or there is no such file.</exception>
    public async Task RequireAsync(string sha, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel).ConfigureAwait(false);
        _ = await LengthAsync(context, sha, cancel).ConfigureAwait(false);
    }

    /// <summary>
    /// The local path of a blob, fetched from the database when it is not in the cache; its length and, when fetched, its hash are checked.
    /// </summary>
    /// <exception cref="BadInputException">There is no such blob.</exception>
    /// <exception cref="DamagedFileException">What is stored is not what was stored.</exception>
    public async Task<string> FileAsync(string sha, CancellationToken cancel = default)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel).ConfigureAwait(false);
        var length = await LengthAsync(context, sha, cancel).ConfigureAwait(false);
        var path = Path.Combine(folder, sha);
        var cached = new FileInfo(path);
        if (cached.Exists && cached.Length == length)
        {
            cached.LastAccessTimeUtc = DateTime.UtcNow;
            return path;
        }

        Directory.CreateDirectory(folder);
        var partial = PartialPath();
        try
        {
            await FetchAsync(context, sha, length, partial, cancel).ConfigureAwait(false);
            File.Move(partial, path, overwrite: true);
            Trim();
            return path;
        }
        finally
        {
            File.Delete(partial);
        }
    }

    /// <summary>A blob's content, checked against its hash.</summary>
    /// <exception cref="DamagedFileException">What is stored is not what was stored.</exception>
    public async Task<byte[]> BytesAsync(string sha, CancellationToken cancel = default)
    {
        var bytes = await File.ReadAllBytesAsync(await FileAsync(sha, cancel).ConfigureAwait(false), cancel).ConfigureAwait(false);
        if (Convert.ToHexStringLower(SHA256.HashData(bytes)) == sha)
        {
            return bytes;
        }

        // The copy on this disk has changed: once more, from the database.
        File.Delete(Path.Combine(folder, sha));
        return await File.ReadAllBytesAsync(await FileAsync(sha, cancel).ConfigureAwait(false), cancel).ConfigureAwait(false);
    }

    /// <summary>Removes what killed processes left half-written. Those of living ones, which may share the folder, stay.</summary>
    public void ClearPartials()
    {
        if (!Directory.Exists(folder))
        {
            return;
        }

        foreach (var file in new DirectoryInfo(folder).GetFiles("*" + Partial))
        {
            if (!ProcessMark.Lives(file.Name.Split('_')[0]))
            {
                file.Delete();
            }
        }
    }

    private static async Task<long> LengthAsync(BostelContext context, string sha, CancellationToken cancel) => !IsSha(sha)
        ? throw new BadInputException("sha: a stored file is named by 64 hex digits.")
        : await context.Blobs.Where(b => b.Sha == sha).Select(b => (long?)b.Length).SingleOrDefaultAsync(cancel).ConfigureAwait(false)
            ?? throw new BadInputException($"sha: there is no stored file {sha[..12]}.");

    private string PartialPath() => Path.Combine(folder, $"{ProcessMark.Own}_{Guid.NewGuid():N}{Partial}");

    private async Task FetchAsync(BostelContext context, string sha, long length, string path, CancellationToken cancel)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        long read = 0;
        await using (var file = File.Create(path))
        {
            var chunks = context.BlobChunks.AsNoTracking().Where(c => c.Sha == sha).OrderBy(c => c.Index).AsAsyncEnumerable();
            await foreach (var chunk in chunks.WithCancellation(cancel).ConfigureAwait(false))
            {
                hash.AppendData(chunk.Data);
                read += chunk.Data.Length;
                await file.WriteAsync(chunk.Data, cancel).ConfigureAwait(false);
            }
        }

        if (read != length || Convert.ToHexStringLower(hash.GetHashAndReset()) != sha)
        {
            log.LogError(
                "The stored file {Sha} is damaged: {Read} of {Length} bytes, and not the content that was stored", sha, read, length);
            throw new DamagedFileException(
                $"The stored file {sha[..12]} is damaged: it is not what was stored. Restore it from a backup; nothing else is affected.");
        }
    }

    private const string DiskFull = "The server's disk is full: nothing was kept. Free some space and try again.";

    private void RequireRoom(long bytes)
    {
        if ((freeSpace?.Invoke() ?? new DriveInfo(Path.GetFullPath(folder)).AvailableFreeSpace) < bytes + Reserve)
        {
            throw new BadInputException(DiskFull);
        }
    }

    private async Task<(string Sha, long Length)> SpoolAsync(Stream content, string path, CancellationToken cancel)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        await using var file = File.Create(path);
        var buffer = new byte[Chunk];
        long length = 0;
        int read;
        while ((read = await content.ReadAsync(buffer, cancel).ConfigureAwait(false)) > 0)
        {
            hash.AppendData(buffer, 0, read);
            await file.WriteAsync(buffer.AsMemory(0, read), cancel).ConfigureAwait(false);
            length += read;
            if (length % FreeSpaceEvery < Chunk)
            {
                RequireRoom(2 * length);
            }
        }

        return (Convert.ToHexStringLower(hash.GetHashAndReset()), length);
    }

    private async Task InsertAsync(string sha, long length, string path, CancellationToken cancel)
    {
        await using var context = await contexts.CreateDbContextAsync(cancel).ConfigureAwait(false);
        var strategy = context.Database.CreateExecutionStrategy();
        await strategy.ExecuteAsync(async () =>
        {
            await using var transaction = await context.Database.BeginTransactionAsync(cancel).ConfigureAwait(false);
            var connection = (NpgsqlConnection)context.Database.GetDbConnection();
            await using var claim = new NpgsqlCommand(
                "INSERT INTO \"Blobs\" (\"Sha\", \"Length\") VALUES ($1, $2) ON CONFLICT DO NOTHING", connection);
            claim.Parameters.AddWithValue(sha);
            claim.Parameters.AddWithValue(length);
            if (await claim.ExecuteNonQueryAsync(cancel).ConfigureAwait(false) == 0)
            {
                return;
            }

            await using var file = File.OpenRead(path);
            await using (var writer = await connection.BeginBinaryImportAsync(
                "COPY \"BlobChunks\" (\"Sha\", \"Index\", \"Data\") FROM STDIN (FORMAT BINARY)", cancel).ConfigureAwait(false))
            {
                var buffer = new byte[Chunk];
                for (var index = 0; ; index++)
                {
                    var read = await file.ReadAtLeastAsync(buffer, Chunk, throwOnEndOfStream: false, cancel).ConfigureAwait(false);
                    if (read == 0)
                    {
                        break;
                    }

                    await writer.WriteRowAsync(cancel, sha, index, buffer.AsSpan(0, read).ToArray()).ConfigureAwait(false);
                }

                await writer.CompleteAsync(cancel).ConfigureAwait(false);
            }

            await transaction.CommitAsync(cancel).ConfigureAwait(false);
        }).ConfigureAwait(false);
    }

    /// <summary>Keeps the cache under its limit, dropping what was not used for longest. The database still has everything.</summary>
    private void Trim()
    {
        var files = new DirectoryInfo(folder).GetFiles().Where(f => f.Extension != Partial).OrderByDescending(f => f.LastAccessTimeUtc)
            .ToList();
        long sum = 0;
        foreach (var file in files)
        {
            sum += file.Length;
            if (sum > cacheLimit)
            {
                file.Delete();
            }
        }
    }
}
