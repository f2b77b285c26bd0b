using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Segmentation;

namespace Bostel.Cad;

/// <summary>Reads a nominal of any kind: CAD through the translator, a mesh through face recognition.</summary>
public static class NominalReader
{
    /// <summary>What a nominal can be: CAD, or a mesh in any format that holds surfaces.</summary>
    public static IReadOnlyList<string> Suffixes { get; } = [.. CadTranslator.Suffixes, ".stl", ".obj", ".ply", ".off", ".3mf", ".glb", ".gltf"];

    /// <param name="path">The file on disk.</param>
    /// <param name="name">Its name, for the kind and for messages.</param>
    /// <param name="unit">Unit of a mesh file; CAD files carry their own.</param>
    /// <param name="sensitivity">For a mesh: how closely its corners must lie on a surface (<see cref="CadMeshSegmentation.Recognise"/>).</param>
    /// <exception cref="BadInputException">Unreadable, or without surfaces.</exception>
    public static async Task<NominalModel> ReadAsync(string path, string name, string unit = "mm", double sensitivity = 1, CancellationToken cancel = default)
    {
        if (CadTranslator.Suffixes.Contains(Path.GetExtension(name).ToLowerInvariant()))
        {
            return await CadTranslator.ReadAsync(path, name, null, cancel).ConfigureAwait(false);
        }

        using var stream = File.OpenRead(path);
        var file = MeshFormats.Read(stream, name, null, cancel);
        if (file.Mesh.TriangleCount == 0)
        {
            throw new BadInputException($"{name}: a nominal needs surfaces; this file holds points only.");
        }

        var factor = LengthUnit.Factor(unit);
        return CadMeshSegmentation.Recognise(file.Mesh.Scaled(factor), sensitivity, factor * CoordinatePrecision.Of(file.Mesh.Coordinates), file.Remarks, cancel);
    }
}
