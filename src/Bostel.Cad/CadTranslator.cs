using System.Diagnostics;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json;
using Bostel.Core;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Cad;

/// <summary>Limits under which the translator runs as a child process.</summary>
public sealed record CadLimits(TimeSpan Time, long MemoryBytes)
{
    public static readonly CadLimits Default = new(TimeSpan.FromMinutes(5), 8L << 30);

    /// <summary>How far the triangles may leave the surface, as a share of the part's diagonal.</summary>
    public double ChordShare { get; init; } = 4e-5;

    /// <summary>The same in mm; the larger of the two holds.</summary>
    public double ChordError { get; init; } = 0.004;
}

/// <summary>
/// Reads STEP and IGES through the native translator, out of process. Triangulation: chord error 4·10⁻⁵ of the diagonal, at least
/// 0.004 mm; deviations are refined to the exact surface, freeform ones too, where it can be written as a B-spline.
/// </summary>
public static class CadTranslator
{
    public static readonly IReadOnlyList<string> Suffixes = [".step", ".stp", ".iges", ".igs"];

    private sealed record FaceHead(string Kind, double[]? Origin, double[]? Axis, double[]? XDirection, double Radius, double HalfAngle,
        double MinorRadius, int Nodes, int Triangles, int Body = 0, string? Color = null, SurfaceHead? Surface = null);

    private sealed record SurfaceHead(int DegreeU, int DegreeV, double[] KnotsU, double[] KnotsV)
    {
        public int Poles => (KnotsU.Length - DegreeU - 1) * (KnotsV.Length - DegreeV - 1);
    }

    private sealed record EdgeHead(int Points, int[] Faces);

    private sealed record BodyHead(string Name, string Color);

    private sealed record Head(int Solids, double Deflection, BodyHead[] Bodies, FaceHead[] Faces, EdgeHead[] Edges,
        ProductInformation? Information = null);

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    /// <summary>Translates a file on disk.</summary>
    /// <param name="path">The file.</param>
    /// <param name="name">The name to show in messages.</param>
    /// <param name="limits">Of the translator's process, and its chord error; null for <see cref="CadLimits.Default"/>.</param>
    /// <param name="cache">Where a translation made before is found; null translates anew.</param>
    /// <exception cref="BadInputException">Unreadable, without a solid or sheet, or over the limits.</exception>
    public static async Task<NominalModel> ReadAsync(
        string path, string name, CadLimits? limits = null, TranslationCache? cache = null, CancellationToken cancel = default)
    {
        var suffix = Path.GetExtension(name).ToLowerInvariant();
        if (!Suffixes.Contains(suffix))
        {
            throw new BadInputException($"{name}: '{suffix}' is not a CAD format that is read here ({string.Join(", ", Suffixes)}).");
        }

        var expected = ExpectedFaces(path, name, suffix);
        var folder = Directory.CreateTempSubdirectory("bostel-cad-");
        try
        {
            var input = Path.Combine(folder.FullName, "in" + suffix);
            File.Copy(path, input);
            var within = limits ?? CadLimits.Default;
            var translation = cache is null
                ? await TranslateAsync(input, name, within, cancel).ConfigureAwait(false)
                : await cache.GetAsync(input, ToolPath(), within, () => TranslateAsync(input, name, within, cancel), cancel)
                    .ConfigureAwait(false);
            return Assemble(translation, name, expected);
        }
        catch (Exception e) when (e is JsonException or ArgumentOutOfRangeException or IndexOutOfRangeException)
        {
            throw new BadInputException($"{name}: the file holds numbers that cannot be measures of a part; it is damaged.", e);
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private static int? ExpectedFaces(string path, string name, string suffix)
    {
        if (suffix is ".iges" or ".igs")
        {
            return null;
        }

        var text = File.ReadAllText(path, Encoding.Latin1);
        if (!text.AsSpan().TrimStart().StartsWith("ISO-10303-21"))
        {
            throw new BadInputException($"{name}: is not a STEP file: the line ISO-10303-21 is missing.");
        }

        if (!text.Contains("END-ISO-10303-21", StringComparison.Ordinal))
        {
            throw new BadInputException($"{name}: the STEP file is cut off: its end line is missing.");
        }

        return text.Split("ADVANCED_FACE", StringSplitOptions.None).Length - 1;
    }

    private static async Task<byte[]> TranslateAsync(string input, string name, CadLimits limits, CancellationToken cancel)
    {
        var output = Path.ChangeExtension(input, ".bcad");
        var tool = ToolPath();
        var start = new ProcessStartInfo("/bin/sh") { RedirectStandardError = true, RedirectStandardOutput = true };
        start.ArgumentList.Add("-c");
        start.ArgumentList.Add("ulimit -v \"$1\"; shift; exec \"$@\"");
        foreach (var argument in (string[])["sh", (limits.MemoryBytes / 1024).ToString(System.Globalization.CultureInfo.InvariantCulture),
            tool, input, output, Number(limits.ChordShare), Number(limits.ChordError)])
        {
            start.ArgumentList.Add(argument);
        }

        using var process = Process.Start(start) ?? throw new InvalidOperationException("The CAD translator could not be started.");
        using var timeout = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        timeout.CancelAfter(limits.Time);
        try
        {
            await process.WaitForExitAsync(timeout.Token).ConfigureAwait(false);
        }
        catch (OperationCanceledException)
        {
            process.Kill(entireProcessTree: true);
            cancel.ThrowIfCancellationRequested();
            throw new BadInputException($"{name}: translating took longer than the limit of {limits.Time.TotalSeconds:F0} s.");
        }

        var problem = process.ExitCode switch
        {
            0 => null,
            2 => "the file cannot be read as CAD data; it is damaged or of another kind.",
            3 => "contains no solid and no faces.",
            _ => $"translating failed; the file is damaged or needs more than {limits.MemoryBytes >> 20} MB.",
        };
        if (problem is not null)
        {
            throw new BadInputException($"{name}: {problem}");
        }

        return await File.ReadAllBytesAsync(output, cancel).ConfigureAwait(false);
    }

    private static string Number(double value) => value.ToString("R", System.Globalization.CultureInfo.InvariantCulture);

    private static NominalModel Assemble(byte[] bytes, string name, int? expectedFaces)
    {
        var length = BitConverter.ToInt32(bytes, 8);
        var head = JsonSerializer.Deserialize<Head>(bytes.AsSpan(12, length), Json)!;
        var at = 12 + length;
        var weld = new ToleranceWelder(1e-6);
        var indices = new List<int>();
        var labels = new List<int>();
        var surfaces = new BSplineSurface?[head.Faces.Length];
        var parameters = new List<float>();
        for (var f = 0; f < head.Faces.Length; f++)
        {
            var nodes = Take<double>(bytes, ref at, 3 * head.Faces[f].Nodes);
            var triangles = Take<int>(bytes, ref at, 3 * head.Faces[f].Triangles);
            var uv = new double[2 * head.Faces[f].Nodes];
            if (head.Faces[f].Surface is { } s)
            {
                var poles = Take<double>(bytes, ref at, 4 * s.Poles);
                uv = Take<double>(bytes, ref at, uv.Length);
                surfaces[f] = Fitting(new(s.DegreeU, s.DegreeV, s.KnotsU, s.KnotsV, poles), nodes, uv, head.Deflection);
            }

            var number = new int[head.Faces[f].Nodes];
            for (var i = 0; i < number.Length; i++)
            {
                number[i] = weld.Add(Vector3D.At(nodes, i));
            }

            for (var t = 0; t < triangles.Length; t += 3)
            {
                var (a, b, c) = (number[triangles[t]], number[triangles[t + 1]], number[triangles[t + 2]]);
                if (a != b && b != c && a != c)
                {
                    indices.AddRange([a, b, c]);
                    labels.Add(f);
                    parameters.AddRange(triangles[t..(t + 3)].SelectMany(n => new[] { (float)uv[2 * n], (float)uv[(2 * n) + 1] }));
                }
            }
        }

        if (indices.Count == 0)
        {
            throw new BadInputException($"{name}: contains no solid and no faces.");
        }

        var mesh = new TriangleMesh(weld.Coordinates(), [.. indices]);
        var members = labels.Select((label, t) => (label, t)).ToLookup(x => x.label, x => x.t);
        var faces = head.Faces.Select((f, id) => NominalFaceBuilder.Build(
            id, ShapeOf(f), mesh, [.. members[id]]) with
        { Freeform = surfaces[id], Body = f.Body, Color = f.Color?.ToLowerInvariant() }).ToList();
        var edges = head.Edges.Select(e => new NominalEdge(Take<double>(bytes, ref at, 3 * e.Points), e.Faces))
            .Where(e => e.Points.Length >= 6).ToList();
        var remarks = new List<string>();
        if (expectedFaces is { } n && n > head.Faces.Length)
        {
            remarks.Add($"The file announces {n} faces, but only {head.Faces.Length} could be read: parts of the nominal are missing.");
        }

        if (head.Solids == 0)
        {
            remarks.Add("The file holds faces but no closed solid.");
        }

        if (head.Bodies.Length > 1)
        {
            remarks.Add($"{head.Bodies.Length} bodies: {string.Join(", ", head.Bodies.Select(b => b.Name).Distinct().Take(8))}.");
        }

        return new(mesh, [.. labels], faces, edges, head.Deflection,
            remarks)
        {
            CornerParameters = surfaces.Any(s => s is not null) ? [.. parameters] : [],
            Information = head.Information ?? ProductInformation.None,
            Bodies = [.. head.Bodies.Select(b => new NominalBody(b.Name, b.Color is "" ? null : b.Color.ToLowerInvariant()))],
        };
    }

    /// <summary>
    /// A surface that was converted may have other parameters than its triangulation: then it is of no use here. Nodes on the border lie on
    /// the edges, which the file may draw a little off the surface.
    /// </summary>
    private static BSplineSurface? Fitting(BSplineSurface surface, double[] nodes, double[] uv, double deflection)
    {
        for (var i = 0; i < uv.Length / 2; i++)
        {
            var node = Vector3D.At(nodes, i);
            if (!(Vector3D.Distance(surface.At(uv[2 * i], uv[(2 * i) + 1]).Point, node) < deflection))
            {
                return null;
            }
        }

        return surface;
    }

    private static T[] Take<T>(byte[] bytes, ref int at, int count)
        where T : struct
    {
        var values = new T[count];
        var target = MemoryMarshal.AsBytes(values.AsSpan());
        bytes.AsSpan(at, target.Length).CopyTo(target);
        at += target.Length;
        return values;
    }

    private static Shape? ShapeOf(FaceHead f)
    {
        if (f.Origin is null || f.Axis is null)
        {
            return null;
        }

        var origin = Vector3D.FromArray(f.Origin);
        var axis = Vector3D.FromArray(f.Axis).Normalized();
        switch (f.Kind)
        {
            case "plane": return new Plane3D(origin, axis);
            case "cylinder": return new Cylinder3D(origin, axis, f.Radius);
            case "sphere": return new Sphere3D(origin, f.Radius);
            case "torus" when f.Radius > f.MinorRadius: return new Torus3D(origin, axis, f.Radius, f.MinorRadius);
            case "cone":
                // The kernel's cone has a radius at its origin and a signed half angle; the apex lies where the radius vanishes.
                var apex = origin - (f.Radius / Math.Tan(f.HalfAngle) * axis);
                return f.HalfAngle > 0 ? new Cone3D(apex, axis, f.HalfAngle) : new Cone3D(apex, -axis, -f.HalfAngle);
            default: return null;
        }
    }

    private static string ToolPath()
    {
        var named = Environment.GetEnvironmentVariable("BOSTEL_CAD");
        if (named is not null)
        {
            return named;
        }

        for (var folder = new DirectoryInfo(AppContext.BaseDirectory); folder is not null; folder = folder.Parent)
        {
            var candidate = Path.Combine(folder.FullName, "native", "build", "bostel-cad");
            if (File.Exists(candidate))
            {
                return candidate;
            }
        }

        throw new InvalidOperationException("The CAD translator is not built: run native/build.sh.");
    }
}
