using System.Runtime.CompilerServices;
using System.Security.Cryptography;
using System.Text.Json;
using Bostel.Core.Comparison;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;
using Bostel.Data;
using Microsoft.Extensions.Caching.Memory;

namespace Bostel.Server.Services;

/// <summary>
/// Meshes, nominals and prepared scans in memory, keyed by content, within a budget. Everything in it can be made again from blobs. Safe
/// for concurrent use: what two ask for at once is made once.
/// </summary>
public sealed class MeshCache(BlobStore blobs) : IDisposable
{
    /// <summary>Bytes, of all meshes together.</summary>
    private const long Budget = 3L << 30;

    private readonly MemoryCache _cache = new(new MemoryCacheOptions { SizeLimit = Budget });
    private readonly KeyedLock _making = new();
    private readonly ConditionalWeakTable<TriangleMesh, Lazy<Task<MeshSheet>>> _sheets = [];

    /// <summary>A received scan in mm.</summary>
    public Task<TriangleMesh> ScanAsync(ScanSource source, CancellationToken cancel = default) =>
        GetAsync($"scan/{source}", async () =>
        {
            await using var stream = File.OpenRead(await blobs.FileAsync(source.Sha, cancel));
            var columns = source.Columns is null ? null : PointColumns.Parse(source.Columns);
            return MeshFormats.Read(stream, "scan" + source.Suffix, null, cancel, columns).Mesh.Scaled(LengthUnit.Factor(source.Unit));
        }, SizeOf, cancel);

    /// <summary>The runner of a nominal, with its index.</summary>
    public Task<InspectionRunner> RunnerAsync(string modelSha, CancellationToken cancel = default) =>
        GetAsync($"nominal/{modelSha}", async () =>
        {
            var runner = new InspectionRunner(NominalModelStore.Load(await blobs.BytesAsync(modelSha, cancel)));
            _ = runner.Tree;
            return runner;
        }, SizeOf, cancel);

    /// <summary>A scan after preparing steps. Each step's outcome is kept, so that one more step costs only itself.</summary>
    public async Task<PreparedScan> PreparedAsync(ScanSource source, string modelSha, IReadOnlyList<PrepareStep> steps,
        IProgress<RunProgress>? progress = null, CancellationToken cancel = default)
    {
        var scan = await ScanAsync(source, cancel);
        var runner = await RunnerAsync(modelSha, cancel);
        var context = await ContextAsync(source, modelSha, cancel);
        var key = $"{source}/{modelSha}";
        var now = await GetAsync($"prepared/{key}", () => Task.FromResult(runner.Begin(scan)), p => SizeOf(p.Mesh), cancel);
        var (path, done) = ("", 0);
        foreach (var step in steps.Where(s => !s.Off))
        {
            progress?.Report(new((double)done++ / steps.Count, "Preparing: " + step.Kind.Replace('-', ' ')));
            path = Convert.ToHexString(SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(new { path, step }, InspectionPlan.Json)));
            var before = now;
            now = await GetAsync($"prepared/{key}/{path}",
                () => Task.Run(() => InspectionRunner.Continue(before, step, context, cancel), cancel), p => SizeOf(p.Mesh), cancel);
        }

        return now;
    }

    /// <summary>What steps on a scan may refer to, with its pose once it was found.</summary>
    public async Task<PreparationContext> ContextAsync(ScanSource source, string modelSha, CancellationToken cancel = default)
    {
        var scan = await ScanAsync(source, cancel);
        var runner = await RunnerAsync(modelSha, cancel);
        return await GetAsync($"context/{source}/{modelSha}", () => Task.FromResult(runner.ContextFor(scan)), _ => 1024, cancel);
    }

    /// <summary>Deviations by the key of their outcome.</summary>
    public Task<DeviationMap> DeviationsAsync(string key, string blobSha, CancellationToken cancel = default) =>
        GetAsync($"deviations/{key}", async () =>
        {
            await using var stored = File.OpenRead(await blobs.FileAsync(blobSha, cancel));
            return DeviationCodec.Decode(stored);
        }, m => 12L * m.Values.Length, cancel);

    /// <summary>A map of a scan; another name or other limits of it cost no more than counting.</summary>
    /// <param name="scanKey">Of the deviations and the plan that it rests on.</param>
    public async Task<PieceMap> MapAsync(string scanKey, MapPlan map, Func<MapPlan, PieceMap> make, CancellationToken cancel = default)
    {
        var bare = map with { Name = "map", Lower = null, Upper = null };
        var key = JsonSerializer.Serialize(bare, InspectionPlan.Json);
        var made = await GetAsync(
            $"map/{scanKey}/{key}", () => Task.Run(() => make(bare), cancel), m => 8L * m.Values.Length, cancel);
        return made.With(map);
    }

    /// <summary>A picture by the key of what it shows.</summary>
    public Task<byte[]> PictureAsync(string key, Func<Task<byte[]>> draw, CancellationToken cancel = default) =>
        GetAsync($"picture/{key}", () => Task.Run(draw, cancel), png => png.Length, cancel);

    /// <summary>Something small that follows from its key alone.</summary>
    public T Small<T>(string key, Func<T> make)
        where T : class => _cache.GetOrCreate(key, entry =>
    {
        entry.SetSize(4096).SetSlidingExpiration(TimeSpan.FromMinutes(60));
        return make();
    })!;

    /// <summary>The data sheet of a mesh.</summary>
    public Task<MeshSheet> SheetAsync(TriangleMesh mesh, CancellationToken cancel = default)
    {
        // Meshes are never changed: what is known of one stays true as long as it is.
        var task = _sheets.GetValue(mesh, m => new(() => Task.Run(() => MeshSheet.Of(m))));
        return task.Value.WaitAsync(cancel);
    }

    public void Dispose() => _cache.Dispose();

    /// <summary>
    /// Bytes of a mesh with all that is worked out of it on demand and then hangs on it. A vertex: coordinates 24, normal and agreement
    /// 16, area 8, rings 28, deviation in the pose found first 12. A triangle: corners 12, topology 24, normal 12, turn 2.
    /// </summary>
    private static long SizeOf(TriangleMesh mesh) => (88L * mesh.VertexCount) + (50L * mesh.TriangleCount) + 1024;

    /// <summary>Bytes of a nominal with its index, pseudonormals, samples, grid, and its surface for maps.</summary>
    private static long SizeOf(InspectionRunner runner) =>
        SizeOf(runner.Nominal.Mesh) + (160L * runner.Nominal.Mesh.TriangleCount) + (48L << 20);

    private async Task<T> GetAsync<T>(string key, Func<Task<T>> make, Func<T, long> size, CancellationToken cancel)
        where T : class
    {
        if (_cache.TryGetValue(key, out T? found))
        {
            return found!;
        }

        // Two readers of the same scan must not both load it; those of another do not wait.
        using var one = await _making.TakeAsync(key, cancel);
        if (_cache.TryGetValue(key, out found))
        {
            return found!;
        }

        var made = await make();
        _cache.Set(key, made, new MemoryCacheEntryOptions { Size = size(made), SlidingExpiration = TimeSpan.FromMinutes(60) });
        return made;
    }
}
