using Bostel.Core.Alignment;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Alignment;

/// <summary>Alignments by datums, reference points, point pairs and axes, on exact geometry in random poses.</summary>
public class DatumAlignmentTests
{
    private static readonly Dictionary<string, Shape> _nominal = new()
    {
        ["bottom"] = new Plane3D(new(20, 10, 0), -Vector3D.UnitZ),
        ["front"] = new Plane3D(new(20, 0, 8), -Vector3D.UnitY),
        ["left"] = new Plane3D(new(0, 12, 8), -Vector3D.UnitX),
        ["bore"] = new Cylinder3D(new(15, 10, 8), Vector3D.UnitZ, 4),
        ["hole"] = new Cylinder3D(new(35, 14, 8), Vector3D.UnitZ, 3),
        ["cross"] = new Cylinder3D(new(25, 10, 6), Vector3D.UnitX, 2),
        ["slot"] = new Slot3D(new(28, 6, 0), -Vector3D.UnitZ, new Vector3D(3, 4, 0).Normalized(), 14, 6),
        ["edge"] = new Line3D(new(20, 0, 0), Vector3D.UnitX),
        ["ball"] = new Sphere3D(new(40, 5, 3), 5),
        ["tip"] = new Sphere3D(new(3, 18, 9), 0),
        ["knob"] = new Sphere3D(new(30, 2, 12), 0),
    };

    /// <summary>Sequences and the degrees of freedom each datum fixes.</summary>
    public static TheoryData<string, int[]> Sequences() => new()
    {
        { "bottom|edge|tip", [3, 2, 1] },
        { "bottom|bore|hole", [3, 2, 1] },
        { "bottom|front|left", [3, 2, 1] },
        { "bore|bottom|tip", [4, 1, 1] },
        { "bore|cross|left", [4, 2, 0] },
        { "edge|bottom|left", [4, 1, 1] },
        { "ball|tip|knob", [3, 2, 1] },
        { "bottom|slot", [3, 3] },
        { "slot|bottom", [5, 1] },
        { "bottom|bore|slot", [3, 2, 1] },
        { "bottom|bore+hole", [3, 3] },
        { "bore+hole|bottom", [5, 1] },
        { "cross|bottom|bore", [4, 1, 1] },
    };

    [Theory]
    [MemberData(nameof(Sequences))]
    public void DatumsFindThePoseFromAnywhere(string sequence, int[] fixes)
    {
        var random = new Random(sequence.Length);
        for (var k = 0; k < 20; k++)
        {
            var pose = Pose(random, 500);
            var found = DatumAlignment.Solve(Datums(sequence, pose));
            Assert.Equal(fixes, found.Steps.Select(s => s.Fixed));
            Assert.Equal(0, found.FreeDegrees);
            Assert.All(found.Steps, s => Assert.InRange(s.Residual, 0, 1e-8));
            AssertIdentity(found.Transform.After(pose.Inverse()), 1e-8);
        }
    }

    [Theory]
    [InlineData("bottom", 3, "turn about z")]
    [InlineData("bottom|bore", 1, "turn about z through (15, 10")]
    [InlineData("bottom|front", 1, "shift along x")]
    [InlineData("bore", 2, "turn about z through (15, 10")]
    [InlineData("bore|hole", 1, "shift along z")]
    [InlineData("ball", 3, "turn about")]
    [InlineData("front|cross|edge", 1, "shift along x")]
    public void WhatIsNotSufficientSaysWhatIsFree(string sequence, int free, string says)
    {
        var found = DatumAlignment.Solve(Datums(sequence, Pose(new(5), 100)));
        Assert.Equal(free, found.FreeDegrees);
        Assert.Contains(says, found.Free, StringComparison.Ordinal);
    }

    /// <summary>
    /// A bottom tilted against the front by a small angle: the primary lies on its nominal exactly, the secondary as far as the primary
    /// lets it, and what both leave free keeps the start's value.
    /// </summary>
    [Fact]
    public void TheOrderOfDatumsIsTheirPrecedence()
    {
        const double Tilt = 0.004;
        var tilted = new Plane3D(new(20, 0, 8), RigidTransform.FromAxisAngle(Vector3D.UnitX, Tilt).Rotate(-Vector3D.UnitY));
        AlignmentDatum Bottom() => new("A", [new(_nominal["bottom"], _nominal["bottom"], new(20, 10, 0))]);
        AlignmentDatum Front() => new("B", [new(tilted, _nominal["front"], new(20, 0, 8))]);
        var start = RigidTransform.FromTranslation(new(0.3, 0, 0));
        var bottomFirst = DatumAlignment.Solve([Bottom(), Front()], start);
        Assert.InRange(bottomFirst.Transform.RotationAngle(), 0, 1e-10);
        Assert.Equal(0.3, bottomFirst.Transform.Translation.X, 1e-10);
        var frontFirst = DatumAlignment.Solve([Front(), Bottom()], start);
        Assert.Equal(Tilt, frontFirst.Transform.RotationAngle(), 1e-9);
        Assert.Equal(0.3, frontFirst.Transform.Apply(new(20, 0, 8)).X - 20, 1e-9);
    }

    [Fact]
    public void ADatumThatAddsNothingSaysSo()
    {
        var found = DatumAlignment.Solve(Datums("bore|bottom|hole|ball", Pose(new(3), 50)));
        Assert.Equal([4, 1, 1, 0], found.Steps.Select(s => s.Fixed));
        Assert.Contains("adds nothing", found.Steps[3].Says, StringComparison.Ordinal);
    }

    [Fact]
    public void PointPairsFindThePoseAndWeighThem()
    {
        var random = new Random(6);
        var points = Enumerable.Range(0, 5).Select(_ => new Vector3D(random.NextDouble(), random.NextDouble(), random.NextDouble()) * 80)
            .ToArray();
        var pose = Pose(random, 300);
        var back = pose.Inverse();
        var (exact, residuals) = PointPairs.Fit([.. points.Select(p => new PointPair(back.Apply(p), p))]);
        AssertIdentity(exact.After(back), 1e-9);
        Assert.All(residuals, r => Assert.InRange(r, 0, 1e-9));

        // One pair is off by 1 mm: with weight 0 it says so and moves nothing.
        var (weighted, off) =
            PointPairs.Fit([.. points.Select((p, i) => new PointPair(back.Apply(p), i == 0 ? p + Vector3D.UnitX : p, i == 0 ? 0 : 1))]);
        AssertIdentity(weighted.After(back), 1e-9);
        Assert.Equal(1, off[0], 1e-9);
        Assert.Contains("line",
            Assert.ThrowsAny<BadInputException>(() => PointPairs.Fit(
            [.. Enumerable.Range(0, 4).Select(i => new PointPair(new(i, i, 0), new(i, 0, i)))])).Message, StringComparison.Ordinal);
        Assert.Contains("too few", Assert.ThrowsAny<BadInputException>(
            () => PointPairs.Fit([new(default, default), new(Vector3D.UnitX, Vector3D.UnitX)])).Message, StringComparison.Ordinal);
    }

    /// <summary>Least squares: no small motion makes the weighted sum of squares smaller.</summary>
    [Fact]
    public void NoNeighbouringPoseFitsPointPairsBetter()
    {
        var random = new Random(9);
        double Noise() => random.NextDouble() - 0.5;
        var pairs = Enumerable.Range(0, 8).Select(_ => new Vector3D(Noise(), Noise(), Noise()) * 60)
            .Select(p => new PointPair(p + new Vector3D(Noise(), Noise(), Noise()), p, 0.5 + random.NextDouble())).ToArray();
        double Sum(RigidTransform t) => pairs.Sum(p => p.Weight * (t.Apply(p.Scan) - p.Nominal).LengthSquared);
        var best = PointPairs.Fit(pairs).Transform;
        for (var i = 0; i < 100; i++)
        {
            var twist = RigidTransform.FromTwist(
                1e-4 * new Vector3D(Noise(), Noise(), Noise()), 1e-3 * new Vector3D(Noise(), Noise(), Noise()), default);
            Assert.True(Sum(twist.After(best)) >= Sum(best));
        }
    }

    [Fact]
    public void ReferencePointsLockThePart()
    {
        var cube = Shapes.Cube(40, 8);
        var box = cube.Bounds;
        var pose = RigidTransform.FromTwist(new(0.02, -0.03, 0.01), new(0.8, -0.5, 0.6), box.Center);
        var tree = new TriangleTree(cube.Transformed(pose.Inverse()));
        Vector3D At(double x, double y, double z) => box.Min + new Vector3D(x * box.Size.X, y * box.Size.Y, z * box.Size.Z);
        ReferencePoint[] six =
        [
            new("Z1", At(0.2, 0.2, 1), Vector3D.UnitZ), new("Z2", At(0.8, 0.2, 1), Vector3D.UnitZ),
            new("Z3", At(0.5, 0.8, 1), Vector3D.UnitZ),
            new("Y1", At(0.2, 0, 0.5), -Vector3D.UnitY), new("Y2", At(0.8, 0, 0.5), -Vector3D.UnitY),
            new("X1", At(0, 0.5, 0.5), -Vector3D.UnitX),
        ];
        var found = ReferencePoints.Fit(tree, six, RigidTransform.Identity, 5);
        AssertIdentity(found.Transform.After(pose.Inverse()), 1e-8);
        Assert.All(found.Steps, s => Assert.Equal(0, s.Residual, 1e-9));

        // An offset along its direction stays as a distance: the part stands 0.25 mm to the right of X1.
        var offset =
            ReferencePoints.Fit(tree, [.. six.Select(p => p.Name == "X1" ? p with { Offset = 0.25 } : p)], RigidTransform.Identity, 5);
        Assert.Equal(-0.25, offset.Transform.After(pose.Inverse()).Translation.X, 1e-8);

        var flat = Enumerable.Range(0, 6)
            .Select(i => new ReferencePoint($"Z{i}", At(0.15 * (i + 0.5), i % 2 == 0 ? 0.3 : 0.7, 1), Vector3D.UnitZ)).ToArray();
        var error = Assert.ThrowsAny<BadInputException>(() => ReferencePoints.Fit(tree, flat, RigidTransform.Identity, 5)).Message;
        Assert.Contains("free", error, StringComparison.Ordinal);
        Assert.Contains("turn about", error, StringComparison.Ordinal);
        Assert.Contains("too few", Assert.ThrowsAny<BadInputException>(
            () => ReferencePoints.Fit(tree, six[..5], RigidTransform.Identity, 5)).Message, StringComparison.Ordinal);
        Assert.Contains("X9",
            Assert.ThrowsAny<BadInputException>(() => ReferencePoints.Fit(
            tree, [.. six, new("X9", At(-1, 0.5, 0.5), -Vector3D.UnitX)], RigidTransform.Identity, 5)).Message, StringComparison.Ordinal);
    }

    /// <summary>
    /// With more points than degrees of freedom a heavier one is met more closely: for two opposite demands in the ratio of the weights.
    /// </summary>
    [Fact]
    public void WeightsShareOutWhatDoesNotFit()
    {
        var cube = Shapes.Cube(40, 8);
        var box = cube.Bounds;
        Vector3D At(double x, double y, double z) => box.Min + new Vector3D(x * box.Size.X, y * box.Size.Y, z * box.Size.Z);
        ReferencePoint[] points =
        [
            new("Z1", At(0.2, 0.2, 1), Vector3D.UnitZ), new("Z2", At(0.8, 0.2, 1), Vector3D.UnitZ),
            new("Z3", At(0.5, 0.8, 1), Vector3D.UnitZ),
            new("Y1", At(0.2, 0, 0.5), -Vector3D.UnitY), new("Y2", At(0.8, 0, 0.5), -Vector3D.UnitY),
            new("left", At(0, 0.5, 0.5) - (0.3 * Vector3D.UnitX), -Vector3D.UnitX, 2), new("right", At(1, 0.5, 0.5), Vector3D.UnitX),
        ];
        var found = ReferencePoints.Fit(new(cube), points, RigidTransform.Identity, 5);

        // The cube is 0.3 mm too narrow: 2 a² + b² with a + b = 0.3 is least at a = 0.1.
        var left = found.Steps.Single(s => s.Name == "left").Residual;
        var right = found.Steps.Single(s => s.Name == "right").Residual;
        Assert.Equal(-0.1, left, 1e-6);
        Assert.Equal(-0.2, right, 1e-6);
    }

    [Theory]
    [InlineData("z", "x")]
    [InlineData("-y", "z")]
    [InlineData("x", "-y")]
    public void AnAxisSystemPutsGeometryOnItsAxes(string first, string second)
    {
        var (origin, a, b) = (new Vector3D(3, 4, 5), new Vector3D(1, 2, 2), new Vector3D(0, 1, -3));
        var system = AxisSystem.From(origin, a, b, first, second);
        Assert.InRange(system.Apply(origin).Length, 0, 1e-12);
        Assert.InRange(Vector3D.Distance(system.Rotate(a.Normalized()), Unit(first)), 0, 1e-12);
        var turned = system.Rotate(b);
        Assert.True(turned.Dot(Unit(second)) > 0);
        Assert.Equal(0, turned.Dot(Unit(first).Cross(Unit(second))), 1e-12);
        Assert.ThrowsAny<BadInputException>(() => AxisSystem.From(origin, a, a, first, second));
        Assert.ThrowsAny<BadInputException>(() => AxisSystem.From(origin, a, b, "x", "-x"));
    }

    private static Vector3D Unit(string name) =>
        (name[0] == '-' ? -1 : 1) * (name[^1] switch { 'x' => Vector3D.UnitX, 'y' => Vector3D.UnitY, _ => Vector3D.UnitZ });

    private static List<AlignmentDatum> Datums(string sequence, RigidTransform pose) =>
        [.. sequence.Split('|').Select(d => new AlignmentDatum(d, [.. d.Split('+').Select(name =>
    {
        var nominal = _nominal[name];
        var back = pose.Inverse();

        // Measured somewhere on the feature, not at its nominal reference point.
        var slide = nominal switch { Plane3D p => 3 * p.Normal.Perpendicular(), Cylinder3D c => 2 * c.Axis, Line3D l => -4 * l.Direction,
            _ => default };
        return new DatumPair(nominal.Transformed(back), nominal, back.Apply(DatumAlignment.NominalPlace(nominal) + slide));
    })]))];

    private static RigidTransform Pose(Random random, double reach)
    {
        Vector3D Any() => new(random.NextDouble() - 0.5, random.NextDouble() - 0.5, random.NextDouble() - 0.5);
        return RigidTransform.FromAxisAngle(Any(), 6 * random.NextDouble()) with { Translation = reach * Any() };
    }

    private static void AssertIdentity(RigidTransform t, double within)
    {
        Assert.InRange(t.RotationAngle(), 0, within);
        Assert.InRange(t.Apply(new(20, 10, 5)) is var p ? Vector3D.Distance(p, new(20, 10, 5)) : 0, 0, 50 * within);
    }
}
