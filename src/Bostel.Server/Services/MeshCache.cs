using System.Security.Cryptography;
using System.Text.Json;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Core.Segmentation;
using Bostel.Data;
using Microsoft.Extensions.Caching.Memory;

namespace Bostel.Server.Services;

/// <summary>
/// Meshes, nominals and prepared scans in memory, keyed by content, within a budget. Everything in it can be made again from blobs.
/// </summary>
public sealed class MeshCache(BlobStore blobs) : IDisposable
{
    private readonly MemoryCache _cache = new(new MemoryCacheOptions { SizeLimit = 3L << 30 });
    private readonly SemaphoreSlim _one = new(1, 1);

    /// <summary>A received scan in mm.</summary>
    public Task<TriangleMesh> ScanAsync(string sha, string fileName, string unit, IProgress<double>? progress = null, CancellationToken cancel = default) =>
        GetAsync($"scan/{sha}/{unit}", async () =>
        {
            await using var stream = File.OpenRead(await blobs.FileAsync(sha, cancel));
            return MeshFormats.Read(stream, fileName, progress, cancel).Mesh.Scaled(LengthUnit.Factor(unit));
        }, SizeOf, cancel);

    /// <summary>The runner of a nominal, with its index.</summary>
    public Task<InspectionRunner> RunnerAsync(string modelSha, CancellationToken cancel = default) =>
        GetAsync($"nominal/{modelSha}", async () =>
        {
            var runner = new InspectionRunner(NominalModelStore.Load(await blobs.BytesAsync(modelSha, cancel)));
            _ = runner.Tree;
            return runner;
        }, r => 3 * SizeOf(r.Nominal.Mesh), cancel);

    /// <summary>A scan after preparation by a plan.</summary>
    public async Task<PreparedScan> PreparedAsync(string sha, string fileName, string unit, InspectionPlan plan, InspectionRunner runner, string modelSha, CancellationToken cancel = default)
    {
        var scan = await ScanAsync(sha, fileName, unit, null, cancel);
        var steps = Convert.ToHexString(SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(plan.Prepare, InspectionPlan.Json)));
        return await GetAsync($"prepared/{sha}/{unit}/{steps}/{modelSha}", () => Task.FromResult(runner.Prepare(scan, plan)), p => SizeOf(p.Mesh), cancel);
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
