using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>
/// Material requirements, datums at their boundary, patterns, symmetry and angularity, against closed forms and brute force.
/// </summary>
public class MaterialTests
{
    private static readonly Vector3D Up = Vector3D.UnitZ;

    private static readonly DatumSystem Three = DatumSystem.Build([
        new("A", [Face("A", Vector3D.Zero, -Up)]), new("B", [Face("B", Vector3D.Zero, -Vector3D.UnitY)]),
        new("C", [Face("C", Vector3D.Zero, -Vector3D.UnitX)])]);

    [Theory]
    [InlineData(MaterialLimit.Maximum, true, 8.3, 8.36, 0.06)]
    [InlineData(MaterialLimit.Maximum, false, 8.3, 8.36, 0)]
    [InlineData(MaterialLimit.Maximum, false, 8.3, 8.25, 0.05)]
    [InlineData(MaterialLimit.Least, true, 8.5, 8.36, 0.14)]
    [InlineData(MaterialLimit.Least, false, 8.2, 8.36, 0.16)]
    public void TheBonusIsTheDepartureFromTheLimitAndNeverNegative(
        MaterialLimit limit, bool hole, double size, double actual, double bonus) =>
        Assert.Equal(bonus, new MaterialRequirement(limit, size).Bonus(actual, hole), 1e-12);

    /// <summary>
    /// A hole of ⌀8.36 is 0.06 out of its place: 0.12, of 0.08 allowed. With M at 8.3 it gains 0.06 and conforms; at 8.4 it gains
    /// nothing.
    /// </summary>
    [Fact]
    public void APositionMayConformWithItsBonusAlone()
    {
        Verdict Judge(double? size)
        {
            var plan = new PositionPlan(1, "place")
            {
                Features = ["h"],
                Datums = ["A", "B", "C"],
                Tolerance = 0.08,
                LeastCoverage = 0,
                Material = size is { } s ? new(MaterialLimit.Maximum, s) : null,
            };
            var row = Location.Position([Hole("h", new(40, 25, 0), 4.18, new(0.06, 0, 0))], Three, true, false, null, plan.Material);
            var value = new CharacteristicValue(row.Value, row.Method) { Budget = [], Bonus = row.Bonus, Coverage = 1 };
            var result = Evaluation.Judge(plan, value, new SimpleRule(), new() { LengthError = 0 }, new());
            Assert.Equal(0.12, result.Measured!.Value, 1e-9);
            Assert.Equal(row.Bonus, result.Bonus, 1e-12);
            return result.Verdict;
        }

        Assert.Equal(Verdict.NonConforming, Judge(null));
        Assert.Equal(Verdict.Conforming, Judge(8.3));
        Assert.Equal(Verdict.NonConforming, Judge(8.4));
    }

    /// <summary>
    /// Four holes about datum bore B at its boundary, each made off by a vector of its own: the best shift of all is that of brute force
    /// over a fine grid of the circle.
    /// </summary>
    [Theory]
    [InlineData(0.02, 1)]
    [InlineData(0.05, 2)]
    [InlineData(0.3, 3)]
    public void APatternIsShiftedToWhereItsWorstMemberIsBest(double radius, int seed)
    {
        var random = new Random(seed);
        Vector3D Off() => new(0.2 * (random.NextDouble() - 0.3), 0.2 * (random.NextDouble() - 0.6), 0);
        Vector3D[] off = [.. Enumerable.Range(0, 4).Select(_ => Off())];
        FeatureResult[] holes = [.. off.Select((o, i) =>
            Hole($"h{i}", new(30 * Math.Cos(i * Math.PI / 2), 30 * Math.Sin(i * Math.PI / 2), 0), 4, o))];
        var bore = Hole("B", Vector3D.Zero, 8.3 + radius, Vector3D.Zero);
        var system = DatumSystem.Build([
            new("A", [Face("A", Vector3D.Zero, -Up)]), new("B", [bore]), new("C", [Face("C", new(60, 0, 0), Vector3D.UnitX)])]);
        var shift = DatumShift.Of(new("B", 16.6), new("B", [bore]));
        Assert.Equal(radius, shift.Radius, 1e-12);
        var found = Location.Position(holes, system, true, true, shift);
        var best = double.PositiveInfinity;
        const int Steps = 400;
        for (var i = -Steps; i <= Steps; i++)
        {
            for (var k = -Steps; k <= Steps; k++)
            {
                var d = new Vector3D(radius * i / Steps, radius * k / Steps, 0);
                best = d.Length <= radius ? Math.Min(best, 2 * off.Max(o => (o + d).Length)) : best;
            }
        }

        // The grid misses the best place by half a step at most, and the worst member's diameter by twice that.
        Assert.InRange(found.Value, best - (2 * radius / Steps), best + 1e-6);
        Assert.Contains("h3", found.Remark, StringComparison.Ordinal);
    }

    /// <summary>Places that coincide but for the last digits of their coordinates lie in a circle of hardly any size.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(40)]
    [InlineData(4e5)]
    public void PlacesThatCoincideNeedNoCircle(double far)
    {
        var digit = Math.BitIncrement(far) - far;
        Vector3D[] places = [.. Enumerable.Range(0, 5).Select(i => new Vector3D(far + (i % 3 * digit), far - (i % 2 * digit), 0))];
        Assert.InRange(SmallestCircle.Diameter(places), 0, 1e-14 * far);
    }

    /// <summary>A slot whose sides lie 0.03 too far to one side; and a single hole as far.</summary>
    [Fact]
    public void SymmetryIsTwiceTheDistanceOfTheMiddle()
    {
        var middle = DatumSystem.Build([new("M", [Face("M", Vector3D.Zero, Vector3D.UnitX)])]);
        var (left, right) = (Side("l", new(-4, 0, 0), Vector3D.UnitX, 0.03), Side("r", new(4, 0, 0), -Vector3D.UnitX, 0.03));
        Assert.Equal(0.06, Symmetry.Of([left, right], middle, false).Raw!.Value, 1e-9);
        Assert.Equal(0.06, Symmetry.Of([Hole("h", new(0, 7, 0), 3, new(0.03, 0, 0))], middle, true).Raw!.Value, 1e-9);
        Refused("not symmetrical", () => Symmetry.Of([Hole("h", new(2, 7, 0), 3, Vector3D.Zero)], middle, true));
        Refused("the face opposite", () => Symmetry.Of([left], middle, true));
    }

    /// <summary>
    /// A face nominally at 30° to A, made steeper by 1 mrad and turned about A by 5 mrad: A alone lets the zone turn with it, a second
    /// datum does not.
    /// </summary>
    [Fact]
    public void AnAngularityTurnsAboutItsFirstDatumOnly()
    {
        var normal = new Vector3D(0, Math.Sin(Math.PI / 6), Math.Cos(Math.PI / 6));
        var turn = RigidTransform.FromAxisAngle(Up, 0.005);
        var steeper = RigidTransform.FromAxisAngle(Vector3D.UnitX, -0.001);
        FeatureResult Made(RigidTransform made) => Face("t", new(0, 0, 40), normal, made);
        var first = new Datum("A", [Face("A", Vector3D.Zero, -Up)]);
        var alone = DatumSystem.Build([first]);
        var both = DatumSystem.Build([first, new("B", [Face("B", Vector3D.Zero, -Vector3D.UnitY)])]);

        // Its corners reach 10 mm to both sides along the slope.
        Assert.Equal(20 * Math.Sin(0.001), Orientation.Angularity(Made(turn.After(steeper)), alone, null).Value, 2e-6);
        Assert.Equal(0, Orientation.Angularity(Made(turn), alone, null).Value, 2e-6);
        var held = Orientation.Angularity(Made(turn), both, null).Value;
        Assert.True(held > 20 * Math.Sin(0.005) * Math.Sin(Math.PI / 6) * 0.99, $"{held}");

        // An axis at the same angle.
        var axis = Hole("h", new(0, 0, 40), 3, Vector3D.Zero, normal, turn.Rotate(normal));
        Assert.Equal(0, Orientation.Angularity(axis, alone, null, straight: true).Value, 1e-7);
        var off = (turn.Rotate(normal) - (turn.Rotate(normal).Dot(normal) * normal)).Length * 12 / turn.Rotate(normal).Dot(normal);
        Assert.Equal(off, Orientation.Angularity(axis, both, null, straight: true).Value, 1e-6);
    }

    private static void Refused(string why, Action act) =>
        Assert.Contains(why, Assert.Throws<BadInputException>(act).Message, StringComparison.Ordinal);

    private static FeatureResult Side(string id, Vector3D at, Vector3D normal, double shift)
    {
        var points = new List<double>();
        for (var y = -5.0; y <= 5; y += 0.5)
        {
            for (var z = 0.0; z <= 8; z += 0.5)
            {
                points.AddRange([at.X + shift, y, z]);
            }
        }

        var made = MadeFeature.Fitted(id, new Plane3D(at, normal), [.. points]);
        return made with { Areas = [.. made.Residuals.Select(_ => 0.25)], Nominal = made.Nominal with { Center = at } };
    }

    private static FeatureResult Face(string id, Vector3D at, Vector3D normal, RigidTransform? made = null)
    {
        var (u, v) = (normal.Perpendicular(), normal.Cross(normal.Perpendicular()));
        var turn = made ?? RigidTransform.Identity;
        double[] points = [.. new[] { 10 * u, -10 * u, 10 * v, -10 * v }.SelectMany(p => (at + turn.Rotate(p)).ToArray())];
        return new(new(id, id, [0]), new(0, "plane", 1, false, 0, 0, 0, at) { Shape = new Plane3D(at, normal) },
            new Plane3D(at, turn.Rotate(normal)), points, new double[4])
        { Areas = [1, 1, 1, 1] };
    }

    private static FeatureResult Hole(
        string id, Vector3D at, double radius, Vector3D off, Vector3D? along = null, Vector3D? madeAlong = null)
    {
        var nominal = new Cylinder3D(at, along ?? Up, radius);
        var shape = new Cylinder3D(at + off, madeAlong ?? along ?? Up, radius);
        var (u, v) = (shape.Axis.Perpendicular(), shape.Axis.Cross(shape.Axis.Perpendicular()));
        double[] points = [.. Enumerable.Range(0, 24).SelectMany(i => (shape.Point
            + (radius * ((Math.Cos(Math.PI * i / 6) * u) + (Math.Sin(Math.PI * i / 6) * v))) + (i < 12 ? 2 : 10) * shape.Axis).ToArray())];
        return new(new(id, id, [0]), new(0, "cylinder", 1, true, 0, 12, 6.28, at) { Shape = nominal }, shape, points, new double[24]);
    }
}
