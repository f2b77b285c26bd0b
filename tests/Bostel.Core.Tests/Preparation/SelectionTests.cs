using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Selecting;
using Bostel.Core.Spatial;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Preparation;

/// <summary>Selections against what they mean, triangle by triangle.</summary>
public class SelectionTests
{
    private static readonly TriangleMesh Cube = Shapes.Cube(10, 10);
    private static readonly PreparationContext Here = new(null, null);

    /// <summary>A square of side 8 about the centre of the view from +z.</summary>
    private static LassoTerm FromAbove(bool through) => new LassoTerm
    {
        Frame = Frame.Scan,
        Point = [5, 5, 0],
        Normal = [0, 0, 1],
        Right = [1, 0, 0],
        Path = [-4, -4, 4, -4, 4, 4, -4, 4],
        Through = through,
    };

    [Fact]
    public void ALassoTakesWhatIsSeenAndThroughTakesWhatLiesBehind()
    {
        bool Within(Vector3D p) => p.X is > 1 and < 9 && p.Y is > 1 and < 9;
        Expect(t => Within(Center(t)) && Center(t).Z > 9.99, FromAbove(through: false));
        Expect(t => Within(Center(t)) && (Center(t).Z > 9.99 || Center(t).Z < 0.01), FromAbove(through: true));
    }

    [Fact]
    public void ALassoDoesNotReachASurfaceHiddenBehindAnother()
    {
        // A small plate floats over a large one; both face up.
        var low = Shapes.Field(20, 20, (_, _) => 0);
        var high = Shapes.Field(6, 6, (_, _) => 5).Transformed(RigidTransform.FromTranslation(new(7, 7, 0)));
        var both = new TriangleMesh(
            [.. low.Coordinates, .. high.Coordinates], [.. low.Indices, .. high.Indices.Select(i => i + low.VertexCount)]);
        var term = FromAbove(false) with { Point = [10, 10, 0], Path = [-9, -9, 9, -9, 9, 9, -9, 9] };
        var seen = Selection.Resolve(both, [term], Here);
        for (var t = 0; t < both.TriangleCount; t++)
        {
            var (a, b, c) = both.Triangle(t);
            var p = (a + b + c) / 3;
            var inside = p.X is > 1 and < 19 && p.Y is > 1 and < 19;
            var under = p.Z < 1 && p.X is > 7 and < 13 && p.Y is > 7 and < 13;
            Assert.Equal(inside && !under, seen[t]);
        }
    }

    [Fact]
    public void ASideABrushAndADistanceAreWhatTheySay()
    {
        Expect(t => Center(t).Z > 6, new SideTerm { Frame = Frame.Scan, Point = [0, 0, 6], Normal = [0, 0, 2] });
        Expect(t => ToSegment(Center(t), new(0, 0, 0), new(10, 0, 0)) <= 2.5,
            new BrushTerm { Frame = Frame.Scan, Path = [0, 0, 0, 10, 0, 0], Radius = 2.5 });
        var nominal =
            new TriangleTree(Shapes.Cube(10, 1).KeepTriangles(t => Shapes.Cube(10, 1).Triangle(t) is var (a, b, c) && a.Z + b.Z + c.Z < 1));
        var beyond = Selection.Resolve(Cube, [new BeyondTerm { Distance = 4 }], new(nominal, _ => RigidTransform.Identity));
        Assert.Equal(Enumerable.Range(0, Cube.TriangleCount).Select(t => Center(t).Z > 4), beyond);
    }

    [Fact]
    public void GrowingStopsAtTheEdgesOfTheCubeAndGoesRoundASphere()
    {
        var top = new GrowTerm { Frame = Frame.Scan, Point = [5, 5, 10], AngleDegrees = 15 };

        // The corners' mean normals turn in the outermost row: it may be left out, the rows inside may not.
        var selected = Selection.Resolve(Cube, [top], Here);
        for (var t = 0; t < selected.Length; t++)
        {
            var p = Center(t);
            Assert.True(!selected[t] || p.Z > 8.9, $"{p}");
            Assert.True(selected[t] || !(p.Z > 9.99 && p.X is > 1 and < 9 && p.Y is > 1 and < 9), $"{p}");
        }

        var sphere = Shapes.Sphere(10, 4);
        Assert.All(Selection.Resolve(sphere, [top with { Point = [0, 0, 10] }], Here), Assert.True);
    }

    [Fact]
    public void TheSameSurfaceIsTheWholeCylinderAndNotItsEnds()
    {
        var model = DemoParts.Model("VH-310");
        var bore = model.Faces.Where(f => f.Shape is Cylinder3D).OrderByDescending(f => f.Area).First();
        var scan = SimulatedScanner.Scan(model, new() { Seed = 4, Spacing = 1.2, Noise = 0.01, StrayPieces = 0, TablePatch = false });
        var pose = RigidTransform.FromArray(scan.Truth.Transform);
        var context = new PreparationContext(DemoParts.Tree("VH-310"), _ => pose);
        var cylinder = (Cylinder3D)bore.Shape!;

        // The seed is any scanned triangle well on the face.
        var seed = Enumerable.Range(0, scan.Mesh.TriangleCount).Select(t => pose.Apply(scan.Mesh.Triangle(t).A))
            .First(p => Math.Abs(cylinder.Distance(p)) < 0.02 && Inner(bore, p, 4));
        var selected = Selection.Resolve(scan.Mesh, [new SurfaceTerm { Point = seed.ToArray() }], context);
        var (on, off, missed) = (0, 0, 0);
        for (var t = 0; t < selected.Length; t++)
        {
            var (a, b, c) = scan.Mesh.Triangle(t);
            var p = pose.Apply((a + b + c) / 3);
            on += selected[t] ? 1 : 0;
            off += selected[t] && Math.Abs(cylinder.Distance(p)) > 0.15 ? 1 : 0;
            missed += !selected[t] && Math.Abs(cylinder.Distance(p)) < 0.02 && Inner(bore, p, 3) && DemoParts.Tree("VH-310")
                .Closest(p) is var hit && model.FaceOfTriangle[hit.Triangle] == bore.Id ? 1 : 0;
        }

        Assert.True(on > 500, $"{on}");
        Assert.InRange(off, 0, 0.01 * on);
        Assert.InRange(missed, 0, 0.02 * on);
    }

    [Fact]
    public void PiecesAreTakenBySizeOrByAPoint()
    {
        var far = Shapes.Sphere(2, 1).Transformed(RigidTransform.FromTranslation(new(30, 0, 0)));
        var both = new TriangleMesh(
            [.. Cube.Coordinates, .. far.Coordinates], [.. Cube.Indices, .. far.Indices.Select(i => i + Cube.VertexCount)]);
        var small = Enumerable.Range(0, both.TriangleCount).Select(t => t >= Cube.TriangleCount);
        Assert.Equal(small, Selection.Resolve(both, [new SmallPiecesTerm { Triangles = 81 }], Here));
        Assert.Equal(small, Selection.Resolve(both, [new SmallPiecesTerm { Area = 100 }], Here));
        Assert.Equal(small, Selection.Resolve(both, [new PieceTerm { Frame = Frame.Scan, Point = [29, 0, 0] }], Here));
    }

    [Fact]
    public void TermsAddTakeInvertWidenAndNarrow()
    {
        SelectionTerm Above(double z, SelectionChange op) =>
            new SideTerm { Op = op, Frame = Frame.Scan, Point = [0, 0, z], Normal = [0, 0, 1] };
        Expect(t => Center(t).Z is > 3 and <= 7, Above(3, SelectionChange.Add), Above(7, SelectionChange.Take));
        Expect(t => Center(t).Z <= 3, Above(3, SelectionChange.Add), new InvertTerm());
        Expect(_ => true, new AllTerm());

        // One row is what shares an edge: on the cube's sides two triangles a square, so the edge of the selection moves by half squares.
        var wide = Selection.Resolve(Cube, [Above(7, SelectionChange.Add), new WidenTerm { Rows = 2 }], Here);
        Assert.Equal(Enumerable.Range(0, Cube.TriangleCount).Select(t => Center(t).Z > 6), wide);
        var back = Selection.Resolve(Cube, [Above(6, SelectionChange.Add), new NarrowTerm { Rows = 2 }], Here);
        Assert.Equal(Enumerable.Range(0, Cube.TriangleCount).Select(t => Center(t).Z > 7), back);
    }

    [Theory]
    [MemberData(nameof(Incomplete))]
    public void AnIncompleteTermNamesWhatIsMissing(SelectionTerm term, string named) =>
        Assert.Contains(
            named, Assert.Throws<BadInputException>(() => Selection.Resolve(Cube, [term], Here)).Message, StringComparison.Ordinal);

    public static TheoryData<SelectionTerm, string> Incomplete() => new()
    {
        { new LassoTerm(), "point, normal and right" },
        { new BrushTerm(), "path" },
        { new BeyondTerm(), "distance" },
        { new WidenTerm(), "rows" },
    };

    [Fact]
    public void ACloudIsSelectedByPlaceAndRefusesWhatNeedsTriangles()
    {
        var cloud = new TriangleMesh(Cube.Coordinates, []);
        var above = Selection.Resolve(cloud, [new SideTerm { Frame = Frame.Scan, Point = [0, 0, 5.5], Normal = [0, 0, 1] }], Here);
        Assert.Equal(Enumerable.Range(0, cloud.VertexCount).Select(v => cloud.Vertex(v).Z > 5.5), above);
        Assert.Contains("cloud",
            Assert.Throws<BadInputException>(() => Selection.Resolve(
            cloud, [new WidenTerm { Rows = 1 }], Here)).Message, StringComparison.Ordinal);
        Assert.Contains("nominal", Assert.Throws<BadInputException>(
            () => Selection.Resolve(cloud, [new BeyondTerm { Distance = 5 }], Here)).Message, StringComparison.Ordinal);
    }

    private static bool Inner(Core.Nominals.NominalFace face, Vector3D p, double margin)
    {
        var along = (p - ((Cylinder3D)face.Shape!).Point).Dot(((Cylinder3D)face.Shape).Axis);
        return along > face.Start + margin && along < face.End - margin;
    }

    private static double ToSegment(Vector3D p, Vector3D a, Vector3D b) =>
        Vector3D.Distance(p, a + (Math.Clamp((p - a).Dot(b - a) / (b - a).LengthSquared, 0, 1) * (b - a)));

    private static Vector3D Center(int t)
    {
        var (a, b, c) = Cube.Triangle(t);
        return (a + b + c) / 3;
    }

    private static void Expect(Func<int, bool> rule, params SelectionTerm[] terms) =>
        Assert.Equal(Enumerable.Range(0, Cube.TriangleCount).Select(rule), Selection.Resolve(Cube, terms, Here));
}
