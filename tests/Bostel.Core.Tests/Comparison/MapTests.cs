using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;
using Bostel.Core.Tests.Spatial;

namespace Bostel.Core.Tests.Comparison;

/// <summary>Maps against closed forms: spheres, wedges, shifted and missing surfaces.</summary>
public class MapTests
{
    private static readonly DeviationOptions Within2 = new(2);

    [Fact]
    public void TheSplitSurfaceHasTheSameAreaAndShortEdges()
    {
        var nominal = NominalModel.OfSurface(ClosestPointTests.Cube());
        var surface = NominalSurface.Of(nominal);
        Assert.Equal(nominal.Mesh.Area(), surface.Mesh.Area(), 1e-9 * nominal.Mesh.Area());
        Assert.InRange(surface.Mesh.TriangleCount, 30_000, 480_000);

        // No place of the part is farther from a vertex than the longest edge: here the side over some hundred.
        Assert.True(surface.Mesh.LongestEdge < nominal.Mesh.LongestEdge / 50);
        Assert.Equal(surface.Mesh.VertexCount, surface.Normals.Length);
    }

    [Fact]
    public void FromTheNominalAShiftShowsAndAHoleIsNoData()
    {
        // A plate of 40 by 40 in triangles of 1 mm, 0.3 above the nominal, with a square of 10 by 10 missing.
        var nominal = NominalModel.OfSurface(Plate(40, 1, (_, _) => 0));
        var scan = Plate(40, 1, (_, _) => 0.3).KeepTriangles(t => true);
        var whole = scan;
        scan = whole.KeepTriangles(t => whole.Triangle(t) is var (a, b, c) && !InHole((a + b + c) / 3));
        var surface = NominalSurface.Of(nominal);
        var values = NominalToScan.Compute(surface, scan, RigidTransform.Identity, 1, Within2);
        for (var v = 0; v < values.Length; v++)
        {
            var p = surface.Mesh.Vertex(v);
            var inside = Math.Max(Math.Abs(p.X - 20), Math.Abs(p.Y - 20));
            var border = Math.Min(Math.Min(p.X, p.Y), 40 - Math.Max(p.X, p.Y));
            if (inside > 5.01 && border > 0.01)
            {
                Assert.Equal(0.3, values[v], 1e-9);
            }
            else if (inside < 4.99)
            {
                Assert.True(double.IsNaN(values[v]));
            }
        }

        static bool InHole(Vector3D p) => Math.Max(Math.Abs(p.X - 20), Math.Abs(p.Y - 20)) < 5;
    }

    /// <summary>
    /// A scan rounds every sharp edge by its spacing: nearer to one nothing is asked. Elsewhere a cube 0.1 larger all round is 0.1 off.
    /// </summary>
    [Fact]
    public void NearASharpEdgeNothingIsAsked()
    {
        var cube = ClosestPointTests.Cube();
        var (low, high) = (cube.Bounds.Min, cube.Bounds.Max);
        int[] faceOf = [.. Enumerable.Range(0, cube.TriangleCount).Select(t => SideOf(cube, t))];
        NominalFace[] faces = [.. Enumerable.Range(0, 6).Select(f => new NominalFace(f, "freeform", 1, false, 0, 0, 0, default))];
        var surface = NominalSurface.Of(new(cube, faceOf, faces, [], 0, []));
        Assert.NotEmpty(surface.Sharp);
        Assert.All(surface.Sharp, p => Assert.Equal(0, Off(p).Order().ElementAt(1), 1e-9));

        var (scale, side) = ((high.X - low.X + 0.2) / (high.X - low.X), high.X - low.X);
        var scan = cube.Shifted(-cube.Bounds.Center).Scaled(scale).Shifted(cube.Bounds.Center);
        var values = NominalToScan.Compute(surface, scan, RigidTransform.Identity, side / 10, Within2);
        for (var v = 0; v < values.Length; v++)
        {
            var edge = Off(surface.Mesh.Vertex(v)).Order().ElementAt(1);
            if (edge < side / 11)
            {
                Assert.Equal(NominalToScan.NotAsked, values[v]);
            }
            else if (edge > side / 9)
            {
                Assert.Equal(0.1, values[v], 1e-9);
            }
        }

        // How far a point lies inside each of the three pairs of sides.
        IEnumerable<double> Off(Vector3D p) => Enumerable.Range(0, 3).Select(i => Math.Min(p[i] - low[i], high[i] - p[i]));

        static int SideOf(TriangleMesh cube, int t)
        {
            var (a, b, c) = cube.Triangle(t);
            var n = (b - a).Cross(c - a).Normalized();
            return Enumerable.Range(0, 3).Where(i => Math.Abs(n[i]) > 0.5).Select(i => (2 * i) + (n[i] > 0 ? 1 : 0)).Single();
        }
    }

    [Fact]
    public void FromTheNominalACloudTellsTheSame()
    {
        var nominal = NominalModel.OfSurface(Plate(40, 1, (_, _) => 0));
        var cloud = new TriangleMesh(Plate(40, 1, (_, _) => -0.2).Coordinates, []);
        var all = cloud;
        cloud = all.KeepPoints(v => all.Vertex(v).X < 20);
        var surface = NominalSurface.Of(nominal);
        var values = NominalToScan.Compute(surface, cloud, RigidTransform.Identity, 1, new(5));
        for (var v = 0; v < values.Length; v++)
        {
            var x = surface.Mesh.Vertex(v).X;
            if (x < 19)
            {
                Assert.Equal(-0.2, values[v], 1e-9);
            }
            else if (x > 19 + 2.6)
            {
                Assert.True(double.IsNaN(values[v]));
            }
        }
    }

    /// <summary>A wedge that rises at 30°, moved up by 0.1: 0.1 along Z, 0.1·cos 30° along its normal, 0.1/tan 30° along X.</summary>
    [Fact]
    public void AlongADirectionASlopeReadsByItsAngle()
    {
        var slope = Math.Tan(Math.PI / 6);
        var nominal = NominalModel.OfSurface(Plate(40, 1, (x, _) => slope * x));
        var scan = Plate(40, 1, (x, _) => (slope * x) + 0.1);
        var tree = new TriangleTree(nominal.Mesh);
        double[] Along(Vector3D d) => DirectedDeviation.AlongDirection(scan, RigidTransform.Identity, nominal, tree, Within2, d);
        var (up, across, back) = (Along(Vector3D.UnitZ), Along(Vector3D.UnitX), Along(-Vector3D.UnitZ));
        for (var v = 0; v < up.Length; v++)
        {
            var p = scan.Vertex(v);
            if (p is { X: > 1 and < 39, Y: > 1 and < 39 })
            {
                Assert.Equal(0.1, up[v], 1e-9);
                Assert.Equal(0.1 / slope, across[v], 1e-9);
                Assert.Equal(up[v], back[v], 1e-9);
            }
        }

        // A flat before a ramp of 45° lies along X, too: the ramp in front of it is no counterpart, however near.
        var ramp = NominalModel.OfSurface(Plate(40, 1, (x, _) => Math.Max(0, x - 20)));
        var before = Plate(40, 1, (x, _) => Math.Max(0, x - 20) + 0.1);
        var values = DirectedDeviation.AlongDirection(before, RigidTransform.Identity, ramp, new(ramp.Mesh), Within2, Vector3D.UnitX);
        for (var v = 0; v < values.Length; v++)
        {
            Assert.True(before.Vertex(v).X > 19.5 || double.IsNaN(values[v]));
            Assert.True(before.Vertex(v).X is < 21.5 or > 39 || Math.Abs(values[v] - 0.1) < 1e-9);
        }

        // Two floors 30 apart face alike: only that within the distance counts, ahead or behind.
        var (ground, storey) = (Plate(40, 1, (_, _) => 0), Plate(40, 1, (_, _) => 30));
        var floors = NominalModel.OfSurface(new(
            [.. ground.Coordinates, .. storey.Coordinates], [.. ground.Indices, .. storey.Indices.Select(i => i + ground.VertexCount)]));
        var floorTree = new TriangleTree(floors.Mesh);
        double[] Over(double z) => DirectedDeviation.AlongDirection(
            Plate(40, 1, (_, _) => z), RigidTransform.Identity, floors, floorTree, Within2, Vector3D.UnitZ);
        Assert.All(Over(30.1), d => Assert.Equal(0.1, d, 1e-9));
        Assert.All(Over(-0.1), d => Assert.Equal(-0.1, d, 1e-9));
        Assert.All(Over(10), d => Assert.True(double.IsNaN(d)));

        // A plate lies along X: no length in X tells how far off it is.
        var flat = NominalModel.OfSurface(Plate(40, 1, (_, _) => 0));
        Assert.All(
            DirectedDeviation.AlongDirection(
                Plate(40, 1, (_, _) => 0.1), RigidTransform.Identity, flat, new(flat.Mesh), Within2, Vector3D.UnitX),
            d => Assert.True(double.IsNaN(d)));
    }

    /// <summary>A sphere of R + 0.05 in one of R, radially from an axis through its middle: by the cosine of the latitude.</summary>
    [Fact]
    public void RadiallyASphereReadsByItsLatitude()
    {
        const double R = 20;
        var nominal = NominalModel.OfSurface(Shapes.Sphere(R, 5));
        var scan = Shapes.Sphere(R + 0.05, 4);
        var values = DirectedDeviation.Radially(
            scan, RigidTransform.Identity, nominal, new(nominal.Mesh), Within2, new(Vector3D.Zero, Vector3D.UnitZ));

        // The facets of the nominal lie below its sphere by at most e²/8R about their middles, e its longest edge.
        var sag = nominal.Mesh.LongestEdge * nominal.Mesh.LongestEdge / (6 * R);
        for (var v = 0; v < values.Length; v++)
        {
            var z = scan.Vertex(v).Z;
            var radial = Math.Sqrt(((R + 0.05) * (R + 0.05)) - (z * z));
            if (Math.Abs(z) < 15)
            {
                var exact = radial - Math.Sqrt((R * R) - (z * z));
                Assert.InRange(values[v], exact - 1e-9, exact + (sag / Math.Sqrt(1 - (z * z / (R * R)))) + 1e-9);
            }
        }
    }

    [Fact]
    public void DraftIsTheAngleToThePullWithItsSign()
    {
        // The material lies below the plate: leaned by 80° it faces X, and leans back from a wall along Z by 10°.
        foreach (var degrees in new[] { 10.0, 30, 80 })
        {
            var slope = Math.Tan((90 - degrees) * Math.PI / 180);
            var plate = Plate(20, 1, (x, _) => slope * x);
            Assert.All(SurfaceShape.Draft(plate, Vector3D.UnitZ, 3), d => Assert.Equal(degrees, d, 1e-4));
            Assert.All(SurfaceShape.Draft(plate, -Vector3D.UnitZ, 3), d => Assert.Equal(-degrees, d, 1e-4));
        }

        Assert.Throws<BadInputException>(() => SurfaceShape.Draft(new(Plate(20, 1, (_, _) => 0).Coordinates, []), Vector3D.UnitZ, 3));
    }

    /// <summary>
    /// A sphere bulges by 1/R, seen from inside it is hollow by as much. The fit of second order over a cap of radius r errs by (r/R)²
    /// of the curvature, the next term of the sphere's height (r⁴/8R³) against the first (r²/2R).
    /// </summary>
    [Fact]
    public void ASphereIsCurvedByItsRadiusEitherWay()
    {
        const double R = 25, Near = 4;
        var sphere = Shapes.Sphere(R, 5);
        var inside = new TriangleMesh(sphere.Coordinates, [.. sphere.Indices.Chunk(3).SelectMany(t => (int[])[t[0], t[2], t[1]])]);
        var off = Near * Near / (R * R);
        Assert.All(SurfaceShape.Curvature(sphere, CurvatureKind.Mean, Near, 1000), k => Assert.Equal(1 / R, k, off / R));
        Assert.All(SurfaceShape.Curvature(inside, CurvatureKind.Mean, Near, 1000), k => Assert.Equal(-1 / R, k, off / R));
        Assert.All(SurfaceShape.Curvature(sphere, CurvatureKind.Radius, Near, 1000), r => Assert.Equal(R, r, off * R));
    }

    /// <summary>A saddle z = xy/R has no mean curvature in its middle, and 1/R either way.</summary>
    [Fact]
    public void ASaddleHasNoMeanCurvature()
    {
        const double R = 30;
        var saddle = Plate(20, 0.5, (x, y) => (x - 10) * (y - 10) / R);
        var middle = Enumerable.Range(0, saddle.VertexCount).First(v => saddle.Vertex(v) is { X: 10, Y: 10 });
        Assert.Equal(0, SurfaceShape.Curvature(saddle, CurvatureKind.Mean, 2, 1000)[middle], 1e-9);
        Assert.Equal(1 / R, Math.Abs(SurfaceShape.Curvature(saddle, CurvatureKind.Greatest, 2, 1000)[middle]), 1e-9);

        // A flat plate is curved by nothing, and its radius is no number.
        var flat = Plate(20, 1, (_, _) => 0);
        Assert.All(SurfaceShape.Curvature(flat, CurvatureKind.Greatest, 3, 1000), k => Assert.Equal(0, k, 1e-9));
        Assert.All(SurfaceShape.Curvature(flat, CurvatureKind.Radius, 3, 1000), r => Assert.True(double.IsNaN(r)));
    }

    [Fact]
    public void SpacingIsTheEdgesOfAGridAndMovedIsTheShift()
    {
        var plate = Plate(20, 0.8, (_, _) => 0);
        var middle = Enumerable.Range(0, plate.VertexCount)
            .Where(v => plate.Vertex(v) is { X: > 2 and < 18, Y: > 2 and < 18 }).ToList();

        // Each inner vertex has four edges of the grid and two diagonals.
        var mean = 0.8 * (4 + (2 * Math.Sqrt(2))) / 6;
        var spacing = PointDensity.Spacing(plate);
        Assert.All(middle, v => Assert.Equal(mean, spacing[v], 1e-9));

        // Of a cloud the four beside it and two of the four across.
        var cloud = PointDensity.Spacing(new(plate.Coordinates, []));
        Assert.All(middle, v => Assert.Equal(mean, cloud[v], 1e-9));

        Assert.All(PointDensity.Moved(Plate(20, 0.8, (_, _) => 0.02), plate), d => Assert.Equal(0.02, d, 1e-9));
        Assert.All(PointDensity.Moved(Plate(20, 0.8, (_, _) => -0.02), plate), d => Assert.Equal(-0.02, d, 1e-9));
    }

    /// <summary>What a patch covers was not measured, and no wall is measured against one.</summary>
    [Fact]
    public void AgainstAPatchThereIsNoThickness()
    {
        var (top, bottom) = (Plate(20, 1, (_, _) => 5), Plate(20, 1, (_, _) => 0));
        var n = top.VertexCount;
        int[] turned = [.. bottom.Indices.Chunk(3).SelectMany(t => (int[])[n + t[0], n + t[2], n + t[1]])];
        double[] points = [.. top.Coordinates, .. bottom.Coordinates];
        var measured = new TriangleMesh(points, [.. top.Indices, .. turned]);
        var patched = new TriangleMesh(points, [.. top.Indices, .. turned], n, top.TriangleCount);
        Assert.All(WallThickness.ByRay(measured, new(measured), 50), d => Assert.Equal(5, d, 1e-9));
        Assert.All(WallThickness.ByRay(patched, new(patched), 50), d => Assert.True(double.IsNaN(d)));
    }

    /// <summary>A square plate of a side from the origin, facing up, in a grid of a step.</summary>
    private static TriangleMesh Plate(double side, double step, Func<double, double, double> height) =>
        Shapes.Field(side, (int)Math.Round(side / step), height);
}
