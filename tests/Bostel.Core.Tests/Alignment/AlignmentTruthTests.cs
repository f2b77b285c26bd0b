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
    [InlineData("VH-310", 1.4, 50)]
    [InlineData("FB-620", 1.2, 6)]
    [InlineData("RC-077", 0.6, 6)]
    [InlineData("LB-045", 0.7, 6)]
    [InlineData("HW-118", 1.4, 6)]
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
            var result = SurfaceAlignment.FitToAllSurfaces(prepared.Transformed(pose), DemoParts.Tree(part));
            var error = result.Transform.After(pose);
            var angle = error.RotationAngle() * 180 / Math.PI;
            var shift = (error.Apply(nominal.Mesh.Bounds.Center) - nominal.Mesh.Bounds.Center).Length;
            if (!(angle < 0.005 && shift < 0.01))
            {
                wrong.Add($"pose {k}: {shift:0.00000} mm, {angle:0.00000}°, rms {result.Rms:0.0000}, {result.Alternatives.Count} alternatives");
            }
        }

        output.WriteLine(string.Join("\n", wrong));
        Assert.Empty(wrong);
    }

    private static RigidTransform RandomPose(Random random, double reach)
    {
        double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        var turn = RigidTransform.FromAxisAngle(new(Normal(), Normal(), Normal()), 2 * Math.PI * random.NextDouble());
        return turn with { Translation = reach * new Vector3D(Normal(), Normal(), Normal()) };
    }
}
