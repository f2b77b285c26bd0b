using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Segmentation;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Preparation;

/// <summary>
/// A profile of two flat sides and the fillet between them, drawn along a line or about an axis: what is picked is known, and where it
/// ends.
/// </summary>
public class PickedSurfaceTests
{
    private const double Radius = 3, Side = 12, Spacing = 0.4, Noise = 0.01;
    private const double Arc = Radius * Math.PI / 2;
    private const int Along = 100;
    private static readonly int _across = (int)Math.Round(((2 * Side) + Arc) / Spacing);

    [Theory]
    [InlineData(false, "cylinder")]
    [InlineData(true, "torus")]
    public void AFilletIsToldFromTheSidesItRunsInto(bool turned, string kind)
    {
        var scan = Scan(turned);
        var surface = new PickedSurface(scan).At(At((2 * Side) + Arc), null);
        Assert.Equal(kind, surface?.Fit.Shape.Kind);
        var radius = surface!.Fit.Shape is Torus3D torus ? torus.MinorRadius : ((Cylinder3D)surface.Fit.Shape).Radius;

        // 1,200 points over 90° give a radius to 10 σ/√1200; the first degrees of the sides, where normals do not tell yet, add some
        // hundredths.
        Assert.Equal(Radius, radius, 0.05);

        // The sides leave the band of four sigma √(2·3·0.04) = 0.5 mm from the fillet: within two rows.
        AssertBetween(surface.Triangles, Side, Side + Arc, within: Spacing, beyond: 3 * Spacing);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void ASideEndsAtTheFillet(bool turned)
    {
        var surface = new PickedSurface(Scan(turned)).At(At(Side), null);
        Assert.Equal(turned ? "cylinder" : "plane", surface?.Fit.Shape.Kind);
        AssertBetween(surface!.Triangles, 0, Side, within: 2 * Spacing, beyond: 3 * Spacing);
    }

    [Fact]
    public void AWiderBandTakesMore()
    {
        var scan = Scan(false);
        var (narrow, wide) =
            (new PickedSurface(scan).At(At(Side), 0.05)!.Triangles.Length, new PickedSurface(scan).At(At(Side), 0.5)!.Triangles.Length);

        // At 0.5 mm off the side the fillet has run √(2·3·0.5) = 1.7 mm, at 0.05 mm 0.55 mm: 1.2 mm and 25° at most.
        Assert.InRange((wide - narrow) / (2.0 * Along) * Spacing, 0.5, 1.6);
    }

    /// <summary>
    /// Every face with 500 triangles of a simulated scan, picked as far from its border as it goes: 0.02 mm of noise over hundreds of
    /// points, on arcs of 90° at the least, leaves a radius some hundredths of a millimetre.
    /// </summary>
    [Fact]
    public void FacesOfAScannedPartAreToldFromTheirMiddle()
    {
        var nominal = DemoParts.Model("RC-077");
        var scan = SimulatedScanner.Scan(
            nominal, new() { Seed = 9, Spacing = 0.6, Noise = 0.02, RandomPose = false, StrayPieces = 0, TablePatch = false }).Mesh;
        var face = Enumerable.Range(0, scan.TriangleCount)
            .Select(t => nominal.FaceOfTriangle[DemoParts.Tree("RC-077").Closest(Center(scan, t), 5).Triangle]).ToArray();
        var picked = new PickedSurface(scan);
        var wrong = new List<string>();
        foreach (var triangles in Enumerable.Range(0, scan.TriangleCount).GroupBy(t => face[t])
            .Where(g => g.Count() >= 500 && nominal.Face(g.Key).Shape is not null))
        {
            var (truth, found) = (nominal.Face(triangles.Key).Shape!, picked.At(Innermost(scan, [.. triangles]), null));
            var taken = found?.Triangles.Count(t => face[t] == triangles.Key) ?? 0;
            if (found?.Fit.Shape.Kind != truth.Kind || Math.Abs(Size(truth) - Size(found.Fit.Shape)) > 0.06
                || taken < 0.8 * triangles.Count())
            {
                wrong.Add($"{triangles.Key} {truth} as {found?.Fit.Shape}, {taken} of {triangles.Count()}");
            }
        }

        Assert.Empty(wrong);
    }

    [Fact]
    public void ALoneTriangleTellsNothing()
    {
        var mesh = Shapes.Mesh([new(0, 0, 0), new(1, 0, 0), new(0, 1, 0)], [0, 1, 2]);
        Assert.Null(new PickedSurface(mesh).At(0, null));
    }

    private static double Size(Shape shape) => shape switch
    {
        Cylinder3D c => c.Radius,
        Sphere3D s => s.Radius,
        Torus3D t => t.MinorRadius,
        _ => 0,
    };

    private static Vector3D Center(TriangleMesh mesh, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        return (a + b + c) / 3;
    }

    /// <summary>The triangle of a face that the most layers of it surround.</summary>
    private static int Innermost(TriangleMesh scan, int[] triangles)
    {
        var neighbours = scan.Topology.Neighbours;
        var inside = triangles.ToHashSet();
        while (true)
        {
            var border = inside.Where(t => Enumerable.Range(3 * t, 3).Any(h => neighbours[h] < 0 || !inside.Contains(neighbours[h])))
                .ToList();
            if (border.Count == inside.Count)
            {
                return border.Min();
            }

            inside.ExceptWith(border);
        }
    }

    /// <summary>The triangle in the middle of the length, at twice this way along the profile's half.</summary>
    private static int At(double twice) => 2 * ((Along / 2 * _across) + (int)(twice / 2 / Spacing));

    /// <summary>All triangles well within two ways along the profile are there, and none beyond.</summary>
    private static void AssertBetween(int[] triangles, double from, double to, double within, double beyond)
    {
        var taken = triangles.ToHashSet();
        var (missed, foreign, inside) = (0, 0, 0);
        for (var t = 0; t < 2 * Along * _across; t++)
        {
            var way = ((t / 2 % _across) + 0.5) * Spacing;
            inside += way > from + within && way < to - within ? 1 : 0;
            missed += way > from + within && way < to - within && !taken.Contains(t) ? 1 : 0;
            foreign += (way < from - beyond || way > to + beyond) && taken.Contains(t) ? 1 : 0;
        }

        // Noise takes few out of a band of four sigma with normals turned by less than six medians.
        Assert.InRange(missed, 0, inside / 50);
        Assert.Equal(0, foreign);
    }

    private static TriangleMesh Scan(bool turned)
    {
        var points = Enumerable.Range(0, (Along + 1) * (_across + 1)).Select(i =>
        {
            var (x, z) = Profile(Spacing * (i % (_across + 1)));
            var along = Spacing * (i / (_across + 1));
            var (s, c) = Math.SinCos(along / 40);
            return turned ? new Vector3D((40 + x) * c, (40 + x) * s, z) : new Vector3D(x, along, z);
        });
        var cells = Enumerable.Range(0, Along * _across).SelectMany(i =>
        {
            var a = (i / _across * (_across + 1)) + (i % _across);
            return (int[])[a, a + 1, a + _across + 2, a, a + _across + 2, a + _across + 1];
        });
        return Shapes.Noisy(Shapes.Mesh(points, cells), Noise, 7);
    }

    /// <summary>Down a side, round the fillet, out along the other side.</summary>
    private static (double X, double Z) Profile(double way)
    {
        if (way < Side)
        {
            return (0, Radius + Side - way);
        }

        if (way > Side + Arc)
        {
            return (Radius + way - Side - Arc, 0);
        }

        var (s, c) = Math.SinCos((way - Side) / Radius);
        return (Radius * (1 - c), Radius * (1 - s));
    }
}
