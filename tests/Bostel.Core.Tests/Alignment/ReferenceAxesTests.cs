using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Preparation;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Alignment;

/// <summary>The ridge clamp without its drawing: a scan of it, in coordinates laid along its own surfaces.</summary>
public class ReferenceAxesTests
{
    private static readonly SimulatedScan _scan = SimulatedScanner.Scan(
        DemoParts.Model("RC-077"), new() { Seed = 5, Spacing = 0.7, Noise = 0.01, StrayPieces = 3 });

    private static readonly NominalModel _reference = ReferenceScan.Of(_scan.Mesh, "0001");
    private static readonly RigidTransform _toDrawing = RigidTransform.FromArray(_scan.Truth.Transform);

    /// <summary>The faces on which the drawing has its axes: base z = 0 below, end x = 70, left y = 0.</summary>
    [Fact]
    public void AxesAlongTheFacesOfTheDrawingGiveTheCoordinatesOfTheDrawing()
    {
        var (low, end, left) = (Face(new(35, 10, 0)), Face(new(70, 16, 6)), Face(new(55, 0, 10)));
        var axes = new ReferenceAxes(new(low), "-z", new(end), "x", [new(low), new(end), new(left)], [70, 0, 0]);
        var off = axes.On(_reference).After(_toDrawing.Inverse());

        // A face of some 1000 mm² is known to a few micrometres at a scatter of 10; its direction over 30 mm to some 0.2 mrad.
        Assert.InRange(off.RotationAngle(), 0, 5e-4);
        Assert.All(DemoParts.Model("RC-077").Mesh.Bounds.Corners, c => Assert.InRange(Vector3D.Distance(off.Apply(c), c), 0, 0.02));
    }

    /// <summary>The clamp is the same on both sides of y = 16.</summary>
    [Fact]
    public void TheMiddleOfTheWidthIsFoundWithoutAFace()
    {
        var low = Face(new(35, 10, 0));
        var axes = new ReferenceAxes(
            new(low), "-z", new(Found: FoundShape.SymmetryPlane), "y", [new(low), new(Found: FoundShape.SymmetryPlane)], [0, 16, 0]);
        var off = axes.On(_reference).After(_toDrawing.Inverse());
        var middle = off.Apply(new(20, 16, 0));
        Assert.Equal(16, middle.Y, 0.02);
        Assert.Equal(0, middle.Z, 0.02);
        Assert.Equal(1, Math.Abs(off.Rotate(Vector3D.UnitX).X), 1e-6);
    }

    [Fact]
    public void TheReferenceMovesWithAllThatItKnows()
    {
        var motion = RigidTransform.FromAxisAngle(new Vector3D(1, 2, 3).Normalized(), 1.1) with { Translation = new(4, 5, 6) };
        var moved = _reference.Transformed(motion);
        Assert.Equal(_reference.FaceOfTriangle, moved.FaceOfTriangle);
        foreach (var (before, after) in _reference.Faces.Zip(moved.Faces).Where(f => f.First.Shape is not null))
        {
            Assert.Equal((before.Kind, before.Area, before.Internal), (after.Kind, after.Area, after.Internal));
            Assert.Equal(before.OutwardDistance(before.Center + (2 * Vector3D.UnitX)),
                after.OutwardDistance(motion.Apply(before.Center + (2 * Vector3D.UnitX))), 1e-9);
        }

        var kept = NominalModelStore.Load(NominalModelStore.Save(moved));
        Assert.Equal(moved.Mesh.Coordinates, kept.Mesh.Coordinates);
        Assert.Throws<InvalidOperationException>(() => DemoParts.Model("FB-620").Transformed(motion));
    }

    [Fact]
    public void OnlyThePartIsTheReferenceAndItSaysHowWellItIsKnown()
    {
        Assert.Equal(_scan.Truth.PartTriangles, _reference.Mesh.TriangleCount);
        Assert.Contains(_reference.Remarks, r => r.Contains("scan of piece 0001", StringComparison.Ordinal));
        Assert.Contains("4 loose pieces left out", _reference.Remarks);
        Assert.Contains("cloud", Assert.Throws<BadInputException>(() => ReferenceScan.Of(new([0, 0, 0, 1, 1, 1], []), "x")).Message,
            StringComparison.Ordinal);
    }

    [Fact]
    public void PicksThatGiveNoAxesAreRefused()
    {
        var low = Face(new(35, 10, 0));
        Refused("no face 900", new(new(900), "z", null, "x", [], [0, 0, 0]));
        Refused("parallel", new(new(low), "z", new(low), "x", [], [0, 0, 0]));
        Refused("a face or a shape found", new(new(low, FoundShape.SymmetryPlane), "z", null, "x", [], [0, 0, 0]));
        Refused("three coordinates", new(null, "z", null, "x", [], [0, 0]));
        Refused("No rotation axis", new(new(Found: FoundShape.RotationAxis), "z", null, "x", [], [0, 0, 0]));

        static void Refused(string why, ReferenceAxes axes) => Assert.Contains(
            why, Assert.ThrowsAny<BadInputException>(() => axes.On(_reference)).Message, StringComparison.Ordinal);
    }

    /// <summary>The recognised face nearest to a place of the drawing, of those large enough to be meant.</summary>
    private static int Face(Vector3D place)
    {
        var p = _toDrawing.Inverse().Apply(place);
        return _reference.Faces.Where(f => f is { Kind: "plane", Area: > 300 })
            .MinBy(f => Math.Abs(f.Shape!.Distance(p)) + (0.01 * Vector3D.Distance(f.Center, p)))!.Id;
    }
}
