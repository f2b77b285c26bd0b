using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Segmentation;

namespace Bostel.Core.Tests.Features;

/// <summary>Distances of faces of a block of 10 mm whose top rises evenly by 0.1 mm along x.</summary>
public class FaceDistanceTests
{
    private const double Side = 10, Rise = 0.1;
    private static readonly NominalModel Block = CadMeshSegmentation.Recognise(Shapes.Cube(Side, 1));
    private static readonly int Top = Face(Vector3D.UnitZ), Floor = Face(-Vector3D.UnitZ), Wall = Face(-Vector3D.UnitX);

    /// <summary>Straight beneath each place of the top lies one of the floor: its distance is the height there.</summary>
    [Fact]
    public void OppositeFacesAreAsFarApartAsTheBlockIsHigh()
    {
        var found = FaceDistance.Between(Top, Floor, Scan(), Block, 1);
        Assert.Equal(new Apart(Side, Side, Side), found.Nominal);

        // Points of the rims may belong to the walls: the outermost of the top lies a spacing, 0.5 mm, inside.
        Assert.Equal(Side, found.Measured!.Nearest, 0.5 * Rise / Side);
        Assert.Equal(Side + Rise, found.Measured.Farthest, 0.5 * Rise / Side);
        Assert.Equal(Side + (Rise / 2), found.Measured.Mean, 0.5 * Rise / Side);
    }

    /// <summary>From the top to the wall at x = 0 it is x: 0 at the edge they share, 10 at the other, 5 in the mean.</summary>
    [Fact]
    public void FacesThatMeetBeginAtNothing()
    {
        var nominal = FaceDistance.Between(Top, Wall, Scan(), Block, 1).Nominal;
        Assert.Equal(0, nominal.Nearest, 1e-12);
        Assert.Equal(Side, nominal.Farthest, 1e-12);

        // 1,500 even places tell a mean at least as well as random ones would: three of their standard errors.
        Assert.Equal(Side / 2, nominal.Mean, 3 * Side / Math.Sqrt(12 * 1500));
    }

    [Fact]
    public void ACloudIsMeasuredFromPointToPoint()
    {
        var mesh = Scan().Mesh;
        var found = FaceDistance.Between(Top, Floor, Aligned(new(mesh.Coordinates, [])), Block, 1).Measured!;

        // The points of the floor lie straight beneath those of the top.
        Assert.Equal(Side + (Rise / 2), found.Mean, 0.5 * Rise / Side);
    }

    [Fact]
    public void OneFaceOrOneThatThereIsNotIsRefused()
    {
        var scan = Scan();
        Assert.Throws<BadInputException>(() => FaceDistance.Between(Top, Top, scan, Block, 1));
        Assert.Throws<BadInputException>(() => FaceDistance.Between(Top, 99, scan, Block, 1));

        // Of the floor, and of the walls near it, nothing was measured.
        var half = scan.Mesh.KeepTriangles(t => scan.Mesh.Triangle(t) is var (a, b, c) && Math.Min(a.Z, Math.Min(b.Z, c.Z)) > 0.9);
        Assert.Null(FaceDistance.Between(Top, Floor, Aligned(half), Block, 1).Measured);
    }

    private static AlignedScan Scan()
    {
        var cube = Shapes.Cube(Side, 20);
        return Aligned(cube.WithCoordinates([.. Enumerable.Range(0, cube.VertexCount).SelectMany(v => Risen(cube.Vertex(v)).ToArray())]));

        static Vector3D Risen(Vector3D p) => p.Z < Side ? p : p with { Z = Side + (Rise * p.X / Side) };
    }

    private static AlignedScan Aligned(TriangleMesh mesh)
    {
        var runner = new InspectionRunner(Block);
        return new(mesh, RigidTransform.Identity, runner.Compare(runner.Begin(mesh), RigidTransform.Identity, new()));
    }

    private static int Face(Vector3D towards) =>
        Block.Faces.Single(f => f.Shape is Plane3D p && p.Normal.Dot(towards) > 0.9).Id;
}
