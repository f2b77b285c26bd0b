using System.Runtime.CompilerServices;
using System.Security.Cryptography;
using System.Text.Json;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Segmentation;
using Bostel.Data;
using Microsoft.Extensions.Caching.Memory;
using Piece = Bostel.Data.Piece;

namespace Bostel.Server.Services;

/// <summary>
/// Meshes, nominals and prepared scans in memory, keyed by content, within a budget. Everything in it can be made again from blobs.
/// </summary>
public sealed class MeshCache(BlobStore blobs) : IDisposable
{
    private readonly MemoryCache _cache = new(new MemoryCacheOptions { SizeLimit = 3L << 30 });
    private readonly SemaphoreSlim _one = new(1, 1);
    private readonly ConditionalWeakTable<TriangleMesh, Lazy<Task<MeshSheet>>> _sheets = [];

    /// <summary>A received scan in mm.</summary>
    public Task<TriangleMesh> ScanAsync(Piece piece, string unit, CancellationToken cancel = default) =>
        GetAsync($"scan/{piece.FileSha}/{piece.Columns}/{unit}", async () =>
        {
            await using var stream = File.OpenRead(await blobs.FileAsync(piece.FileSha, cancel));
            var columns = piece.Columns is null ? null : PointColumns.Parse(piece.Columns);
            return MeshFormats.Read(stream, piece.FileName, null, cancel, columns).Mesh.Scaled(LengthUnit.Factor(unit));
        }, SizeOf, cancel);

    /// <summary>The runner of a nominal, with its index.</summary>
    public Task<InspectionRunner> RunnerAsync(string modelSha, CancellationToken cancel = default) =>
        GetAsync($"nominal/{modelSha}", async () =>
        {
            var runner = new InspectionRunner(NominalModelStore.Load(await blobs.BytesAsync(modelSha, cancel)));
            _ = runner.Tree;
            return runner;
        }, r => 3 * SizeOf(r.Nominal.Mesh), cancel);

    /// <summary>A scan after preparing steps. Each step's outcome is kept, so that one more step costs only itself.</summary>
    public async Task<PreparedScan> PreparedAsync(Piece piece, string unit, IReadOnlyList<PrepareStep> steps, InspectionRunner runner, string modelSha, CancellationToken cancel = default)
    {
        var scan = await ScanAsync(piece, unit, cancel);
        var key = $"{piece.FileSha}/{piece.Columns}/{unit}/{modelSha}";
        var context = await ContextAsync(piece, unit, runner, modelSha, cancel);
        var now = await GetAsync($"prepared/{key}", () => Task.FromResult(runner.Begin(scan)), p => SizeOf(p.Mesh), cancel);
        var path = "";
        foreach (var step in steps.Where(s => !s.Off))
        {
            path = Convert.ToHexString(SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(new { path, step }, InspectionPlan.Json)));
            var before = now;
            now = await GetAsync($"prepared/{key}/{path}", () => Task.Run(() => InspectionRunner.Continue(before, step, context, cancel), cancel), p => SizeOf(p.Mesh), cancel);
        }

        return now;
    }

    /// <summary>What steps on a scan may refer to, with its pose once it was found.</summary>
    public async Task<PreparationContext> ContextAsync(Piece piece, string unit, InspectionRunner runner, string modelSha, CancellationToken cancel = default)
    {
        var scan = await ScanAsync(piece, unit, cancel);
        return await GetAsync($"context/{piece.FileSha}/{piece.Columns}/{unit}/{modelSha}", () => Task.FromResult(runner.ContextFor(scan, CancellationToken.None)), _ => 1024, cancel);
    }

    /// <summary>The data sheet of a mesh.</summary>
    public Task<MeshSheet> SheetAsync(TriangleMesh mesh, CancellationToken cancel = default)
    {
        // Meshes are never changed: what is known of one stays true as long as it is.
        var task = _sheets.GetValue(mesh, m => new(() => Task.Run(() => MeshSheet.Of(m))));
        return task.Value.WaitAsync(cancel);
    }

    public void Dispose()
    {
        _cache.Dispose();
        _one.Dispose();
    }

    private static long SizeOf(TriangleMesh mesh) => (32L * mesh.VertexCount) + (4L * mesh.Indices.Length) + 1024;

    private async Task<T> GetAsync<T>(string key, Func<Task<T>> make, Func<T, long> size, CancellationToken cancel)
        where T : class
    {
        if (_cache.TryGetValue(key, out T? found))
        {
            return found!;
        }

        // One at a time: two readers of the same scan must not both load it.
        await _one.WaitAsync(cancel);
        try
        {
            if (_cache.TryGetValue(key, out found))
            {
                return found!;
            }

            var made = await make();
            _cache.Set(key, made, new MemoryCacheEntryOptions { Size = size(made), SlidingExpiration = TimeSpan.FromMinutes(60) });
            return made;
        }
        finally
        {
            _one.Release();
        }
    }
}
