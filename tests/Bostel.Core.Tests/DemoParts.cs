using System.Collections.Concurrent;
using Bostel.Cad;
using Bostel.Core.Alignment;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests;

/// <summary>The shipped demo nominals, translated once per test run.</summary>
internal static class DemoParts
{
    private static readonly ConcurrentDictionary<string, Lazy<(NominalModel Model, AlignmentTarget Target)>> Loaded = new();

    public static readonly string Root = Find();

    public static NominalModel Model(string part) => Load(part).Model;

    public static TriangleTree Tree(string part) => Target(part).Tree;

    public static AlignmentTarget Target(string part) => Load(part).Target;

    public static string NominalPath(string part) => Directory.GetFiles(Path.Combine(Root, "demo", "nominal"), part + "*.step").Single();

    private static (NominalModel Model, AlignmentTarget Target) Load(string part) => Loaded.GetOrAdd(part, p => new(() =>
    {
        var path = NominalPath(p);
        var model = CadTranslator.ReadAsync(path, Path.GetFileName(path), cache: TranslationCache.OfUser()).GetAwaiter().GetResult();
        return (model, new(new(model.Mesh)));
    })).Value;

    private static string Find()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Bostel.slnx")))
        {
            folder = folder.Parent ?? throw new DirectoryNotFoundException("The root of the repository was not found.");
        }

        return folder.FullName;
    }
}
