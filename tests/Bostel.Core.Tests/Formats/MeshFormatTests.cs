using System.Globalization;
using System.Text;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Tests.Spatial;

namespace Bostel.Core.Tests.Formats;

public class MeshFormatTests
{
    [Theory]
    [InlineData("a.stl")]
    [InlineData("a.ply")]
    [InlineData("a.obj")]
    public void WhatIsWrittenIsReadBack(string name)
    {
        var cube = ClosestPointTests.Cube();
        var back = Read(name, Written(name, cube)).Mesh;
        Assert.Equal((8, 12), (back.VertexCount, back.TriangleCount));
        Assert.Equal(6, back.Area(), 1e-6);
        Assert.Equal(0, MeshTopology.Build(back).BoundaryEdges);
    }

    [Fact]
    public void TextFormsAreReadAlike()
    {
        var solid = new StringBuilder("solid cube\n");
        var cube = ClosestPointTests.Cube();
        for (var t = 0; t < cube.TriangleCount; t++)
        {
            var (a, b, c) = cube.Triangle(t);
            solid.Append("facet normal 0 0 0\n outer loop\n");
            foreach (var p in new[] { a, b, c })
            {
                solid.Append(CultureInfo.InvariantCulture, $"  vertex {p.X} {p.Y} {p.Z}\n");
            }

            solid.Append(" endloop\nendfacet\n");
        }

        solid.Append("endsolid cube\n");
        Assert.Equal(12, Read("a.stl", solid.ToString()).Mesh.TriangleCount);
        const string Ply = "ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nproperty "
            + "uchar red\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0 9\n1 0 0 9\n1 1 0 9\n0 1 0 9\n4 0 1 "
            + "2 3\n";
        Assert.Equal((4, 2), (Read("a.ply", Ply).Mesh.VertexCount, Read("a.ply", Ply).Mesh.TriangleCount));
        Assert.Equal(2, Read("a.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1/1 2/2 3/3 -1\n").Mesh.TriangleCount);
        Assert.Equal(3, Read("a.xyz", "x y z\n# note\n1 2 3\n4;5;6\n7,8,9 0.1 0.2\n").Mesh.VertexCount);
    }

    /// <summary>
    /// Corners equal in every bit are one vertex, in the order of their first appearance; −0 is 0. Read in pieces or as a whole alike.
    /// </summary>
    [Fact]
    public void CornersAreWeldedBitByBit()
    {
        const int Triangles = 20_000;
        var random = new Random(6);
        var bytes = new byte[84 + (50 * Triangles)];
        BitConverter.TryWriteBytes(bytes.AsSpan(80), Triangles);
        var numbers = new Dictionary<(float, float, float), int>();
        var expected = new List<int>();
        for (var t = 0; t < Triangles; t++)
        {
            // Three different points of a grid of 40 × 30 × 20 about the origin; zeros of either sign.
            var seen = new HashSet<(float, float, float)>();
            while (seen.Count < 3)
            {
                float Along(int n) => (random.Next(n) - 5) * 0.1f is var c && c == 0 && random.Next(2) == 0 ? -0f : c;
                var p = (Along(40), Along(30), Along(20));
                if (!seen.Add((p.Item1 + 0f, p.Item2 + 0f, p.Item3 + 0f)))
                {
                    continue;
                }

                var at = 84 + (50 * t) + 12 + (12 * (seen.Count - 1));
                BitConverter.TryWriteBytes(bytes.AsSpan(at), p.Item1);
                BitConverter.TryWriteBytes(bytes.AsSpan(at + 4), p.Item2);
                BitConverter.TryWriteBytes(bytes.AsSpan(at + 8), p.Item3);
                expected.Add(numbers.TryGetValue(p, out var known) ? known : numbers[p] = numbers.Count);
            }
        }

        using var unseekable = new System.IO.Compression.BrotliStream(
            new MemoryStream(Packed(bytes)), System.IO.Compression.CompressionMode.Decompress);
        foreach (var mesh in (TriangleMesh[])[Read("a.stl", bytes).Mesh, MeshFormats.Read(unseekable, "a.stl").Mesh])
        {
            Assert.Equal(expected, mesh.Indices);
            Assert.Equal(
                numbers.OrderBy(n => n.Value).SelectMany(n => new double[] { n.Key.Item1, n.Key.Item2, n.Key.Item3 }), mesh.Coordinates);
        }
    }

    private static byte[] Packed(byte[] bytes)
    {
        using var memory = new MemoryStream();
        using (var brotli = new System.IO.Compression.BrotliStream(memory, System.IO.Compression.CompressionLevel.Fastest))
        {
            brotli.Write(bytes);
        }

        return memory.ToArray();
    }

    /// <summary>A binary STL that begins with "solid" is still binary: the size its count implies decides.</summary>
    [Fact]
    public void ABinaryStlMayBeginWithTheWordSolid()
    {
        var bytes = Written("a.stl", ClosestPointTests.Cube());
        "solid part"u8.CopyTo(bytes);
        Assert.Equal("STL binary", Read("a.stl", bytes).Format);
    }

    public static TheoryData<string, string, string> BadFiles() => new()
    {
        { "empty.stl", "", "empty" },
        { "short.stl", "abc", "too short" },
        { "wrong.pdf", "%PDF", "not a mesh or point format" },
        { "cut.stl", "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\n", "cut off" },
        { "text.stl", "solid a\nvertex 0 zero 0\nendsolid\n", "line 2 is not a vertex" },
        { "none.stl", "solid a\nendsolid a\n", "no triangles" },
        { "nan.obj", "v 0 0 0\nv NaN 0 0\nv 0 1 0\nf 1 2 3\n", "not finite" },
        { "index.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 7\n", "refers to vertex" },
        { "zero.obj", "v 0 0 0\nf 0 1 1\n", "does not exist" },
        { "words.xyz", "1 2 3\nand so on\n", "line 2 is not a point" },
        { "head.ply", "plough\n", "not a PLY file" },
        { "huge.ply", "ply\nformat binary_little_endian 1.0\nelement vertex 900000000\nproperty double x\nproperty double y\nproperty "
            + "double z\nend_header\n", "announces more data than it holds" },
        { "polygon.ply", "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nelement face 1\n"
            + "property list int int vertex_indices\nend_header\n0 0 0\n2000000 1 2\n", "announces 2000000 corners" },
        { "point.xyz", "5 5 5\n5 5 5\n", "size of 0" },
    };

    [Theory]
    [MemberData(nameof(BadFiles))]
    public void ABadFileGivesOneSentenceThatNamesIt(string name, string content, string message)
    {
        var error = Assert.Throws<BadInputException>(() => Read(name, content));
        Assert.StartsWith(name, error.Message, StringComparison.Ordinal);
        Assert.Contains(message, error.Message, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', error.Message);
    }

    /// <summary>Any damage to a good file ends in a mesh or in one clear error, never in another exception.</summary>
    [Theory]
    [InlineData("a.stl")]
    [InlineData("a.ply")]
    [InlineData("a.obj")]
    public void DamagedFilesNeverFailOtherwise(string name)
    {
        var good = Written(name, ClosestPointTests.Cube());
        var random = new Random(77);
        for (var k = 0; k < 300; k++)
        {
            var bad = (byte[])good.Clone();
            for (var i = 0; i < 1 + random.Next(4); i++)
            {
                bad[random.Next(bad.Length)] = (byte)random.Next(256);
            }

            bad = bad[..random.Next(1, bad.Length + 1)];
            var error = Record.Exception(() => Read(name, bad));
            Assert.True(error is null or BadInputException, $"damage {k}: {error}");
        }
    }

    [Theory]
    [InlineData(217, 217, "mm", "mm", true)]
    [InlineData(8.55, 217, "mm", "inch", false)]
    [InlineData(0.22, 217, "mm", "m", false)]
    [InlineData(21.5, 217, "mm", "cm", false)]
    [InlineData(280, 217, "mm", "mm", true)]
    public void TheUnitIsGuessedFromTheSize(double raw, double nominal, string current, string unit, bool agrees) =>
        Assert.Equal((unit, agrees), LengthUnit.Guess(raw, nominal, current));

    private static byte[] Written(string name, TriangleMesh mesh)
    {
        using var memory = new MemoryStream();
        MeshFormats.Write(memory, name, mesh);
        return memory.ToArray();
    }

    private static MeshFile Read(string name, string text) => Read(name, Encoding.UTF8.GetBytes(text));

    private static MeshFile Read(string name, byte[] bytes) => MeshFormats.Read(new MemoryStream(bytes), name);
}
