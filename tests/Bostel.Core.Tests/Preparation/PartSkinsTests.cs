using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;

namespace Bostel.Core.Tests.Preparation;

/// <summary>
/// Which pieces make up the part, and whether what was dropped belonged to it. The skins are cut from the nominals themselves, so what is
/// right is known.
/// </summary>
public class PartSkinsTests
{
    private static readonly double SheetArea = DemoParts.Model("LB-045").Mesh.Area();

    /// <summary>
    /// The sheet bracket as a device sees it that misses the edges: its narrow faces are not there, the two skins hang together nowhere.
    /// </summary>
    private static TriangleMesh Skins()
    {
        var model = DemoParts.Model("LB-045");
        var labels = model.FaceOfTriangle;
        var wide = model.Faces.Select(f => Thickness(model.Mesh, f.Id, labels) > 4).ToArray();
        return model.Mesh.KeepTriangles(t => wide[labels[t]]);
    }

    /// <summary>Area over half the length of the border: of a strip its width.</summary>
    private static double Thickness(TriangleMesh mesh, int face, int[] labels)
    {
        double area = 0, border = 0;
        for (var t = 0; t < mesh.TriangleCount; t++)
        {
            if (labels[t] != face)
            {
                continue;
            }

            area += mesh.TriangleArea(t);
            for (var k = 0; k < 3; k++)
            {
                var other = mesh.Topology.Neighbours[(3 * t) + k];
                if (other < 0 || labels[other] != face)
                {
                    var (a, b) = (mesh.Vertex(mesh.Indices[(3 * t) + k]), mesh.Vertex(mesh.Indices[(3 * t) + ((k + 1) % 3)]));
                    border += Vector3D.Distance(a, b);
                }
            }
        }

        return area / Math.Max(1e-9, border / 2);
    }

    private static TriangleMesh Plate(Vector3D corner, Vector3D u, Vector3D v)
    {
        var coordinates = new List<double>();
        foreach (var p in new[] { corner, corner + u, corner + u + v, corner + v })
        {
            coordinates.AddRange([p.X, p.Y, p.Z]);
        }

        return new([.. coordinates], [0, 1, 2, 0, 2, 3]);
    }

    private static TriangleMesh Together(params TriangleMesh[] meshes)
    {
        var coordinates = new List<double>();
        var indices = new List<int>();
        foreach (var mesh in meshes)
        {
            var first = coordinates.Count / 3;
            coordinates.AddRange(mesh.Coordinates);
            indices.AddRange(mesh.Indices.Select(i => i + first));
        }

        return new([.. coordinates], [.. indices]);
    }

    [Fact]
    public void BothSkinsOfASheetWithoutEdgesAreKept()
    {
        var skins = Skins();
        Assert.True(skins.Topology.Pieces().Count >= 2, "the two skins still hang together: the test shows nothing");
        var kept = LoosePieces.DropAllButPart(skins, SheetArea).Mesh;
        Assert.True(kept.Area() > 0.97 * skins.Area(), $"{kept.Area():0} of {skins.Area():0} mm² kept");
        Assert.True(LoosePieces.DropAllButPart(skins, null).Mesh.Area() < 0.7 * skins.Area());
    }

    [Fact]
    public void ATableUnderTheSheetAndAClampBesideItGo()
    {
        var skins = Skins();
        var box = skins.Bounds;
        var size = box.Size;
        var table = Plate(box.Min - new Vector3D(5, 5, 0.4), new(size.X + 10, 0, 0), new(0, size.Y + 10, 0));
        var clamp = Shapes.Cube(0.3 * box.Diagonal, 4).Shifted(box.Max + new Vector3D(1, 0, 0));
        var kept = LoosePieces.DropAllButPart(Together(skins, table, clamp), SheetArea).Mesh;
        Assert.Equal(LoosePieces.DropAllButPart(skins, SheetArea).Mesh.Area(), kept.Area(), 6);
    }

    [Fact]
    public void CoverageKnowsTheSidesOfASheet()
    {
        var model = DemoParts.Model("LB-045");
        var skins = Skins();
        var one = LoosePieces.DropAllButPart(skins, null).Mesh;
        var target = new AlignmentTarget(DemoParts.Tree("LB-045"));
        var both = SurfaceAlignment.Assess(skins, target, RigidTransform.Identity).Coverage;
        var half = SurfaceAlignment.Assess(one, target, RigidTransform.Identity).Coverage;

        // Shares of the area, give or take what the reach of a few edges adds along the borders.
        Assert.InRange(both, skins.Area() / model.Mesh.Area(), 1);
        Assert.InRange(half, (one.Area() / model.Mesh.Area()) - 0.02, (one.Area() / model.Mesh.Area()) + 0.12);
    }

    [Fact]
    public void DroppingMuchThatLiesOnTheNominalIsSaid()
    {
        // The two ends of the housing, far apart: neither leads to the other through material.
        var model = DemoParts.Model("VH-310");
        var middle = model.Mesh.Bounds.Center.X;
        var halves = model.Mesh.KeepTriangles(t => model.Mesh.Triangle(t) is var (a, b, c) && Math.Abs(((a + b + c) / 3).X - middle) > 45);
        var context = new PreparationContext(DemoParts.Tree("VH-310"), _ => RigidTransform.Identity);
        var outcome = new KeepPartStep().Apply(halves, context);
        var lost = halves.Area() - outcome.Mesh.Area();
        Assert.InRange(lost, 0.2 * halves.Area(), 0.6 * halves.Area());
        Assert.Contains("lie on the nominal", outcome.Record.Caution, StringComparison.Ordinal);

        // All of it lies there; pieces under three hundredths of the nominal's area are not looked at.
        var said = double.Parse(outcome.Record.Caution!.Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture);
        var small = outcome.Mesh.TriangleCount > 0
            ? ConnectedPieces.Find(halves, null).Pieces.Where(p => p.Area < 0.03 * model.Mesh.Area()).Sum(p => p.Area)
            : 0;
        Assert.InRange(said, lost - small - 1, lost + 1);

        // What lies elsewhere may go without a word.
        var box = model.Mesh.Bounds;
        var table = Plate(box.Min - new Vector3D(30, 30, 2), new(box.Size.X + 60, 0, 0), new(0, box.Size.Y + 60, 0));
        Assert.Null(new KeepPartStep().Apply(Together(model.Mesh, table), context).Record.Caution);
    }
}
