using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Alignment;

/// <summary>Planes of symmetry and rotation axes found in noisy surfaces in a random pose.</summary>
public class SymmetryTests
{
    private static readonly RigidTransform _pose =
        RigidTransform.FromAxisAngle(new(2, -1, 0.7), 1.9) with { Translation = new(40, -60, 25) };

    [Fact]
    public void TheOnlyPlaneOfSymmetryIsFound()
    {
        // Even in x about the middle, and in nothing else.
        var surface =
            Shapes.Field(60, 60, (x, y) => (0.004 * (x - 30) * (x - 30))
                + (3 * Math.Cos((x - 30) / 6)) + (2 * Math.Sin(y / 5)) + (0.08 * y) + (0.001 * y * y * y / 6));
        var scan = Shapes.Noisy(surface, 0.02, 3).Transformed(_pose);
        var truth = (Plane3D)new Plane3D(surface.Bounds.Center, Vector3D.UnitX).Transformed(_pose);
        var found = SymmetryPlane.Find(scan);
        Assert.NotEmpty(found);

        // 0.02 mm of noise over thousands of points: some micrometres, and their share of the length as an angle.
        Assert.InRange(found[0].Plane.Normal.LineAngleTo(truth.Normal), 0, 5e-4);
        Assert.InRange(Math.Abs(found[0].Plane.Distance(truth.Point)), 0, 0.02);
        Assert.True(found[0].Share > 0.95);
        Assert.All(found.Skip(1), other => Assert.True(other.Share < found[0].Share));
    }

    [Fact]
    public void ABoxHasThreePlanes()
    {
        var cube = Shapes.Cube(40, 16);
        var (center, stretch) = (cube.Bounds.Center, new Vector3D(1, 1.4, 0.6));
        TriangleMesh box =
            new([.. Enumerable.Range(0, cube.VertexCount).Select(v => cube.Vertex(v) - center)
                .SelectMany(p => new[] { p.X * stretch.X, p.Y * stretch.Y, p.Z * stretch.Z })], cube.Indices);
        var found = SymmetryPlane.Find(Shapes.Noisy(box, 0.01, 5).Transformed(_pose)).Where(f => f.Share > 0.9).ToList();
        Assert.Equal(3, found.Count);
        foreach (var axis in (Vector3D[])[Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ])
        {
            var plane = found.MinBy(f => f.Plane.Normal.LineAngleTo(_pose.Rotate(axis)))!.Plane;
            Assert.InRange(plane.Normal.LineAngleTo(_pose.Rotate(axis)), 0, 1e-3);
            Assert.InRange(Math.Abs(plane.Distance(_pose.Translation)), 0, 0.01);
        }
    }

    /// <summary>A turned profile, whole or a third of it round, with noise, and with a block on it that is not turned.</summary>
    [Theory]
    [InlineData(1.0, false)]
    [InlineData(0.33, false)]
    [InlineData(1.0, true)]
    public void TheAxisOfATurnedPartIsFound(double share, bool block)
    {
        var turned = Shapes.Noisy(Turned(share), 0.01, 7);
        var cube = Shapes.Cube(12, 12);
        var part = block
            ? new TriangleMesh([.. turned.Coordinates, .. cube.Coordinates.Select((c, i) => c + (i % 3 == 0 ? 20 : 5))],
                [.. turned.Indices, .. cube.Indices.Select(i => i + turned.VertexCount)])
            : turned;
        var found = RotationAxis.Find(part.Transformed(_pose));
        var truth = (Line3D)new Line3D(default, Vector3D.UnitZ).Transformed(_pose);
        Assert.InRange(found.Axis.Direction.LineAngleTo(truth.Direction), 0, 1e-3);

        // 0.01 mm of noise over ten thousand points: the axis is sure to a few micrometres, and some times that over a third of the circle.
        Assert.InRange(found.Axis.Distance(_pose.Apply(new(0, 0, 20))), 0, 0.01);
        Assert.True(found.Share > (block ? 0.6 : 0.9));
    }

    /// <summary>
    /// Scans of demo parts whose axis is z, with hub, rim and spokes or walls at the same height: 0.02 mm of noise over some thousand
    /// points leaves a micrometre or two, and as much over the part's height as an angle.
    /// </summary>
    [Theory]
    [InlineData("HW-118")]
    [InlineData("VH-310")]
    public void TheAxisOfARealPartIsFound(string part)
    {
        var truth = (Line3D)new Line3D(default, Vector3D.UnitZ).Transformed(_pose);
        foreach (var (surface, allowed) in ((TriangleMesh, double)[])[(Scan(part), 0.01), (DemoParts.Model(part).Mesh, 0.005)])
        {
            var found = RotationAxis.Find(surface.Transformed(_pose));
            Assert.InRange(found.Axis.Direction.LineAngleTo(truth.Direction), 0, 1e-4);
            Assert.InRange(found.Axis.Distance(_pose.Apply(DemoParts.Model(part).Mesh.Bounds.Center with { X = 0, Y = 0 })), 0, allowed);
        }
    }

    /// <summary>
    /// The mirror plane of each, in its scan and in its tessellation; the wheel of five spokes has five but for its keyway and handle.
    /// </summary>
    [Theory]
    [InlineData("VH-310", 0, 1)]
    [InlineData("RC-077", 16, 1)]
    [InlineData("HW-118", 0, 5)]
    public void ThePlaneOfARealPartIsFound(string part, double y, int planes)
    {
        foreach (var surface in (TriangleMesh[])[Scan(part), DemoParts.Model(part).Mesh])
        {
            var found = SymmetryPlane.Find(surface.Transformed(_pose));
            Assert.True(found.Count >= planes, $"{found.Count}");
            if (planes > 1)
            {
                // Five through the axis, 36° apart.
                Assert.All(found.Take(planes), f => Assert.InRange(Math.Abs(f.Plane.Distance(_pose.Translation)), 0, 0.02));
                var turns = found.Take(planes).Select(f => _pose.Inverse().Rotate(f.Plane.Normal))
                    .Select(n => ((Math.Atan2(n.Y, n.X) * 180 / Math.PI) + 360) % 36).ToList();
                Assert.All(turns, t => Assert.InRange(Math.Min(t, 36 - t), 0, 0.05));
                continue;
            }

            Assert.InRange(found[0].Plane.Normal.LineAngleTo(_pose.Rotate(Vector3D.UnitY)), 0, 5e-4);
            Assert.InRange(
                Math.Abs(found[0].Plane.Distance(_pose.Apply(DemoParts.Model(part).Mesh.Bounds.Center with { Y = y }))), 0, 0.02);
        }
    }

    [Fact]
    public void ABracketIsNotTurned()
    {
        // Its large flat faces meet every axis across them; that is no sign of one.
        Assert.Throws<BadInputException>(() => RotationAxis.Find(Scan("LB-045").Transformed(_pose)));
        Assert.Throws<BadInputException>(() => RotationAxis.Find(DemoParts.Model("LB-045").Mesh));
    }

    private static TriangleMesh Scan(string part)
    {
        var nominal = DemoParts.Model(part);
        var scan = SimulatedScanner.Scan(
            nominal, new() { Seed = 4, Spacing = part is "LB-045" or "RC-077" ? 0.8 : 1.4, Noise = 0.02, RandomPose = false }).Mesh;
        return LoosePieces.DropAllButPart(scan, nominal.Mesh.Area()).Mesh;
    }

    [Fact]
    public void WhatIsNotTurnedHasNoAxis()
    {
        // A free surface whose normals meet no line.
        var surface = Shapes.Field(60, 40, (x, y) => (6 * Math.Sin(x / 9)) + (5 * Math.Sin((y / 7) + (x / 31))) + (x * y / 300));
        Assert.Throws<BadInputException>(() => RotationAxis.Find(surface));
    }

    private static TriangleMesh Turned(double share)
    {
        const int Around = 160, Along = 60;
        var points = new List<Vector3D>();
        var triangles = new List<int>();
        for (var i = 0; i <= Around; i++)
        {
            var (s, c) = Math.SinCos(2 * Math.PI * share * i / Around);
            for (var j = 0; j <= Along; j++)
            {
                var z = 40.0 * j / Along;
                var r = 15 + (4 * Math.Sin(z / 5)) + (0.1 * z);
                points.Add(new(r * c, r * s, z));
            }
        }

        for (var i = 0; i < Around; i++)
        {
            for (var j = 0; j < Along; j++)
            {
                var a = (i * (Along + 1)) + j;
                var b = a + Along + 1;
                triangles.AddRange([a, b, b + 1, a, b + 1, a + 1]);
            }
        }

        return Shapes.Mesh(points, triangles);
    }
}
