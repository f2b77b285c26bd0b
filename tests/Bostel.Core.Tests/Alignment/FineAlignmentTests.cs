using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Alignment;

/// <summary>Locked motions, chosen and weighted surfaces, balancing, and the stated uncertainty of a pose.</summary>
public class FineAlignmentTests
{
    private static readonly TriangleMesh _cube = Shapes.Cube(40, 10);
    private static readonly AlignmentTarget _target = new(new(_cube));

    [Theory]
    [InlineData("turn-z")]
    [InlineData("turn-x,turn-y")]
    [InlineData("shift-x")]
    [InlineData("turn-x,turn-y,turn-z,shift-y")]
    [InlineData("turn-x,turn-y,turn-z,shift-x,shift-y,shift-z")]
    public void LockedMotionsKeepTheStartsValue(string locked)
    {
        var motions = locked.Split(',').Select(AlignmentScope.MotionNamed).ToList();
        var off = RigidTransform.FromTwist(new(0.01, -0.012, 0.008), new(0.3, -0.2, 0.25), _cube.Bounds.Center);
        var result = SurfaceAlignment.RefineFrom(_cube.Transformed(off), _target, RigidTransform.Identity, new() { Locked = motions });
        var (turn, shift) = (result.Transform.RotationVector(), result.Transform.Apply(_cube.Bounds.Center) - _cube.Bounds.Center);
        double[] moved = [turn.X, turn.Y, turn.Z, shift.X, shift.Y, shift.Z];
        for (var i = 0; i < 6; i++)
        {
            if (motions.Contains((Motion)i))
            {
                Assert.Equal(0, moved[i], 1e-12);
                Assert.Equal(0, result.Uncertainty!.Covariance[7 * i]);
            }
            else if (i >= 3)
            {
                Assert.NotEqual(0, moved[i], 0.01);
            }
        }
    }

    /// <summary>Converged: the pose found from two different starts is the same within 1e-6 mm, and the true one on exact data.</summary>
    [Fact]
    public void TheStartLeavesNoTrace()
    {
        var truth = RigidTransform.FromTwist(new(0.4, -0.2, 0.9), new(30, -20, 10), default);
        var scan = _cube.Transformed(truth.Inverse());
        foreach (var off in (Vector3D[])[new(0.01, 0.006, -0.008), new(-0.012, 0, 0.01)])
        {
            var start = RigidTransform.FromTwist(off, 20 * off, _cube.Bounds.Center).After(truth);
            var found = SurfaceAlignment.RefineFrom(scan, _target, start).Transform.After(truth.Inverse());
            foreach (var corner in (Vector3D[])[_cube.Bounds.Min, _cube.Bounds.Max, _cube.Bounds.Center])
            {
                Assert.InRange(Vector3D.Distance(found.Apply(corner), corner), 0, 1e-6);
            }
        }
    }

    /// <summary>The top of a cube is 0.2 mm low. Fitted to all but the top, the other faces lie on their nominals.</summary>
    [Fact]
    public void ChosenSurfacesDecideAlone()
    {
        var box = _cube.Bounds;
        TriangleMesh scan =
            new([.. Enumerable.Range(0, _cube.VertexCount).Select(_cube.Vertex)
                .SelectMany(p => (p.Z > box.Max.Z - 1e-9 ? p - (0.2 * Vector3D.UnitZ) : p).ToArray())], _cube.Indices);
        double[] WithTop(double weight) =>
            [.. Enumerable.Range(0, _cube.TriangleCount).Select(t => _target.Tree.FaceNormal(t).Z > 0.9 ? weight : 1)];
        var without = SurfaceAlignment.RefineFrom(scan, _target, RigidTransform.Identity, new() { TriangleWeights = WithTop(0) });
        Assert.Equal(0, without.Transform.Translation.Z, 1e-4);

        // In noise that hides the step from the robust weights, top and bottom share the 0.2 mm; a heavier top takes more of it, at least
        // 0.2 w / (w + 1).
        var noisy = Shapes.Noisy(scan, 0.12, 3);
        var even = SurfaceAlignment.RefineFrom(noisy, _target, RigidTransform.Identity);
        var heavy = SurfaceAlignment.RefineFrom(noisy, _target, RigidTransform.Identity, new() { TriangleWeights = WithTop(3) });
        Assert.Equal(0.1, even.Transform.Translation.Z, 0.03);
        Assert.InRange(heavy.Transform.Translation.Z, 0.13, 0.2);
    }

    /// <summary>Sides of a cube hold what is square to them, and turns about what lies in them; locked motions are never free.</summary>
    [Theory]
    [InlineData("top", "", "turn-z, shift-x, shift-y")]
    [InlineData("top", "shift-x", "turn-z, shift-y")]
    [InlineData("top,right", "", "shift-y")]
    [InlineData("top,right,back", "", "")]
    public void WhatChosenSurfacesDoNotResistIsFree(string sides, string locked, string free)
    {
        var chosen = sides.Split(',')
            .Select(s => s switch { "top" => Vector3D.UnitZ, "right" => Vector3D.UnitX, _ => Vector3D.UnitY }).ToList();
        var result = SurfaceAlignment.RefineFrom(Shapes.Noisy(_cube, 0.02, 1), _target, RigidTransform.Identity, new()
        {
            Locked = [.. locked.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(AlignmentScope.MotionNamed)],
            TriangleWeights = [.. Enumerable.Range(0, _cube.TriangleCount)
                .Select(t => chosen.Any(n => n.Dot(_target.Tree.FaceNormal(t)) > 0.9) ? 1.0 : 0)],
        });
        var unresisted = Enum.GetValues<Motion>().Where(m => double.IsInfinity(result.Uncertainty!.Covariance[7 * (int)m]));
        Assert.Equal(free, string.Join(", ", unresisted.Select(AlignmentScope.NameOf)));
        Assert.All(Enum.GetValues<Motion>().Except(unresisted), m =>
            Assert.Equal(AlignmentScope.NameOf(m) != locked, result.Uncertainty!.Covariance[7 * (int)m] > 0));
    }

    /// <summary>
    /// A cube 0.3 mm too long, with bands of ±0.05 on its left and ±0.25 on its right: shifted so that the left is out by a, the right is
    /// by 0.3 − a; the greater of a − 0.05 and 0.3 − a − 0.25 is least, zero, at a = 0.05.
    /// </summary>
    [Fact]
    public void BalancingMakesTheWorstPointLeastOutOfTolerance()
    {
        var box = _cube.Bounds;
        TriangleMesh scan =
            new([.. Enumerable.Range(0, _cube.VertexCount).Select(_cube.Vertex)
                .SelectMany(p => (p.X > box.Max.X - 1e-9 ? p + (0.3 * Vector3D.UnitX) : p).ToArray())], _cube.Indices);
        double Half(int t) => _target.Tree.FaceNormal(t).X switch { > 0.9 => 0.25, < -0.9 => 0.05, _ => 0.4 };
        double[] lower = [.. Enumerable.Range(0, _cube.TriangleCount).Select(t => -Half(t))],
        upper = [.. Enumerable.Range(0, _cube.TriangleCount).Select(Half)];
        var scope = new AlignmentScope { Locked = [Motion.TurnX, Motion.TurnY, Motion.TurnZ] };
        var result = SurfaceAlignment.Balance(scan, _target, RigidTransform.Identity, lower, upper, scope);
        Assert.Equal(-0.05, result.Transform.Translation.X, 1e-4);
        Assert.Equal(0, result.LargestOutOfTolerance!.Value, 1e-4);

        // Free to turn it can only do better, and never does worse than least squares.
        var free = SurfaceAlignment.Balance(scan, _target, RigidTransform.Identity, lower, upper);
        Assert.True(free.LargestOutOfTolerance <= result.LargestOutOfTolerance + 1e-6);
    }

    /// <summary>
    /// The same through a plan: the narrow band on the left is that of its surface profile, the wide one elsewhere that of the comparison.
    /// </summary>
    [Fact]
    public void APlanBalancesWithinTheBandsOfItsProfiles()
    {
        var box = _cube.Bounds;
        var runner = new InspectionRunner(Core.Segmentation.CadMeshSegmentation.Recognise(_cube));
        var left = runner.Nominal.Faces.Single(f => f.Shape is Plane3D { Normal.X: < -0.9 });
        TriangleMesh scan =
            new([.. Enumerable.Range(0, _cube.VertexCount).Select(_cube.Vertex)
                .SelectMany(p => (p.X > box.Max.X - 1e-9 ? p + (0.3 * Vector3D.UnitX) : p).ToArray())], _cube.Indices);
        var plan = new InspectionPlan
        {
            Prepare = new() { Steps = [] },
            Compare = new(-0.25, 0.25),
            Align = new AllSurfacesPlan
            {
                Balance = true,
                Start = RigidTransform.Identity.ToArray(),
                Locked = [Motion.TurnX, Motion.TurnY, Motion.TurnZ],
            },
            Characteristics = [new SurfaceProfilePlan(1, "left") { Faces = [left.Id], Tolerance = 0.1 }],
        };
        plan.Check();
        var result = runner.Align(runner.Prepare(scan, plan), plan);
        Assert.Equal(-0.05, result.Transform.Translation.X, 1e-4);
        Assert.Equal(0, result.LargestOutOfTolerance!.Value, 1e-4);
    }

    /// <summary>
    /// Thirty scans of one part whose form waves by 0.03 mm over about 20 mm, each another way, under noise of 0.02 mm: neighbouring points
    /// repeat each other, and the pose scatters as stated all the same. Bounds as below, wider for fewer scans.
    /// </summary>
    [Fact]
    public void ThePoseOfAWavyPartScattersAsStated()
    {
        var nominal = DemoParts.Model("RC-077");
        var target = DemoParts.Target("RC-077");
        var corner = nominal.Mesh.Bounds.Max;
        const int Scans = 30, Waves = 30;
        var (errors, stated) = (new double[Scans], new double[Scans]);
        Parallel.For(0, Scans, k =>
        {
            var scan = SimulatedScanner.Scan(nominal,
                new() { Seed = 100 + k, Spacing = 1.5, Noise = 0.02, RandomPose = false, StrayPieces = 0, TablePatch = false }).Mesh;
            var random = new Random(k);
            var waves = Enumerable.Range(0, Waves).Select(_ =>
            {
                var along = new Vector3D(random.NextDouble() - 0.5, random.NextDouble() - 0.5, random.NextDouble() - 0.5).Normalized();
                return (Wave: 2 * Math.PI / 20 * (0.5 + random.NextDouble()) * along, Phase: 2 * Math.PI * random.NextDouble());
            }).ToArray();
            var wavy = (double[])scan.Coordinates.Clone();
            for (var v = 0; v < scan.VertexCount; v++)
            {
                var height = 0.03 * Math.Sqrt(2.0 / Waves) * waves.Sum(w => Math.Cos(w.Wave.Dot(scan.Vertex(v)) + w.Phase));
                for (var axis = 0; axis < 3; axis++)
                {
                    wavy[(3 * v) + axis] += height * scan.VertexNormals[(3 * v) + axis];
                }
            }

            var result = SurfaceAlignment.RefineFrom(scan.WithCoordinates(wavy), target, RigidTransform.Identity);
            errors[k] = (result.Transform.Apply(corner) - corner).LengthSquared;
            stated[k] = result.Uncertainty!.SigmaAt(corner);
        });
        Assert.InRange(Math.Sqrt(errors.Average()), 0.6 * stated.Average(), 2.3 * stated.Average());
    }

    /// <summary>Sixty scans of one part with independent noise: the pose scatters as its stated uncertainty says.</summary>
    [Fact]
    public void ThePoseScattersAsStated()
    {
        var nominal = DemoParts.Model("LB-045");
        var target = DemoParts.Target("LB-045");
        var corner = nominal.Mesh.Bounds.Max;
        const int Scans = 30;
        var (errors, stated) = (new double[Scans], new double[Scans]);
        Parallel.For(0, Scans, k =>
        {
            var scan = SimulatedScanner.Scan(
                nominal, new() { Seed = 100 + k, Spacing = 1.2, Noise = 0.03, RandomPose = false, StrayPieces = 0, TablePatch = false });
            var result = SurfaceAlignment.RefineFrom(scan.Mesh, target, RigidTransform.Identity);
            errors[k] = (result.Transform.Apply(corner) - corner).LengthSquared;
            stated[k] = result.Uncertainty!.SigmaAt(corner);
        });

        // Scatter about its own mean, so that a bias of the simulated surface does not count; the stated σ is that of the worst of three
        // directions, so the whole scatter lies between it and √3 times it. Thirty scans give a standard deviation within a quarter (two
        // of its standard errors).
        var scatter = Math.Sqrt(errors.Average());
        Assert.InRange(scatter, 0.6 * stated.Average(), 2.2 * stated.Average());
    }

    [Fact]
    public void APlanAlignsByItsDatums()
    {
        var runner = new InspectionRunner(DemoParts.Model("VH-310"));
        var plan = InspectionPlan.Parse(File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "VH-310.json")));
        plan = plan with { Align = new ByDatumsPlan { Datums = [.. plan.Datums.Select(d => d.Label)] } };
        plan.Check();
        var scan = SimulatedScanner.Scan(runner.Nominal, new() { Seed = 5, Spacing = 1.6, Noise = 0.01 });
        var result = runner.Align(runner.Prepare(scan.Mesh, plan), plan);
        Assert.Equal(plan.Datums.Count, result.Steps.Count);
        Assert.Equal(6, result.Steps.Sum(s => s.Fixed) + result.Steps[^1].Free);
        Assert.True(result.Resembles);
        var error = result.Transform.After(RigidTransform.FromArray(scan.Truth.Transform).Inverse());
        Assert.InRange(
            Vector3D.Distance(error.Apply(runner.Target.Tree.Mesh.Bounds.Center), runner.Target.Tree.Mesh.Bounds.Center), 0, 0.05);
    }

    [Theory]
    [InlineData("{\"method\":\"nowhere\"}", "method")]
    [InlineData("{\"method\":\"faces\"}", "faces")]
    [InlineData("{\"method\":\"datums\",\"datums\":[\"Q\"]}", "datums")]
    [InlineData("{\"locked\":[\"turn-x\"]}", "locked")]
    [InlineData("{\"locked\":[\"up\"],\"start\":[1,0,0,0,0,1,0,0,0,0,1,0,0,0,0,1]}", "locked")]
    [InlineData("{\"weights\":[{\"face\":1,\"weight\":-2}]}", "weights")]
    [InlineData("{\"method\":\"reference-points\",\"points\":[{\"name\":\"A\",\"point\":[1,2],\"direction\":[0,0,1]}]}", "points")]
    public void AWrongAlignSectionNamesItsField(string align, string field) => Assert.Contains(
        field, Assert.Throws<BadInputException>(
            () => InspectionPlan.Parse("{\"schema\":\"bostel-plan/2\",\"align\":" + align + "}")).Message, StringComparison.Ordinal);
}
