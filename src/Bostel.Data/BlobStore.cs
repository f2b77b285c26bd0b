using System.Security.Cryptography;
using Bostel.Core;
using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace Bostel.Data;

/// <summary>
/// Files by SHA-256: kept in PostgreSQL in 1 MiB chunks, with a bounded cache on the local disk. The same content is stored once. A file is in
/// the database whole or not at all.
/// </summary>
/// <param name="contexts">The database.</param>
/// <param name="folder">The cache.</param>
/// <param name="cacheLimit">Bytes the cache may hold.</param>
/// <param name="freeSpace">Bytes free on the disk; asked of the cache's disk unless given.</param>
public sealed class BlobStore(IDbContextFactory<BostelContext> contexts, string folder, long cacheLimit = 4L << 30, Func<long>? freeSpace = null)
{
    private const int Chunk = 1 << 20;

    /// <summary>Kept free always: a database that cannot write its log stops altogether.</summary>
    private const long Reserve = 64L << 20;

    /// <summary>Stores a stream. A stream that breaks off leaves nothing behind.</summary>
    /// <param name="content">Read to its end.</param>
    /// <param name="expected">Length announced beforehand; less is an error.</param>
    /// <exception cref="BadInputException">The stream ended before the announced length, or the disk is full.</exception>
    public async Task<(string Sha, long Length)> SaveAsync(Stream content, long? expected = null, CancellationToken cancel = default)
    {
        Directory.CreateDirectory(folder);
        var partial = Path.Combine(folder, Guid.NewGuid().ToString("N") + ".partial");
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
        catch (IOException e) when (e.HResult == 28 || e.Message.Contains("No space left", StringComparison.Ordinal))
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

    /// <summary>The local path of a blob, fetched from the database when it is not in the cache.</summary>
    /// <exception cref="BadInputException">There is no such blob.</exception>
    public async Task<string> FileAsync(string sha, CancellationToken cancel = default)
    {
        var path = Path.Combine(folder, sha);
        if (File.Exists(path))
        {
            File.SetLastAccessTimeUtc(path, DateTime.UtcNow);
            return path;
        }

        Directory.CreateDirectory(folder);
        var partial = Path.Combine(folder, Guid.NewGuid().ToString("N") + ".partial");
        try
        {
            await using var context = await contexts.CreateDbContextAsync(cancel).ConfigureAwait(false);
            if (!await context.Blobs.AnyAsync(b => b.Sha == sha, cancel).ConfigureAwait(false))
            {
                throw new BadInputException($"The stored file {sha[..12]} is missing.");
            }

            await using (var file = File.Create(partial))
            {
                await foreach (var chunk in context.BlobChunks.AsNoTracking().Where(c => c.Sha == sha).OrderBy(c => c.Index).AsAsyncEnumerable().WithCancellation(cancel).ConfigureAwait(false))
                {
                    await file.WriteAsync(chunk.Data, cancel).ConfigureAwait(false);
                }
            }

            File.Move(partial, path, overwrite: true);
            Trim();
            return path;
        }
        finally
        {
            File.Delete(partial);
        }
    }

    public async Task<byte[]> BytesAsync(string sha, CancellationToken cancel = default) =>
        await File.ReadAllBytesAsync(await FileAsync(sha, cancel).ConfigureAwait(false), cancel).ConfigureAwait(false);

    private const string DiskFull = "The server's disk is full: nothing was kept. Free some space and try again.";

    private void RequireRoom(long bytes)
    {
        if ((freeSpace?.Invoke() ?? new DriveInfo(Path.GetFullPath(folder)).AvailableFreeSpace) < bytes + Reserve)
        {
            throw new BadInputException(DiskFull);
        }
    }

    private static async Task<(string Sha, long Length)> SpoolAsync(Stream content, string path, CancellationToken cancel)
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
            await using var claim = new NpgsqlCommand("INSERT INTO \"Blobs\" (\"Sha\", \"Length\") VALUES ($1, $2) ON CONFLICT DO NOTHING", connection);
            claim.Parameters.AddWithValue(sha);
            claim.Parameters.AddWithValue(length);
            if (await claim.ExecuteNonQueryAsync(cancel).ConfigureAwait(false) == 0)
            {
                return;
            }

            await using var file = File.OpenRead(path);
            await using (var writer = await connection.BeginBinaryImportAsync("COPY \"BlobChunks\" (\"Sha\", \"Index\", \"Data\") FROM STDIN (FORMAT BINARY)", cancel).ConfigureAwait(false))
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
        var files = new DirectoryInfo(folder).GetFiles().Where(f => f.Extension != ".partial").OrderByDescending(f => f.LastAccessTimeUtc).ToList();
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
