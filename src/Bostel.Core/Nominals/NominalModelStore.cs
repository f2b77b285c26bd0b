using System.Runtime.InteropServices;
using System.Text.Json;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Nominals;

/// <summary>
/// Keeps a recognised nominal as one binary block, so that a file is translated once. Little-endian; a version stands first.
/// </summary>
public static class NominalModelStore
{
    /// <summary>Of files that hold one.</summary>
    public const string Suffix = ".bnom";

    private const string Magic = "BNOM0002";

    /// <summary>Without exact freeform surfaces.</summary>
    private const string Earlier = "BNOM0001";

    private sealed record StoredFace(string Kind, double Area, bool Internal, double Start, double End, double Sweep, double[] Center,
        double[]? Shape, int Body = 0, string? Color = null, StoredSurface? Freeform = null);

    private sealed record StoredSurface(int DegreeU, int DegreeV);

    private sealed record Head(List<StoredFace> Faces, List<int[]> EdgeFaces, double ChordError, IReadOnlyList<string> Remarks,
        IReadOnlyList<NominalBody>? Bodies = null, ProductInformation? Information = null);

    public static byte[] Save(NominalModel model)
    {
        using var memory = new MemoryStream();
        using var writer = new BinaryWriter(memory);
        writer.Write(Magic);
        var faces = model.Faces.Select(f => new StoredFace(
            f.Kind, f.Area, f.Internal, f.Start, f.End, f.Sweep, f.Center.ToArray(), Numbers(f.Shape), f.Body, f.Color,
            f.Freeform is { } s ? new(s.DegreeU, s.DegreeV) : null)).ToList();
        writer.Write(JsonSerializer.Serialize(
            new Head(faces, [.. model.Edges.Select(e => e.Faces)], model.ChordError, model.Remarks, model.Bodies, model.Information)));
        Write(writer, model.Mesh.Coordinates);
        Write(writer, model.Mesh.Indices);
        Write(writer, model.FaceOfTriangle);
        foreach (var edge in model.Edges)
        {
            Write(writer, edge.Points);
        }

        Write(writer, model.CornerParameters);
        foreach (var surface in model.Faces.Select(f => f.Freeform).OfType<BSplineSurface>())
        {
            Write(writer, surface.KnotsU);
            Write(writer, surface.KnotsV);
            Write(writer, surface.Poles);
        }

        writer.Flush();
        return memory.ToArray();
    }

    /// <exception cref="BadInputException">Not a block written by <see cref="Save"/>.</exception>
    public static NominalModel Load(byte[] bytes)
    {
        using var reader = new BinaryReader(new MemoryStream(bytes));
        var magic = reader.ReadString();
        if (magic is not (Magic or Earlier))
        {
            throw new BadInputException("The stored nominal is of another version.");
        }

        var head = JsonSerializer.Deserialize<Head>(reader.ReadString())!;
        var mesh = new TriangleMesh(Doubles(reader), Ints(reader));
        var labels = Ints(reader);
        var faces = head.Faces.Select((f, id) =>
            new NominalFace(id, f.Kind, f.Area, f.Internal, f.Start, f.End, f.Sweep,
                Vector3D.FromArray(f.Center))
            { Shape = FromNumbers(f.Kind, f.Shape), Body = f.Body, Color = f.Color });
        var edges = head.EdgeFaces.Select(f => new NominalEdge(Doubles(reader), f)).ToList();
        var parameters = magic == Earlier ? [] : Floats(reader);
        var exact = faces.Select((f, id) => head.Faces[id].Freeform is { } s
            ? f with { Freeform = new(s.DegreeU, s.DegreeV, Doubles(reader), Doubles(reader), Doubles(reader)) }
            : f).ToList();
        return new(mesh, labels, exact, edges, head.ChordError, head.Remarks)
        {
            CornerParameters = parameters,
            Bodies = head.Bodies ?? [],
            Information = head.Information ?? ProductInformation.None,
        };
    }

    /// <summary>A shape as plain numbers: point, axis, sizes.</summary>
    public static double[]? Numbers(Shape? shape) => shape switch
    {
        Plane3D s => [.. s.Point.ToArray(), .. s.Normal.ToArray()],
        Line3D s => [.. s.Point.ToArray(), .. s.Direction.ToArray()],
        Circle3D s => [.. s.Center.ToArray(), .. s.Normal.ToArray(), s.Radius],
        Slot3D s => [.. s.Center.ToArray(), .. s.Normal.ToArray(), .. s.Direction.ToArray(), s.Length, s.Width],
        Cylinder3D s => [.. s.Point.ToArray(), .. s.Axis.ToArray(), s.Radius],
        Cone3D s => [.. s.Apex.ToArray(), .. s.Axis.ToArray(), s.HalfAngle],
        Sphere3D s => [.. s.Center.ToArray(), s.Radius],
        Torus3D s => [.. s.Center.ToArray(), .. s.Axis.ToArray(), s.MajorRadius, s.MinorRadius],
        _ => null,
    };

    /// <summary>The surface of a kind; null for another kind, or another number of numbers.</summary>
    internal static Shape? FromNumbers(string kind, double[]? n)
    {
        if (n is not { Length: > 3 })
        {
            return null;
        }

        var p = new Vector3D(n[0], n[1], n[2]);
        var a = n.Length > 5 ? new Vector3D(n[3], n[4], n[5]) : default;
        return (kind, n.Length) switch
        {
            ("plane", 6) => new Plane3D(p, a),
            ("cylinder", 7) => new Cylinder3D(p, a, n[6]),
            ("cone", 7) => new Cone3D(p, a, n[6]),
            ("sphere", 4) => new Sphere3D(p, n[3]),
            ("torus", 8) => new Torus3D(p, a, n[6], n[7]),
            _ => null,
        };
    }

    private static void Write<T>(BinaryWriter writer, T[] values)
        where T : struct
    {
        writer.Write(values.Length);
        writer.Write(MemoryMarshal.AsBytes(values.AsSpan()));
    }

    private static double[] Doubles(BinaryReader reader) => Values<double>(reader);

    private static float[] Floats(BinaryReader reader) => Values<float>(reader);

    private static int[] Ints(BinaryReader reader) => Values<int>(reader);

    private static T[] Values<T>(BinaryReader reader)
        where T : struct
    {
        var values = new T[reader.ReadInt32()];
        reader.BaseStream.ReadExactly(MemoryMarshal.AsBytes(values.AsSpan()));
        return values;
    }
}
