using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Cad;
using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Cli;

/// <summary>Exit codes: 0 done, 1 something does not conform, 2 bad input, 3 internal error.</summary>
internal static class ExitCode
{
    public const int Done = 0;
    public const int NotConforming = 1;
    public const int BadInput = 2;
    public const int Internal = 3;
}

/// <summary>Reading and writing for the commands: whole files or nothing.</summary>
internal static class Files
{
    /// <summary>The unit a file states itself, mm where it states none.</summary>
    public const string AsStated = "file";

    public static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    public static void Print(object value) => Console.Out.WriteLine(JsonSerializer.Serialize(value, Json));

    /// <summary>Prints one JSON line a case of a folder, in the order of their names; one that is wrong gets a line that says so.</summary>
    /// <exception cref="BadInputException">There is no such folder, or it holds no case.</exception>
    public static int EachCase(string folder, Func<string, object> run)
    {
        if (!Directory.Exists(folder))
        {
            throw new BadInputException($"{folder}: there is no such folder.");
        }

        var files = Directory.GetFiles(folder, "*.json").Order(StringComparer.Ordinal).ToList();
        if (files.Count == 0)
        {
            throw new BadInputException($"{folder}: holds no .json file.");
        }

        var exit = ExitCode.Done;
        foreach (var file in files)
        {
            try
            {
                Print(run(file));
            }
            catch (Exception e) when (e is BadInputException or JsonException or KeyNotFoundException or InvalidOperationException)
            {
                Print(new { id = Path.GetFileNameWithoutExtension(file), error = e.Message });
                Say($"{Path.GetFileName(file)}: {e.Message}");
                exit = ExitCode.BadInput;
            }
        }

        return exit;
    }

    public static void Say(string message) => Console.Error.WriteLine(message);

    public static MeshFile ReadMesh(string path, string unit)
    {
        Require(path);
        using var stream = File.OpenRead(path);
        var file = MeshFormats.Read(stream, Path.GetFileName(path));
        return file with { Mesh = file.Mesh.Scaled(LengthUnit.Factor(UnitOf(file, unit))) };
    }

    /// <summary>The unit asked for, or the one the file states.</summary>
    public static string UnitOf(MeshFile file, string unit) => unit == AsStated ? file.Unit ?? "mm" : unit;

    /// <summary>The mesh of a scan file in mm, or that of a CAD file.</summary>
    public static async Task<TriangleMesh> ReadSurfaceAsync(string path, string unit, CancellationToken cancel) =>
        CadTranslator.Suffixes.Contains(Path.GetExtension(path).ToLowerInvariant())
            ? (await ReadNominalAsync(path, cancel)).Mesh
            : ReadMesh(path, unit).Mesh;

    public static async Task<Core.Nominals.NominalModel> ReadNominalAsync(
        string path, CancellationToken cancel, double sensitivity = 1, bool recognise = true)
    {
        Require(path);
        var cache = TranslationCache.OfUser();
        return (await NominalReader.ReadAsync(path, Path.GetFileName(path), "mm", sensitivity, cache, recognise, cancel)).Model;
    }

    /// <param name="chordError">How far the triangles may leave the surface, mm.</param>
    public static async Task<Core.Nominals.NominalModel> ReadCadAsync(string path, double? chordError, CancellationToken cancel)
    {
        Require(path);
        if (chordError is { } error && !(error >= 1e-4 && double.IsFinite(error)))
        {
            throw new BadInputException("--chord-error: must be at least 0.0001 mm.");
        }

        var limits = chordError is { } chord ? Cad.CadLimits.Default with { ChordShare = 0, ChordError = chord } : null;
        return await CadTranslator.ReadAsync(path, Path.GetFileName(path), limits, TranslationCache.OfUser(), cancel);
    }

    public static byte[] ReadBytes(string path)
    {
        Require(path);
        return File.ReadAllBytes(path);
    }

    public static string ReadText(string path)
    {
        Require(path);
        return File.ReadAllText(path);
    }

    public static RigidTransform ReadTransform(string path)
    {
        try
        {
            var numbers = JsonDocument.Parse(ReadText(path)).RootElement.GetProperty("transform").EnumerateArray()
                .Select(v => v.GetDouble()).ToArray();
            return RigidTransform.FromArray(numbers);
        }
        catch (Exception e) when (e is JsonException or KeyNotFoundException or InvalidOperationException or FormatException)
        {
            throw new BadInputException($"{Path.GetFileName(path)}: is not a transform file with 16 numbers under 'transform'.", e);
        }
    }

    /// <summary>Writes beside the target and renames, so that no half-written file remains.</summary>
    public static void Write(string path, Action<Stream> write)
    {
        var partial = path + ".partial";
        try
        {
            using (var stream = File.Create(partial))
            {
                write(stream);
            }

            File.Move(partial, path, overwrite: true);
        }
        finally
        {
            File.Delete(partial);
        }
    }

    public static void WriteMesh(string path, TriangleMesh mesh, float[]? deviation = null) =>
        Write(path, s => MeshFormats.Write(s, path, mesh, deviation));

    private static void Require(string path)
    {
        if (!File.Exists(path))
        {
            throw new BadInputException($"{path}: there is no such file.");
        }
    }
}
