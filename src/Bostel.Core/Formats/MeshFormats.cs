using Bostel.Core.Meshes;

namespace Bostel.Core.Formats;

/// <summary>A mesh as read from a file, in the file's own unit, with what was noticed while reading.</summary>
public sealed record MeshFile(TriangleMesh Mesh, string Format, IReadOnlyList<string> Remarks)
{
    /// <summary>The unit the file itself states (see <see cref="LengthUnit"/>); null where it states none.</summary>
    public string? Unit { get; init; }

    /// <summary>What the columns of a text of points were taken for; null for other files.</summary>
    public PointColumns? Columns { get; init; }
}

/// <summary>Reads any mesh or point file by its suffix and content. Nothing is guessed about units here.</summary>
public static class MeshFormats
{
    public static readonly IReadOnlyList<string> Suffixes =
        [".stl", ".obj", ".ply", ".off", ".3mf", ".glb", ".gltf", ".xyz", ".txt", ".csv", ".pts", ".asc"];

    /// <summary>Reads a whole stream. Progress runs from 0 to 1.</summary>
    /// <param name="columns">What the columns of a text of points are; guessed when null.</param>
    /// <exception cref="BadInputException">Unknown suffix, damaged or empty content; the message starts with the file's name.</exception>
    public static MeshFile Read(Stream stream, string fileName, IProgress<double>? progress = null, CancellationToken cancel = default,
        PointColumns? columns = null)
    {
        var suffix = Path.GetExtension(fileName).ToLowerInvariant();
        if (!Suffixes.Contains(suffix))
        {
            throw new BadInputException(
                $"{fileName}: '{suffix}' is not a mesh or point format that is read here ({string.Join(", ", Suffixes)}).");
        }

        if (suffix == ".stl" && StlFormat.ReadPiecewise(stream, new(fileName, [], progress, cancel)) is { } direct)
        {
            return Checked(direct, fileName, true);
        }

        var bytes = ReadAll(stream, fileName, cancel);
        if (bytes.Length == 0)
        {
            throw new BadInputException($"{fileName}: the file is empty.");
        }

        var context = new ReadContext(fileName, bytes, progress, cancel);
        var file = suffix switch
        {
            ".stl" => StlFormat.Read(context),
            ".obj" => ObjFormat.Read(context),
            ".ply" => PlyFormat.Read(context),
            ".off" => OffFormat.Read(context),
            ".3mf" => ThreeMfFormat.Read(context),
            ".glb" or ".gltf" => GltfFormat.Read(context),
            _ => XyzFormat.Read(context, columns),
        };
        return Checked(file, fileName, suffix is not ".ply" && file.Columns is null);
    }

    /// <summary>Suffixes of what can be written.</summary>
    public static readonly IReadOnlyList<string> Written = [".stl", ".ply", ".obj", ".3mf", ".glb", ".xyz"];

    /// <summary>
    /// Writes by suffix, in mm (.glb in metres): .stl and .ply binary, .ply and .xyz with a deviation per vertex where given.
    /// </summary>
    public static void Write(Stream stream, string fileName, TriangleMesh mesh, float[]? deviation = null)
    {
        switch (Path.GetExtension(fileName).ToLowerInvariant())
        {
            case ".stl": StlFormat.Write(stream, mesh); break;
            case ".ply": PlyFormat.Write(stream, mesh, deviation); break;
            case ".obj": ObjFormat.Write(stream, mesh); break;
            case ".3mf": ThreeMfFormat.Write(stream, mesh); break;
            case ".glb": GltfFormat.Write(stream, mesh); break;
            case ".xyz": XyzFormat.Write(stream, mesh, deviation); break;
            default: throw new BadInputException($"{fileName}: meshes are written as {string.Join(", ", Written)}.");
        }
    }

    private static MeshFile Checked(MeshFile file, string fileName, bool mustHaveTriangles)
    {
        var mesh = file.Mesh;
        if (mesh.Coordinates.AsSpan().ContainsAnyExceptInRange(double.MinValue, double.MaxValue))
        {
            throw new BadInputException($"{fileName}: contains coordinates that are not finite numbers (NaN or infinity).");
        }

        if (mesh.VertexCount == 0 || (mustHaveTriangles && mesh.TriangleCount == 0))
        {
            throw new BadInputException($"{fileName}: contains no triangles.");
        }

        if (mesh.Bounds.Diagonal == 0 || mesh.Bounds.Diagonal > 1e9)
        {
            throw new BadInputException($"{fileName}: the data has a size of {mesh.Bounds.Diagonal:G3}, which cannot be a part.");
        }

        foreach (var index in mesh.Indices)
        {
            if ((uint)index >= (uint)mesh.VertexCount)
            {
                throw new BadInputException($"{fileName}: a triangle refers to vertex {index}, but there are only {mesh.VertexCount}.");
            }
        }

        return DropDegenerate(file, fileName);
    }

    private static MeshFile DropDegenerate(MeshFile file, string fileName)
    {
        var idx = file.Mesh.Indices;
        var kept = 0;
        for (var t = 0; t < idx.Length; t += 3)
        {
            if (idx[t] != idx[t + 1] && idx[t + 1] != idx[t + 2] && idx[t] != idx[t + 2])
            {
                kept += 3;
            }
        }

        if (kept == idx.Length)
        {
            return file;
        }

        var clean = new int[kept];
        var next = 0;
        for (var t = 0; t < idx.Length; t += 3)
        {
            if (idx[t] != idx[t + 1] && idx[t + 1] != idx[t + 2] && idx[t] != idx[t + 2])
            {
                idx.AsSpan(t, 3).CopyTo(clean.AsSpan(next));
                next += 3;
            }
        }

        var remark = $"{(idx.Length - kept) / 3} triangles with coinciding corners left out";
        return kept == 0
            ? throw new BadInputException($"{fileName}: contains only triangles without area.")
            : file with { Mesh = new(file.Mesh.Coordinates, clean), Remarks = [.. file.Remarks, remark] };
    }

    private static byte[] ReadAll(Stream stream, string fileName, CancellationToken cancel)
    {
        const long Most = int.MaxValue - 64;
        if (stream.CanSeek)
        {
            if (stream.Length - stream.Position > Most)
            {
                throw new BadInputException($"{fileName}: files over 2 GB are not read.");
            }

            var exact = GC.AllocateUninitializedArray<byte>((int)(stream.Length - stream.Position));
            stream.ReadExactly(exact);
            return exact;
        }

        using var memory = new MemoryStream();
        var buffer = new byte[1 << 20];
        int read;
        while ((read = stream.Read(buffer)) > 0)
        {
            cancel.ThrowIfCancellationRequested();
            if (memory.Length + read > Most)
            {
                throw new BadInputException($"{fileName}: files over 2 GB are not read.");
            }

            memory.Write(buffer, 0, read);
        }

        return memory.ToArray();
    }
}

/// <summary>What every reader gets: the bytes, the name for messages, progress and cancel.</summary>
internal sealed record ReadContext(string FileName, byte[] Bytes, IProgress<double>? Progress, CancellationToken Cancel)
{
    public void Report(long done, long of)
    {
        Cancel.ThrowIfCancellationRequested();
        Progress?.Report(of > 0 ? (double)done / of : 1);
    }

    public BadInputException Bad(string what, Exception? inner = null) =>
        inner is null ? new($"{FileName}: {what}") : new($"{FileName}: {what}", inner);
}
