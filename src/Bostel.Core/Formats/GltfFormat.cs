using System.Buffers.Binary;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Formats;

/// <summary>
/// glTF 2.0, as .glb or as .gltf with its data inside: the triangles of the scene with the transforms of its nodes, in metres. Vertices are
/// doubled there wherever normals or textures break; those at the same place are welded.
/// </summary>
internal static class GltfFormat
{
    private const uint Magic = 0x46546C67;
    private const uint JsonChunk = 0x4E4F534A;
    private const uint BinaryChunk = 0x004E4942;
    private const int MostDepth = 32;
    /// <summary>Those that exporters use; others are not named, since errors quote nothing of a file.</summary>
    private static readonly string[] Compressions = ["KHR_draco_mesh_compression", "EXT_meshopt_compression", "KHR_mesh_quantization"];

    private const int MostTriangles = 60_000_000;

    public static MeshFile Read(ReadContext context)
    {
        try
        {
            var (json, binary) = Chunks(context);
            var root = JsonNode.Parse(json, documentOptions: new() { MaxDepth = 64 })?.AsObject()
                ?? throw context.Bad("the glTF has no content.");
            if (root["extensionsRequired"]?.AsArray() is { Count: > 0 } needed)
            {
                var known = Compressions.FirstOrDefault(c => needed.Any(e => (string?)e == c));
                throw context.Bad($"it needs {(known is null ? "an extension that is" : $"the extension {known}, which is")} not read; "
                    + "export it without compression.");
            }

            return new Scene(root, binary, context).Read();
        }
        catch (Exception e)
            when (e is JsonException or InvalidOperationException or FormatException or ArgumentOutOfRangeException
            or IndexOutOfRangeException or OverflowException)
        {
            throw context.Bad("the glTF is damaged: what its parts refer to does not fit together.", e);
        }
    }

    public static void Write(Stream stream, TriangleMesh mesh)
    {
        // Positions in metres about the centre, which a node adds again: single precision is then relative to the part, not to where it
        // lies.
        var center = mesh.Bounds.Center;
        var positions = new byte[12 * mesh.VertexCount];
        var (low, high) =
            (new float[] { float.MaxValue, float.MaxValue, float.MaxValue },
                new float[] { float.MinValue, float.MinValue, float.MinValue });
        for (var v = 0; v < mesh.VertexCount; v++)
        {
            var p = (mesh.Vertex(v) - center) / 1000;
            for (var k = 0; k < 3; k++)
            {
                var value = (float)p[k];
                BinaryPrimitives.WriteSingleLittleEndian(positions.AsSpan((12 * v) + (4 * k)), value);
                (low[k], high[k]) = (Math.Min(low[k], value), Math.Max(high[k], value));
            }
        }

        var primitive = new JsonObject { ["attributes"] = new JsonObject { ["POSITION"] = 0 }, ["mode"] = mesh.TriangleCount > 0 ? 4 : 0 };
        var accessors =
            new JsonArray(new JsonObject
            {
                ["bufferView"] = 0,
                ["componentType"] = 5126,
                ["count"] = mesh.VertexCount,
                ["type"] = "VEC3",
                ["min"] = Array(low),
                ["max"] = Array(high)
            });
        var views = new JsonArray(
            new JsonObject { ["buffer"] = 0, ["byteOffset"] = 0, ["byteLength"] = positions.Length, ["target"] = 34962 });
        var indices = new byte[4 * mesh.Indices.Length];
        if (mesh.TriangleCount > 0)
        {
            Buffer.BlockCopy(mesh.Indices, 0, indices, 0, indices.Length);
            primitive["indices"] = 1;
            accessors.Add((JsonNode)new JsonObject
            {
                ["bufferView"] = 1,
                ["componentType"] = 5125,
                ["count"] = mesh.Indices.Length,
                ["type"] = "SCALAR"
            });
            views.Add((JsonNode)new JsonObject
            {
                ["buffer"] = 0,
                ["byteOffset"] = positions.Length,
                ["byteLength"] = indices.Length,
                ["target"] = 34963
            });
        }

        var root = new JsonObject
        {
            ["asset"] = new JsonObject { ["version"] = "2.0", ["generator"] = "Bostel" },
            ["scene"] = 0,
            ["scenes"] = new JsonArray(new JsonObject { ["nodes"] = new JsonArray(0) }),
            ["nodes"] = new JsonArray(
                new JsonObject { ["mesh"] = 0, ["translation"] = new JsonArray(center.X / 1000, center.Y / 1000, center.Z / 1000) }),
            ["meshes"] = new JsonArray(new JsonObject { ["primitives"] = new JsonArray(primitive) }),
            ["accessors"] = accessors,
            ["bufferViews"] = views,
            ["buffers"] = new JsonArray(new JsonObject { ["byteLength"] = positions.Length + indices.Length }),
        };
        var text = Encoding.UTF8.GetBytes(root.ToJsonString());
        var padded = (text.Length + 3) / 4 * 4;
        using var writer = new BinaryWriter(stream, Encoding.UTF8, leaveOpen: true);
        writer.Write(Magic);
        writer.Write(2u);
        writer.Write((uint)(12 + 8 + padded + 8 + positions.Length + indices.Length));
        writer.Write((uint)padded);
        writer.Write(JsonChunk);
        writer.Write(text);
        writer.Write(Encoding.ASCII.GetBytes(new string(' ', padded - text.Length)));
        writer.Write((uint)(positions.Length + indices.Length));
        writer.Write(BinaryChunk);
        writer.Write(positions);
        writer.Write(indices);
    }

    private static JsonArray Array(float[] values) => new([.. values.Select(v => (JsonNode)v)]);

    private static (byte[] Json, ReadOnlyMemory<byte> Binary) Chunks(ReadContext context)
    {
        var bytes = context.Bytes;
        if (bytes.Length < 20 || BinaryPrimitives.ReadUInt32LittleEndian(bytes) != Magic)
        {
            return bytes.AsSpan().TrimStart(" \t\r\n"u8).StartsWith("{"u8)
                ? (bytes, default)
                : throw context.Bad("is neither a .glb nor a .gltf file.");
        }

        if (BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(4)) != 2)
        {
            throw context.Bad("only version 2 of glTF is read.");
        }

        byte[]? json = null;
        ReadOnlyMemory<byte> binary = default;
        for (long at = 12; at + 8 <= bytes.Length;)
        {
            long length = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan((int)at));
            var kind = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan((int)at + 4));
            if (at + 8 + length > bytes.Length)
            {
                throw context.Bad("the file is cut off: a part of it is missing.");
            }

            if (kind == JsonChunk)
            {
                json ??= bytes[((int)at + 8)..(int)(at + 8 + length)];
            }
            else if (kind == BinaryChunk)
            {
                binary = bytes.AsMemory((int)at + 8, (int)length);
            }

            at += 8 + ((length + 3) / 4 * 4);
        }

        return (json ?? throw context.Bad("the file has no description of its content."), binary);
    }

    private sealed class Scene(JsonObject root, ReadOnlyMemory<byte> binary, ReadContext context)
    {
        private readonly VertexWelder<DoubleKey> _welder = new(1024);
        private readonly List<int> _indices = [];
        private readonly Dictionary<int, ReadOnlyMemory<byte>> _buffers = [];
        private int _done;

        public MeshFile Read()
        {
            var scenes = root["scenes"]?.AsArray();
            var nodes = scenes is { Count: > 0 } ? scenes[(int?)root["scene"] ?? 0]!["nodes"]
                ?.AsArray() : [.. Enumerable.Range(0, List("nodes").Count).Select(i => (JsonNode)i)];
            foreach (var node in nodes ?? [])
            {
                Node((int)node!, Matrix.Identity, 0);
            }

            int[] settled = [.. _indices];
            _welder.Settle(settled);
            return new(new(_welder.Coordinates(), settled), "glTF", _done > 1 ? [$"{_done} meshes put together"] : []) { Unit = "m" };
        }

        private JsonArray List(string name) => root[name]?.AsArray() ?? throw context.Bad($"the glTF has no {name}.");

        private void Node(int index, Matrix above, int depth)
        {
            if (depth > MostDepth)
            {
                throw context.Bad("its nodes contain each other too deeply.");
            }

            var node = List("nodes")[index]!.AsObject();
            var here = above.Times(Matrix.Of(node));
            if ((int?)node["mesh"] is { } mesh)
            {
                foreach (var primitive in List("meshes")[mesh]!["primitives"]!.AsArray())
                {
                    Primitive(primitive!.AsObject(), here);
                }

                _done++;
            }

            foreach (var child in node["children"]?.AsArray() ?? [])
            {
                Node((int)child!, here, depth + 1);
            }
        }

        private void Primitive(JsonObject primitive, Matrix transform)
        {
            var mode = (int?)primitive["mode"] ?? 4;
            if (mode is not (4 or 5 or 6) || (int?)primitive["attributes"]?["POSITION"] is not { } position)
            {
                return;
            }

            var (bytes, stride, count, type) = Accessor(position, 3, 12);
            if (type != 5126)
            {
                throw context.Bad("positions are not single-precision numbers.");
            }

            var map = new int[count];
            for (var i = 0; i < count; i++)
            {
                var at = bytes.Span[(i * stride)..];
                var p = transform.Apply(new(BinaryPrimitives.ReadSingleLittleEndian(at), BinaryPrimitives.ReadSingleLittleEndian(at[4..]),
                    BinaryPrimitives.ReadSingleLittleEndian(at[8..])));
                map[i] = _welder.Add(new(p.X, p.Y, p.Z));
            }

            var corners = (int?)primitive["indices"] is { } accessor ? Corners(accessor) : [.. Enumerable.Range(0, count)];
            if (_indices.Count + corners.Length > 3 * MostTriangles)
            {
                throw context.Bad($"its parts add up to more than {MostTriangles} triangles: refused.");
            }

            for (var i = 0; i + 2 < corners.Length; i += mode == 4 ? 3 : 1)
            {
                var (a, b, c) = mode switch
                {
                    4 => (corners[i], corners[i + 1], corners[i + 2]),
                    5 => i % 2 == 0 ? (corners[i], corners[i + 1], corners[i + 2]) : (corners[i + 1], corners[i], corners[i + 2]),
                    _ => (corners[0], corners[i + 1], corners[i + 2]),
                };
                _indices.AddRange([map[a], map[b], map[c]]);
            }

            context.Report(_done, _done + 1);
        }

        private int[] Corners(int accessor)
        {
            var size = (int?)List("accessors")[accessor]!["componentType"] switch
            {
                5121 => 1,
                5123 => 2,
                5125 => 4,
                _ => throw context.Bad("indices are of a type that is not allowed.")
            };
            var (bytes, stride, count, _) = Accessor(accessor, 1, size);
            var corners = new int[count];
            for (var i = 0; i < count; i++)
            {
                var at = bytes.Span[(i * stride)..];
                corners[i] = size switch
                {
                    1 => at[0],
                    2 => BinaryPrimitives.ReadUInt16LittleEndian(at),
                    _ => checked((int)BinaryPrimitives.ReadUInt32LittleEndian(at))
                };
            }

            return corners;
        }

        private (ReadOnlyMemory<byte> Bytes, int Stride, int Count, int Type) Accessor(int index, int components, int size)
        {
            var accessor = List("accessors")[index]!.AsObject();
            if (accessor["sparse"] is not null || (int?)accessor["bufferView"] is not { } viewIndex)
            {
                throw context.Bad("sparse data is not read.");
            }

            if ((string?)accessor["type"] != (components == 3 ? "VEC3" : "SCALAR"))
            {
                throw context.Bad("an accessor is of another type than its use.");
            }

            var view = List("bufferViews")[viewIndex]!.AsObject();
            var stride = (int?)view["byteStride"] ?? size;
            var count = (int?)accessor["count"] ?? 0;
            var data = DataOf((int?)view["buffer"] ?? 0)
                .Slice((int?)view["byteOffset"] ?? 0, (int?)view["byteLength"] ?? 0)[((int?)accessor["byteOffset"] ?? 0)..];
            return count >= 1 && stride >= size && ((count - 1L) * stride) + size <= data.Length
                ? (data, stride, count, (int?)accessor["componentType"] ?? 0)
                : throw context.Bad("the file is cut off: an accessor reaches beyond its data.");
        }

        private ReadOnlyMemory<byte> DataOf(int buffer)
        {
            if (_buffers.TryGetValue(buffer, out var known))
            {
                return known;
            }

            var uri = (string?)List("buffers")[buffer]!["uri"];
            const string Inline = ";base64,";
            var data = uri is null ? binary
                : uri.StartsWith("data:", StringComparison.Ordinal) && uri.IndexOf(Inline, StringComparison.Ordinal) is var at and > 0
                    ? Convert.FromBase64String(uri[(at + Inline.Length)..])
                : throw context.Bad("its data lies in another file: save it as one .glb.");
            return _buffers[buffer] = data;
        }
    }

    /// <summary>An affine map, column-major as in the format.</summary>
    private sealed record Matrix(double[] M)
    {
        public static readonly Matrix Identity = new([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);

        public static Matrix Of(JsonObject node)
        {
            if (node["matrix"] is JsonArray given)
            {
                var m = given.Select(v => (double)v!).ToArray();
                return m.Length == 16 ? new(m) : throw new FormatException("matrix");
            }

            double[] Numbers(string name, double[] otherwise) =>
                node[name] is JsonArray a && a.Count == otherwise.Length ? [.. a.Select(v => (double)v!)] : otherwise;
            var t = Numbers("translation", [0, 0, 0]);
            var q = Numbers("rotation", [0, 0, 0, 1]);
            var s = Numbers("scale", [1, 1, 1]);
            var (x, y, z, w) = (q[0], q[1], q[2], q[3]);
            return new([
                s[0] * (1 - (2 * ((y * y) + (z * z)))), s[0] * 2 * ((x * y) + (z * w)), s[0] * 2 * ((x * z) - (y * w)), 0,
                s[1] * 2 * ((x * y) - (z * w)), s[1] * (1 - (2 * ((x * x) + (z * z)))), s[1] * 2 * ((y * z) + (x * w)), 0,
                s[2] * 2 * ((x * z) + (y * w)), s[2] * 2 * ((y * z) - (x * w)), s[2] * (1 - (2 * ((x * x) + (y * y)))), 0,
                t[0], t[1], t[2], 1,
            ]);
        }

        public Matrix Times(Matrix other)
        {
            var result = new double[16];
            for (var c = 0; c < 4; c++)
            {
                for (var r = 0; r < 4; r++)
                {
                    for (var k = 0; k < 4; k++)
                    {
                        result[(4 * c) + r] += M[(4 * k) + r] * other.M[(4 * c) + k];
                    }
                }
            }

            return new(result);
        }

        public Vector3D Apply(Vector3D p) => new(
            (M[0] * p.X) + (M[4] * p.Y) + (M[8] * p.Z) + M[12], (M[1] * p.X) + (M[5] * p.Y) + (M[9] * p.Z) + M[13],
            (M[2] * p.X) + (M[6] * p.Y) + (M[10] * p.Z) + M[14]);
    }
}
