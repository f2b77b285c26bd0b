using System.Globalization;
using System.IO.Compression;
using System.Xml;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Formats;

/// <summary>
/// 3MF: a ZIP package with a model in XML. Objects, components and build items with their transforms are put together into one mesh, equal
/// points welded. Nothing in the package is ever written to disk, and what unpacks to more than it may is refused.
/// </summary>
internal static class ThreeMfFormat
{
    private const string Core = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02";
    private const long MostModelBytes = 4L << 30;
    private const long MostRatio = 400;
    private const int MostDepth = 16;
    private const int MostTriangles = 60_000_000;

    private sealed record Component(int Object, double[]? Transform);

    private sealed class Body
    {
        public List<double> Points { get; } = [];
        public List<int> Triangles { get; } = [];
        public List<Component> Components { get; } = [];
    }

    public static MeshFile Read(ReadContext context)
    {
        try
        {
            using var package = new ZipArchive(new MemoryStream(context.Bytes, writable: false), ZipArchiveMode.Read);
            var entry = package.Entries.FirstOrDefault(e => e.FullName.EndsWith(".model", StringComparison.OrdinalIgnoreCase)
                && e.FullName.StartsWith("3D/", StringComparison.OrdinalIgnoreCase))
                ?? package.Entries.FirstOrDefault(e => e.FullName.EndsWith(".model", StringComparison.OrdinalIgnoreCase))
                ?? throw context.Bad("the package holds no 3D model.");
            if (entry.Length > MostModelBytes || entry.Length > (MostRatio * Math.Max(1, entry.CompressedLength)) + (1 << 20))
            {
                throw context.Bad($"the model unpacks from {entry.CompressedLength} to {entry.Length} bytes: refused.");
            }

            using var stream = new Bounded(entry.Open(), entry.Length + 1, context);
            return Parse(stream, entry.Length, context);
        }
        catch (InvalidDataException e)
        {
            throw context.Bad("is not a readable 3MF package; the file may be damaged.", e);
        }
        catch (XmlException e)
        {
            throw context.Bad("the model in the package is damaged.", e);
        }
    }

    public static void Write(Stream stream, TriangleMesh mesh)
    {
        using var package = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true);
        Text(package, "[Content_Types].xml", """
            <?xml version="1.0" encoding="UTF-8"?>
            <Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">
            <Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
            <Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/>
            </Types>
            """);
        Text(package, "_rels/.rels", """
            <?xml version="1.0" encoding="UTF-8"?>
            <Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">
            <Relationship Id="rel0" Target="/3D/3dmodel.model" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/>
            </Relationships>
            """);
        using var writer = XmlWriter.Create(package.CreateEntry("3D/3dmodel.model").Open(), new() { CloseOutput = true });
        writer.WriteStartElement("model", Core);
        writer.WriteAttributeString("unit", "millimeter");
        writer.WriteStartElement("resources", Core);
        writer.WriteStartElement("object", Core);
        writer.WriteAttributeString("id", "1");
        writer.WriteAttributeString("type", "model");
        writer.WriteStartElement("mesh", Core);
        writer.WriteStartElement("vertices", Core);
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            var p = mesh.Vertex(v);
            Numbers(writer, "vertex", ("x", p.X), ("y", p.Y), ("z", p.Z));
        }

        writer.WriteEndElement();
        writer.WriteStartElement("triangles", Core);
        for (var i = 0; i < mesh.Indices.Length; i += 3)
        {
            Numbers(writer, "triangle", ("v1", mesh.Indices[i]), ("v2", mesh.Indices[i + 1]), ("v3", mesh.Indices[i + 2]));
        }

        writer.WriteEndElement();
        writer.WriteEndElement();
        writer.WriteEndElement();
        writer.WriteEndElement();
        writer.WriteStartElement("build", Core);
        writer.WriteStartElement("item", Core);
        writer.WriteAttributeString("objectid", "1");
        writer.WriteEndElement();
        writer.WriteEndElement();
        writer.WriteEndElement();
    }

    private static void Text(ZipArchive package, string name, string text)
    {
        using var writer = new StreamWriter(package.CreateEntry(name).Open());
        writer.Write(text);
    }

    private static void Numbers(XmlWriter writer, string element, params ReadOnlySpan<(string Name, double Value)> attributes)
    {
        writer.WriteStartElement(element, Core);
        foreach (var (name, value) in attributes)
        {
            writer.WriteAttributeString(name, value.ToString("R", CultureInfo.InvariantCulture));
        }

        writer.WriteEndElement();
    }

    private static MeshFile Parse(Stream stream, long length, ReadContext context)
    {
        var bodies = new Dictionary<int, Body>();
        var items = new List<Component>();
        var unit = "millimeter";
        Body? body = null;
        using var reader = XmlReader.Create(
            stream, new() { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null, MaxCharactersFromEntities = 1024 });
        for (long n = 0; reader.Read(); n++)
        {
            if ((n & 0xFFFF) == 0)
            {
                context.Report(stream.Position, length);
            }

            // Some writers leave the namespace out; elements of extensions have one of their own.
            if (reader.NodeType != XmlNodeType.Element || (reader.NamespaceURI != Core && reader.NamespaceURI.Length > 0))
            {
                continue;
            }

            switch (reader.LocalName)
            {
                case "model":
                    unit = reader.GetAttribute("unit") ?? unit;
                    break;
                case "object":
                    bodies[Whole(reader, "id", context)] = body = new();
                    break;
                case "vertex" when body is not null:
                    body.Points.AddRange([Number(reader, "x", context), Number(reader, "y", context), Number(reader, "z", context)]);
                    break;
                case "triangle" when body is not null:
                    body.Triangles.AddRange([Whole(reader, "v1", context), Whole(reader, "v2", context), Whole(reader, "v3", context)]);
                    break;
                case "component" when body is not null:
                    body.Components.Add(new(Whole(reader, "objectid", context), Transform(reader, context)));
                    break;
                case "item":
                    items.Add(new(Whole(reader, "objectid", context), Transform(reader, context)));
                    break;
                default:
                    break;
            }
        }

        var welder = new VertexWelder<DoubleKey>(1024);
        var indices = new List<int>();
        foreach (var item in items)
        {
            Place(item, [], 0);
        }

        var (name, factor) = unit switch
        {
            "millimeter" => ("mm", 1),
            "centimeter" => ("cm", 1),
            "meter" => ("m", 1),
            "inch" => ("inch", 1),
            "micron" => ("mm", 1e-3),
            "foot" => ("inch", 12.0),
            _ => throw context.Bad("its unit is none that 3MF has."),
        };
        int[] settled = [.. indices];
        welder.Settle(settled);
        return new(new TriangleMesh(welder.Coordinates(), settled).Scaled(factor), "3MF",
            items.Count > 1 ? [$"{items.Count} objects put together"] : [])
        { Unit = name };

        void Place(Component component, List<double[]> transforms, int depth)
        {
            if (depth > MostDepth)
            {
                throw context.Bad("its components contain each other too deeply.");
            }

            if (!bodies.TryGetValue(component.Object, out var placed))
            {
                throw context.Bad($"it refers to object {component.Object}, which is not there.");
            }

            List<double[]> all = component.Transform is null ? transforms : [component.Transform, .. transforms];
            if (indices.Count + placed.Triangles.Count > 3 * MostTriangles)
            {
                throw context.Bad($"its components add up to more than {MostTriangles} triangles: refused.");
            }

            var numbers = new int[placed.Points.Count / 3];
            for (var i = 0; i < placed.Points.Count; i += 3)
            {
                var p = new Vector3D(placed.Points[i], placed.Points[i + 1], placed.Points[i + 2]);
                foreach (var t in all)
                {
                    p = Apply(t, p);
                }

                numbers[i / 3] = welder.Add(new(p.X, p.Y, p.Z));
            }

            foreach (var index in placed.Triangles)
            {
                indices.Add((uint)index < (uint)numbers.Length
                    ? numbers[index]
                    : throw context.Bad($"a triangle refers to vertex {index}, but the object has {numbers.Length}."));
            }

            foreach (var inner in placed.Components)
            {
                Place(inner, all, depth + 1);
            }
        }
    }

    /// <summary>Row vectors times a 4 × 3 matrix, as the format has it.</summary>
    private static Vector3D Apply(double[] m, Vector3D p) => new(
        (p.X * m[0]) + (p.Y * m[3]) + (p.Z * m[6]) + m[9], (p.X * m[1]) + (p.Y * m[4]) + (p.Z * m[7]) + m[10],
        (p.X * m[2]) + (p.Y * m[5]) + (p.Z * m[8]) + m[11]);

    private static double[]? Transform(XmlReader reader, ReadContext context)
    {
        if (reader.GetAttribute("transform") is not { } text)
        {
            return null;
        }

        var words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var numbers = words.Select(w => double.TryParse(w, NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
            && double.IsFinite(v) ? v : double.NaN).ToArray();
        return numbers.Length == 12 && !numbers.Any(double.IsNaN) ? numbers : throw context.Bad($"a transform is not twelve numbers.");
    }

    private static double Number(XmlReader reader, string name, ReadContext context) =>
        double.TryParse(reader.GetAttribute(name), NumberStyles.Float, CultureInfo.InvariantCulture, out var v)
            ? v
            : throw context.Bad($"a {reader.LocalName} has no number {name}.");

    private static int Whole(XmlReader reader, string name, ReadContext context) =>
        int.TryParse(reader.GetAttribute(name), NumberStyles.None, CultureInfo.InvariantCulture, out var v)
            ? v
            : throw context.Bad($"a {reader.LocalName} has no whole number {name}.");

    /// <summary>Stops a stream that unpacks to more than its entry says.</summary>
    private sealed class Bounded(Stream inner, long most, ReadContext context) : Stream
    {
        private long _read;

        public override bool CanRead => true;
        public override bool CanSeek => false;
        public override bool CanWrite => false;
        public override long Length => throw new NotSupportedException();

        public override long Position
        {
            get => _read;
            set => throw new NotSupportedException();
        }

        public override int Read(byte[] buffer, int offset, int count)
        {
            var read = inner.Read(buffer, offset, count);
            _read += read;
            return _read > most ? throw context.Bad("the package unpacks to more than it says: refused.") : read;
        }

        public override void Flush() => inner.Flush();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

        protected override void Dispose(bool disposing)
        {
            if (disposing)
            {
                inner.Dispose();
            }

            base.Dispose(disposing);
        }
    }
}
