using System.Text.Json;
using Bostel.Core.Formats;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;

namespace Bostel.Core.Tests.Formats;

/// <summary>Files that independent libraries wrote, against the areas and volumes those libraries state.</summary>
public class ForeignFileTests
{
    private static readonly string Folder = Path.Combine(AppContext.BaseDirectory, "Data", "formats");
    private static readonly JsonElement Expected = JsonDocument.Parse(File.ReadAllText(Path.Combine(Folder, "expected.json"))).RootElement;

    [Theory]
    [InlineData("torus-binary.stl", 1e-5)]
    [InlineData("torus-text.stl", 1e-9)]
    [InlineData("torus.obj", 1e-9)]
    [InlineData("torus-text.ply", 1e-9)]
    [InlineData("torus-little.ply", 1e-5)]
    [InlineData("torus-big.ply", 1e-5)]
    [InlineData("torus.glb", 1e-5)]
    [InlineData("torus.gltf", 1e-5)]
    public void ATorusIsTheTorusThatWasWritten(string name, double relative)
    {
        var file = Read(name);
        var torus = Expected.GetProperty("torus");
        Assert.Equal(torus.GetProperty("triangles").GetInt32(), file.Mesh.TriangleCount);
        Assert.Equal(torus.GetProperty("area").GetDouble(), file.Mesh.Area(), relative * torus.GetProperty("area").GetDouble());

        // The exporters double the vertices of the seams; where a format does not weld, the volume is that of the open seams and still the
        // same.
        Assert.Equal(torus.GetProperty("volume").GetDouble(), Math.Abs(Shapes.Volume(file.Mesh)),
            10 * relative * torus.GetProperty("volume").GetDouble());
    }

    [Fact]
    public void VerticesDoubledForNormalsAreOneAgain()
    {
        // In single precision the two sides of a seam differ in the last bit, so only most are welded exactly.
        var mesh = Read("torus.glb").Mesh;
        Assert.InRange(mesh.VertexCount, 288, 325);
        Assert.Equal("m", Read("torus.glb").Unit);
    }

    [Fact]
    public void APackageOfTwoBoxesSaysItsUnit()
    {
        var file = Read("boxes.3mf");
        Assert.Equal("inch", file.Unit);
        Check(file.Mesh);
    }

    [Theory]
    [InlineData("boxes-text.stl")]
    [InlineData("boxes.obj")]
    public void TwoBoxesAreTwoClosedPieces(string name) => Check(Read(name).Mesh);

    private static void Check(TriangleMesh mesh)
    {
        var boxes = Expected.GetProperty("boxes");
        Assert.Equal(boxes.GetProperty("area").GetDouble(), mesh.Area(), 6);
        Assert.Equal(boxes.GetProperty("volume").GetDouble(), Shapes.Volume(mesh), 5);
        var sheet = MeshSheet.Of(mesh);
        Assert.Equal((2, true, 0), (sheet.Pieces, sheet.Closed, sheet.FlippedEdges));
    }

    private static MeshFile Read(string name)
    {
        using var stream = File.OpenRead(Path.Combine(Folder, name));
        return MeshFormats.Read(stream, name);
    }
}
