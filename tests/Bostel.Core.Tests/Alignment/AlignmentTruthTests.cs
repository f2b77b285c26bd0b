using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Alignment;

/// <summary>Alignment against the simulated scanner's truth: 0.01 mm and 0.005° at 0.02 mm noise, from any pose.</summary>
public class AlignmentTruthTests(ITestOutputHelper output)
{
    [Theory]
    [InlineData("VH-310", 1.8, 3)]
    [InlineData("FB-620", 1.5, 2)]
    [InlineData("RC-077", 0.8, 3)]
    [InlineData("LB-045", 0.9, 3)]
    [InlineData("HW-118", 1.8, 2)]
    public void EveryRandomPoseIsFound(string part, double spacing, int poses)
    {
        var nominal = DemoParts.Model(part);
        var scan = SimulatedScanner.Scan(nominal, new() { Seed = 11, Spacing = spacing, Noise = 0.02, RandomPose = false });
        var prepared = LoosePieces.DropAllButPart(scan.Mesh, nominal.Mesh.Area()).Mesh;
        var random = new Random(20261125);
        var wrong = new List<string>();
        for (var k = 0; k < poses; k++)
        {
            var pose = RandomPose(random, 300);
            var result = SurfaceAlignment.FitToAllSurfaces(prepared.Transformed(pose), DemoParts.Target(part));
            var error = result.Transform.After(pose);
            var angle = error.RotationAngle() * 180 / Math.PI;
            var shift = (error.Apply(nominal.Mesh.Bounds.Center) - nominal.Mesh.Bounds.Center).Length;
            if (!(angle < 0.005 && shift < 0.01))
            {
                wrong.Add($"pose {k}: {shift:0.00000} mm, {angle:0.00000}°, rms {result.Rms:0.0000}, {result.Alternatives.Count} "
                    + "alternatives");
            }
        }

        output.WriteLine(string.Join("\n", wrong));
        Assert.Empty(wrong);
    }

    /// <summary>
    /// Scans from four near views on one side, some 30 to 60 % of the surface, and whole scans with a foreign body of a tenth of their area
    /// beside them: 0.1 mm and 0.1°, as fewer points hold the pose.
    /// </summary>
    [Theory]
    [InlineData("FB-620", 1.5)]
    [InlineData("LB-045", 0.9)]
    [InlineData("HW-118", 1.8)]
    public void OneSideAndForeignPiecesAreEnough(string part, double spacing)
    {
        var nominal = DemoParts.Model(part);
        var random = new Random(7);
        var wrong = new List<string>();
        for (var k = 0; k < 2; k++)
        {
            var view = RandomPose(random, 0).Rotate(Vector3D.UnitZ);
            var (x, y) = (view.Perpendicular(), view.Cross(view.Perpendicular()));
            double[][] views =
                [.. ((Vector3D[])[view, view + (0.5 * x), view - (0.5 * x), view + (0.5 * y)]).Select(v => v.Normalized().ToArray())];
            var side = SimulatedScanner.Scan(nominal,
                new()
                {
                    Seed = 3 + k,
                    Spacing = spacing,
                    Noise = 0.02,
                    RandomPose = false,
                    Views = views,
                    MostIncidence = 78,
                    StrayPieces = 0,
                    TablePatch = false
                }).Mesh;
            if (side.Area() > 0.3 * nominal.Mesh.Area())
            {
                Check($"side {k}", side);
            }
        }

        var whole = SimulatedScanner.Scan(nominal, new() { Seed = 12, Spacing = spacing, Noise = 0.02, RandomPose = false }).Mesh;
        var ball = Shapes.Sphere(Math.Sqrt(0.1 * whole.Area() / (4 * Math.PI)), 4);
        var beside = nominal.Mesh.Bounds.Center + (0.5 * nominal.Mesh.Bounds.Diagonal * Vector3D.UnitX);
        Check("foreign", new([.. whole.Coordinates, .. ball.Coordinates.Select((c, i) => c + beside[i % 3])],
            [.. whole.Indices, .. ball.Indices.Select(i => i + whole.VertexCount)]));
        Assert.Empty(wrong);

        void Check(string what, TriangleMesh scan)
        {
            var pose = RandomPose(random, 300);
            var result = SurfaceAlignment.FitToAllSurfaces(scan.Transformed(pose), DemoParts.Target(part));
            var error = result.Transform.After(pose);
            var shift = Vector3D.Distance(error.Apply(nominal.Mesh.Bounds.Center), nominal.Mesh.Bounds.Center);
            if (!(error.RotationAngle() * 180 / Math.PI < 0.1 && shift < 0.1))
            {
                wrong.Add($"{what}: {shift:0.000} mm, {error.RotationAngle() * 180 / Math.PI:0.000}°, {result.Alternatives.Count} "
                    + "alternatives");
            }
        }
    }

    /// <summary>
    /// A block without marks fits in four ways: one is chosen, the other three are alternatives as good. One notch decides.
    /// </summary>
    [Fact]
    public void SymmetricPartsHaveAlternativesAndOneNotchDecides()
    {
        var cube = Shapes.Cube(40, 20);
        var center = cube.Bounds.Center;
        TriangleMesh Block(double notch) => new([.. Enumerable.Range(0, cube.VertexCount).Select(cube.Vertex).SelectMany(p =>
        {
            var q = p - center;
            var z = Math.Abs(q.X - 14) < 3 && Math.Abs(q.Y - 13) < 3 && q.Z > 19.9 ? q.Z - notch : q.Z;
            return new[] { 1.5 * q.X, q.Y, 0.6 * z };
        })], cube.Indices);
        var pose = RandomPose(new(4), 200);
        var plain = SurfaceAlignment.FitToAllSurfaces(Shapes.Noisy(Block(0), 0.01, 3).Transformed(pose), new(new(Block(0))));
        Assert.Equal(3, plain.Alternatives.Count);
        Assert.All(plain.Alternatives, a => Assert.InRange(a.TimesWorse, 0.9, 1.1));
        var notched = SurfaceAlignment.FitToAllSurfaces(Shapes.Noisy(Block(3), 0.01, 3).Transformed(pose), new(new(Block(3))));
        Assert.InRange(notched.Transform.After(pose).RotationAngle(), 0, 1e-3);
        Assert.All(notched.Alternatives, a => Assert.True(a.TimesWorse > 1.1));
    }

    private static RigidTransform RandomPose(Random random, double reach)
    {
        double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        var turn = RigidTransform.FromAxisAngle(new(Normal(), Normal(), Normal()), 2 * Math.PI * random.NextDouble());
        return turn with { Translation = reach * new Vector3D(Normal(), Normal(), Normal()) };
    }
}
