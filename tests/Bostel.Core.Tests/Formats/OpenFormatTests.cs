using System.IO.Compression;
using System.Text;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Formats;

/// <summary>Every format there and back, and what each of them may hold.</summary>
public class OpenFormatTests
{
    [Theory]
    [InlineData("a.stl", 1e-6)]
    [InlineData("a.ply", 0)]
    [InlineData("a.obj", 0)]
    [InlineData("a.3mf", 0)]
    [InlineData("a.glb", 1e-5)]
    public void AMeshComesBackPointForPoint(string name, double within)
    {
        var sphere = Shapes.Sphere(12.3, 2).Transformed(RigidTransform.FromTranslation(new(7, -40, 3)));
        using var memory = new MemoryStream();
        MeshFormats.Write(memory, name, sphere);
        var file = Read(name, memory.ToArray());
        var back = file.Mesh.Scaled(LengthUnit.Factor(file.Unit ?? "mm"));
        Assert.Equal((sphere.VertexCount, sphere.TriangleCount), (back.VertexCount, back.TriangleCount));
        for (var t = 0; t < sphere.TriangleCount; t++)
        {
            var ((a, b, c), (p, q, r)) = (sphere.Triangle(t), back.Triangle(t));
            Assert.InRange(Vector3D.Distance(a, p) + Vector3D.Distance(b, q) + Vector3D.Distance(c, r), 0, 10 * within);
        }
    }

    [Theory]
    [InlineData("a.ply")]
    [InlineData("a.xyz")]
    public void TheDeviationIsWrittenAlong(string name)
    {
        using var memory = new MemoryStream();
        MeshFormats.Write(memory, name, new([1, 2, 3, 4, 5, 6], []), [0.25f, -0.5f]);
        var text = Encoding.Latin1.GetString(memory.ToArray());
        if (name == "a.ply")
        {
            Assert.Contains("property float deviation", text, StringComparison.Ordinal);
            Assert.Equal(-0.5f, BitConverter.ToSingle(memory.ToArray().AsSpan()[^4..]));
        }
        else
        {
            Assert.Equal("1 2 3 0.25\n4 5 6 -0.5\n", text);
        }
    }

    [Theory]
    [InlineData("OFF\n4 2 0\n0 0 0\n1 0 0\n1 1 0\n0 1 0\n4 0 1 2 3\n3 0 2 1\n", 3)]
    [InlineData("OFF 4 1 5 # counts\n# note\n0 0 0\n1 0 0 # corner\n\n1 1 0\n0 1 0\n4 0 1 2 3 255 0 0\n", 2)]
    [InlineData("CNOFF\n3 1 0\n0 0 0 0 0 1 255 255 255 255\n1 0 0 0 0 1 255 255 255 255\n0 1 0 0 0 1 255 255 255 255\n3 0 1 2\n", 1)]
    public void OffIsReadWithCommentsColoursAndPolygons(string text, int triangles) =>
        Assert.Equal(triangles, Read("a.off", text).Mesh.TriangleCount);

    [Theory]
    [InlineData("x y z\n1 2 3\n4 5 6\n", "x y z", 1, 2, 3)]
    [InlineData("z;y;x\n3;2;1\n6;5;4\n", "z y x", 1, 2, 3)]
    [InlineData("1,5 2,5 3,5\n4,5 5 6\n7 8,25 9\n", ",x y z", 1.5, 2.5, 3.5)]
    [InlineData("1,5;2,5;3,5\n4;5;6\n", ",x y z", 1.5, 2.5, 3.5)]
    [InlineData("0 9 8 7\n1 6 5 4\n2 3 2 1\n", "- x y z", 9, 8, 7)]
    [InlineData("# cloud\n1 2 3 0 0 1\n4 5 6 0.6 0.8 0\n", "x y z nx ny nz", 1, 2, 3)]
    [InlineData("2\n1 2 3 -120 10 20 30\n4 5 6 -80 1 2 3\n", "x y z - - - -", 1, 2, 3)]
    [InlineData("X,Y,Z,Nx,Ny,Nz,label\n1,2,3,0,0,1,7\n4,5,6,1,0,0,9\n", "x y z nx ny nz -", 1, 2, 3)]
    [InlineData("// a heading\n1 2 3 40 0 0 1\n4 5 6 41 0 1 0\n", "x y z - nx ny nz", 1, 2, 3)]
    public void ColumnsOfAnyOrderAreGuessed(string text, string columns, double x, double y, double z)
    {
        var file = Read("a.xyz", text);
        Assert.Equal(columns, file.Columns!.ToString());
        Assert.Equal(new Vector3D(x, y, z), file.Mesh.Vertex(0));
        Assert.Equal(columns.Contains("nx", StringComparison.Ordinal), file.Mesh.HasNormals);
    }

    [Fact]
    public void TheGuessCanBeOverruled()
    {
        using var stream = new MemoryStream("1 2 3 9\n4 5 6 9\n"u8.ToArray());
        var file = MeshFormats.Read(stream, "a.xyz", null, default, PointColumns.Parse("- z x y"));
        Assert.Equal(new Vector3D(3, 9, 2), file.Mesh.Vertex(0));
        Assert.Equal(",x y z", PointColumns.Parse(",x y z").ToString());
        foreach (var wrong in (string[])["x y", "x y z z", "x y z nx", "a b c"])
        {
            Assert.Contains("columns", Assert.Throws<BadInputException>(() => PointColumns.Parse(wrong)).Message, StringComparison.Ordinal);
        }
    }

    [Fact]
    public void ACloudInPlyKeepsItsNormals()
    {
        const string Head = "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n"
            + "property float nx\nproperty float ny\nproperty float nz\nproperty uchar red\n";
        var cloud = Read("a.ply", Head + "end_header\n0 0 0 0 0 1 9\n1 0 0 0 1 0 9\n1 1 0 1 0 0 9\n").Mesh;
        Assert.True(cloud.HasNormals);
        Assert.Equal(Vector3D.UnitY, cloud.Normal(1));

        // A mesh has the normals of its triangles.
        const string Face = "element face 1\nproperty list uchar int vertex_indices\nend_header\n";
        var mesh = Read("a.ply", Head + Face + "0 0 0 0 1 0 9\n1 0 0 0 1 0 9\n1 1 0 0 1 0 9\n3 0 1 2\n").Mesh;
        Assert.Null(mesh.PointNormals);
        Assert.Equal(Vector3D.UnitZ, mesh.Normal(0));
    }

    [Fact]
    public void NormalsOfACloudTurnWithIt()
    {
        var cloud = Read("a.xyz", "1 0 0 1 0 0\n0 1 0 0 1 0\n").Mesh;
        var turned = cloud.Transformed(RigidTransform.FromAxisAngle(Vector3D.UnitZ, Math.PI / 2));
        Assert.InRange(Vector3D.Distance(turned.Normal(0), Vector3D.UnitY), 0, 1e-6);
        Assert.InRange(Vector3D.Distance(cloud.KeepPoints(v => v == 1).Normal(0), Vector3D.UnitY), 0, 1e-6);
    }

    [Fact]
    public void APackageWithComponentsPutsThemTogether()
    {
        // One square used twice through a component that is shifted and turned a quarter about z; in micron.
        const string Model = """
            <model unit="micron" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>
            <object id="1"><mesh>
            <vertices><vertex x="0" y="0" z="0"/><vertex x="1000" y="0" z="0"/><vertex x="1000" y="1000" z="0"/></vertices>
            <triangles><triangle v1="0" v2="1" v3="2"/></triangles>
            </mesh></object>
            <object id="2"><components>
            <component objectid="1"/><component objectid="1" transform="0 1 0 -1 0 0 0 0 1 5000 0 0"/>
            </components></object>
            </resources><build><item objectid="2" transform="1 0 0 0 1 0 0 0 1 0 0 2000"/></build></model>
            """;
        var file = Read("a.3mf", Package(Model));
        Assert.Equal(("mm", 2), (file.Unit, file.Mesh.TriangleCount));
        Assert.Equal(1.0, file.Mesh.Area(), 12);

        // (1, 1, 0) → (−1, 1) + (5, 0), raised by 2.
        Assert.InRange(Vector3D.Distance(file.Mesh.Triangle(1).C, new(4, 1, 2)), 0, 1e-12);
    }

    [Theory]
    [InlineData(
        "<model xmlns=\"X\"><resources><object id=\"1\"><components><component objectid=\"1\"/></components></object></resources>"
        + "<build><item objectid=\"1\"/></build></model>", "too deeply")]
    [InlineData("<model xmlns=\"X\"><resources/><build><item objectid=\"7\"/></build></model>", "object 7")]
    [InlineData("<model unit=\"ell\" xmlns=\"X\"><resources/><build/></model>", "its unit is none")]
    [InlineData(
        "<model xmlns=\"X\"><resources><object id=\"1\"><mesh><vertices><vertex x=\"0\" y=\"0\"/></vertices></mesh></object>"
        + "</resources></model>", "number z")]
    [InlineData("<!DOCTYPE a [<!ENTITY b \"c\">]><model xmlns=\"X\">&b;</model>", "damaged")]
    [InlineData("<model xmlns=\"X\"><resources>", "damaged")]
    public void ABadPackageSaysWhatIsWrong(string model, string said)
    {
        var bytes = Package(
            model.Replace("\"X\"", "\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\"", StringComparison.Ordinal));
        Assert.Contains(said, Assert.Throws<BadInputException>(() => Read("a.3mf", bytes)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void APackageThatUnpacksWithoutEndIsRefused()
    {
        var bomb = Package(new string(' ', 64 << 20));
        Assert.True(bomb.Length < 200_000);
        Assert.Contains("refused", Assert.Throws<BadInputException>(() => Read("a.3mf", bomb)).Message, StringComparison.Ordinal);
    }

    private const string OneMesh =
        """{"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],""";

    private const string OneBuffer = """ "bufferViews":[{"buffer":0,"byteLength":12}],"buffers":[{"byteLength":12,"uri":""";

    [Theory]
    [InlineData("""{"asset":{"version":"2.0"},"extensionsRequired":["KHR_draco_mesh_compression"]}""", "KHR_draco_mesh_compression")]
    [InlineData("""{"scenes":[{"nodes":[0]}],"nodes":[{"children":[0]}]}""", "too deeply")]
    [InlineData("""{"scenes":[{"nodes":[3]}],"nodes":[]}""", "damaged")]
    [InlineData(OneMesh + """ "accessors":[{"bufferView":0,"componentType":5126,"count":900000,"type":"VEC3"}],""" + OneBuffer
        + "\"data:x;base64,AAAAAAAAAAAAAAAA\"}]}", "beyond its data")]
    [InlineData(OneMesh + """ "accessors":[{"bufferView":0,"componentType":5126,"count":1,"type":"VEC3"}],""" + OneBuffer
        + "\"../../etc/passwd\"}]}", "another file")]
    [InlineData("{ not json", "damaged")]
    public void ABadGltfSaysWhatIsWrong(string json, string said) =>
        Assert.Contains(said, Assert.Throws<BadInputException>(() => Read("a.gltf", json)).Message, StringComparison.Ordinal);

    [Theory]
    [InlineData(0u)]
    [InlineData(uint.MaxValue)]
    public void AnStlWhoseCountWasNeverFilledInIsReadToItsEnd(uint count)
    {
        using var memory = new MemoryStream();
        MeshFormats.Write(memory, "a.stl", Shapes.Cube(1, 2));
        var bytes = memory.ToArray();
        BitConverter.TryWriteBytes(bytes.AsSpan(80), count);
        var file = Read("a.stl", bytes);
        Assert.Equal(48, file.Mesh.TriangleCount);
        Assert.Contains("holds 48", Assert.Single(file.Remarks), StringComparison.Ordinal);
        Assert.Single(Read("a.stl", [.. memory.ToArray(), 1, 2, 3]).Remarks);
    }

    private static byte[] Package(string model)
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            using var writer = new StreamWriter(zip.CreateEntry("3D/3dmodel.model").Open());
            writer.Write(model);
        }

        return memory.ToArray();
    }

    private static MeshFile Read(string name, string text) => Read(name, Encoding.UTF8.GetBytes(text));

    private static MeshFile Read(string name, byte[] bytes)
    {
        using var stream = new MemoryStream(bytes);
        return MeshFormats.Read(stream, name);
    }
}
