using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;

namespace Bostel.Cad;

/// <summary>A nominal as recognised, in mm, with the unit its file is in.</summary>
public sealed record ReadNominal(NominalModel Model, string Unit);

/// <summary>Reads a nominal of any kind: CAD through the translator, a mesh through face recognition.</summary>
public static class NominalReader
{
    /// <summary>What a nominal can be: CAD, or a mesh in any format that holds surfaces.</summary>
    public static IReadOnlyList<string> Suffixes { get; } =
        [.. CadTranslator.Suffixes, ".stl", ".obj", ".ply", ".off", ".3mf", ".glb", ".gltf"];

    /// <summary>Besides those of <see cref="Suffixes"/> a model as recognised before (<see cref="NominalModelStore"/>) is read.</summary>
    /// <param name="path">The file on disk.</param>
    /// <param name="name">Its name, for the kind and for messages.</param>
    /// <param name="unit">Unit of a mesh file that states none; CAD files carry their own.</param>
    /// <param name="sensitivity">For a mesh: how closely its corners must lie on a surface
    /// (<see cref="CadMeshSegmentation.Recognise"/>).</param>
    /// <param name="cache">Of translations of CAD files; null for none.</param>
    /// <param name="recognise">False: a mesh is one surface, its faces are not asked for. CAD has them in any case.</param>
    /// <exception cref="BadInputException">Unreadable, or without surfaces.</exception>
    public static async Task<ReadNominal> ReadAsync(
        string path, string name, string unit = "mm", double sensitivity = 1, TranslationCache? cache = null, bool recognise = true,
        CancellationToken cancel = default)
    {
        if (CadTranslator.Suffixes.Contains(Path.GetExtension(name).ToLowerInvariant()))
        {
            return new(await CadTranslator.ReadAsync(path, name, null, cache, cancel).ConfigureAwait(false), unit);
        }

        if (Path.GetExtension(name).Equals(NominalModelStore.Suffix, StringComparison.OrdinalIgnoreCase))
        {
            try
            {
                return new(NominalModelStore.Load(await File.ReadAllBytesAsync(path, cancel).ConfigureAwait(false)), "mm");
            }
            catch (Exception e) when (e is EndOfStreamException or JsonException or ArgumentException or FormatException)
            {
                throw new BadInputException($"{name}: is damaged, or no nominal that was saved here.", e);
            }
        }

        using var stream = File.OpenRead(path);
        var file = MeshFormats.Read(stream, name, null, cancel);
        if (file.Mesh.TriangleCount == 0)
        {
            throw new BadInputException($"{name}: a nominal needs surfaces; this file holds points only.");
        }

        // A format that states its unit is believed: glTF is in metres whatever is asked for.
        var stated = file.Unit ?? unit;
        IReadOnlyList<string> remarks = stated == unit ? file.Remarks : [.. file.Remarks, $"the file says its unit is {stated}"];
        var factor = LengthUnit.Factor(stated);
        if (!recognise)
        {
            return new(NominalModel.OfSurface(file.Mesh.Scaled(factor)), stated);
        }

        return new(CadMeshSegmentation.Recognise(
            file.Mesh.Scaled(factor), sensitivity, factor * CoordinatePrecision.Of(file.Mesh.Coordinates), remarks, cancel), stated);
    }
}
