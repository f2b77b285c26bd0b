using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>
/// Sizes, orientation and location of ideal features whose values follow from their geometry, wherever in space the measurement was made.
/// </summary>
public class ClosedFormToleranceTests
{
    private static readonly Vector3D Up = Vector3D.UnitZ;

    [Fact]
    public void ADiameterIsTwiceTheRadiusAndAPlaneHasNone()
    {
        Assert.Equal(16, Size.Diameter(Hole("h", new(1, 2, 3), Up, 8, 20)).Value, 1e-12);
        Assert.Contains("no diameter", Assert.Throws<BadInputException>(() => Size.Diameter(Face("f", Vector3D.Zero, Up))).Message,
            StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    public void DistancesAreThoseOfTheGeometry(int seed)
    {
        var m = Motion(seed);
        var floor = Face("floor", Vector3D.Zero, -Up).Moved(m);
        var top = Face("top", new(3, 4, 12.5), Up).Moved(m);
        var hole = Hole("hole", new(10, 0, 0), Up, 3, 10).Moved(m);
        var other = Hole("other", new(10, 24, 0), Up, 3, 10).Moved(m);
        var cross = Hole("cross", new(0, 0, 7), Vector3D.UnitX, 2, 20).Moved(m);
        Assert.Equal(12.5, Size.Distance(floor, top).Value, 1e-9);
        Assert.Equal(24, Size.Distance(hole, other).Value, 1e-9);
        Assert.Equal(7, Size.Distance(floor, cross).Value, 1e-9);

        // The order of a plane and an axis does not matter.
        Assert.Equal(7, Size.Distance(cross, floor).Value, 1e-9);
    }

    [Theory]
    [InlineData(0.0)]
    [InlineData(30.0)]
    [InlineData(89.0)]
    public void AnglesBetweenPlanesAxesAndBoth(double degrees)
    {
        var m = Motion(5);
        var tilted = RigidTransform.FromAxisAngle(Vector3D.UnitX, degrees * Math.PI / 180).Rotate(Up);
        var floor = Face("a", Vector3D.Zero, Up).Moved(m);
        Assert.Equal(degrees, Size.Angle(floor, Face("b", new(5, 5, 5), tilted).Moved(m), degrees).Value, 1e-9);
        Assert.Equal(
            degrees, Size.Angle(Hole("c", Vector3D.Zero, Up, 2, 9).Moved(m), Hole("d", new(9, 9, 9), tilted, 2, 9).Moved(m), degrees).Value,
            1e-9);

        // An axis tilted from the normal by an angle makes its complement with the plane.
        Assert.Equal(90 - degrees, Size.Angle(floor, Hole("e", new(9, 9, 9), tilted, 2, 9).Moved(m), 90 - degrees).Value, 1e-9);
    }

    /// <summary>Nominal walls at an angle, made with another: the drawing's branch is read, never folded into 0 to 90°.</summary>
    [Theory]
    [InlineData(150, 150.2, 150, 150.2)]
    [InlineData(150, 150.2, 30, 29.8)]
    [InlineData(30, 29.5, 30, 29.5)]
    [InlineData(90, 90.3, 90, 89.7)]
    [InlineData(90, 89.6, 90, 90.4)]
    public void AnglesAreNotFolded(double between, double made, double asked, double expected)
    {
        // Angles here are between outward normals; the material of a corner has the supplement, which decides at 90°.
        static Vector3D Turned(double degrees) => RigidTransform.FromAxisAngle(Vector3D.UnitX, degrees * Math.PI / 180).Rotate(Up);
        var floor = Face("a", Vector3D.Zero, Up);
        var wall = Face(
            "b", new(0, 30, 0), Turned(between), RigidTransform.FromAxisAngle(Vector3D.UnitX, (made - between) * Math.PI / 180));
        Assert.Equal(expected, Size.Angle(floor, wall, asked).Value, 1e-9);
        Assert.Equal(expected, Size.Angle(wall, floor, asked).Value, 1e-9);
    }

    [Fact]
    public void ABallIsMeasuredAcrossTheAxisAndPlanesAreAlikeInBothOrders()
    {
        // The ball's centre is 3-4-5 off the axis, however far along it.
        var hole = Hole("h", Vector3D.Zero, Up, 3, 10);
        var ball = Ball("s", new(3, 4, 70), 2);
        Assert.Equal(5, Size.Distance(hole, ball).Value, 1e-9);
        Assert.Equal(5, Size.Distance(ball, hole).Value, 1e-9);

        var floor = Face("floor", Vector3D.Zero, -Up, RigidTransform.FromAxisAngle(Vector3D.UnitX, 0.002));
        var top = Face("top", new(3, 40, 12.5), Up);
        Assert.Equal(Size.Distance(floor, top).Value, Size.Distance(top, floor).Value, 1e-12);

        // Along the mean normal, 0.001 rad askew, the 40 mm across take off 0.04 mm.
        Assert.Equal(12.5, Size.Distance(floor, top).Value, 0.041);
    }

    [Fact]
    public void AStepToTheOtherSideIsNegativeAndPlanesAtAnAngleHaveNoDistance()
    {
        var low = Face("low", Vector3D.Zero, Up);
        var sunken = Face("high", new(30, 0, 0.2), Up) with { Shape = new Plane3D(new(30, 0, -0.1), Up) };
        var points = sunken.Points.Select((v, i) => i % 3 == 2 ? -0.1 : v).ToArray();
        Assert.Equal(-0.1, Size.Distance(low, sunken with { Points = points }).Value, 1e-12);
        var wall = Face("wall", new(0, 0, 9), Vector3D.UnitX);
        Assert.Contains("not parallel", Assert.Throws<BadInputException>(() => Size.Distance(low, wall)).Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(0.001)]
    [InlineData(0.02)]
    public void ATiltedPlaneIsOffByItsExtentTimesTheSineOfTheTilt(double tilt)
    {
        // The four points of a face lie 10 mm about its middle along two directions: tilted about one of them the others rise by ±10·sin.
        foreach (var seed in (int[])[0, 3])
        {
            var m = Motion(seed);
            var turn = RigidTransform.FromAxisAngle(Up.Perpendicular(), tilt);
            var datum = Datums(("A", Face("A", Vector3D.Zero, -Up).Moved(m)));
            var tilted = Face("t", new(0, 0, 30), Up, turn).Moved(m);
            Assert.Equal(20 * Math.Sin(tilt), Orientation.Parallelism(tilted, datum, null).Value, 1e-9);

            // Perpendicular to an axis is parallel to its cross section.
            var axis = Datums(("B", Hole("B", Vector3D.Zero, Up, 4, 12).Moved(m)));
            Assert.Equal(20 * Math.Sin(tilt), Orientation.Perpendicularity(tilted, axis, null).Value, 1e-9);
        }
    }

    [Theory]
    [InlineData(0.004)]
    [InlineData(0.05)]
    public void ATiltedAxisIsOffByItsLengthTimesTheTangent(double tilt)
    {
        // The planes that end an axis are those of the nominal: the measurement is in nominal coordinates here, as after the alignment.
        var m = Motion(0);
        var lean = RigidTransform.FromAxisAngle(Vector3D.UnitY, tilt).Rotate(Up);

        // The nominal goes straight up over 25 mm; its ends cut the leaning axis 25·tan apart.
        var leaning = Hole("h", new(2, 0, 0), Up, 3, 25, lean).Moved(m);
        var expected = 25 * Math.Tan(tilt);
        Assert.Equal(
            expected, Orientation.Perpendicularity(leaning, Datums(("A", Face("A", Vector3D.Zero, -Up).Moved(m))), null).Value, 1e-9);
        Assert.Equal(
            expected, Orientation.Parallelism(leaning, Datums(("B", Hole("B", new(30, 0, 0), Up, 4, 25).Moved(m))), null).Value, 1e-9);

        // To a wall that holds the lean's plane only the part across it counts: none along y, all along x.
        Assert.Equal(
            0, Orientation.Parallelism(leaning, Datums(("C", Face("C", Vector3D.Zero, Vector3D.UnitY).Moved(m))), null).Value, 1e-9);
        Assert.Equal(
            expected, Orientation.Parallelism(leaning, Datums(("D", Face("D", Vector3D.Zero, Vector3D.UnitX).Moved(m))), null).Value, 1e-9);
    }

    [Theory]
    [InlineData(0, 0.03, 0.04)]
    [InlineData(2, -0.12, 0.05)]
    [InlineData(9, 0, 0)]
    public void APositionIsTwiceTheOffsetFromTheTruePlace(int seed, double dx, double dy)
    {
        var m = Motion(seed);
        var system = DatumSystem.Build([
            new("A", [Face("A", Vector3D.Zero, -Up).Moved(m)]),
            new("B", [Face("B", Vector3D.Zero, -Vector3D.UnitY).Moved(m)]),
            new("C", [Face("C", Vector3D.Zero, -Vector3D.UnitX).Moved(m)]),
        ]);
        Assert.Equal(0, system.FreeDegrees);

        // The bore is nominal at (40, 25) and was made off by (dx, dy).
        var bore = Hole("h", new(40, 25, 0), Up, 5, 12, madeAt: new(40 + dx, 25 + dy, 0)).Moved(m);
        Assert.Equal(2 * Math.Sqrt((dx * dx) + (dy * dy)), Location.Position([bore], system).Value, 1e-9);
    }

    [Fact]
    public void ALeaningBoreIsJudgedAtItsWorseEnd()
    {
        var lean = new Vector3D(0.01, 0, 1).Normalized();
        var system = DatumSystem.Build([
            new("A", [Face("A", Vector3D.Zero, -Up)]), new("B", [Face("B", Vector3D.Zero, -Vector3D.UnitY)]),
            new("C", [Face("C", Vector3D.Zero, -Vector3D.UnitX)]),
        ]);

        // True at the bottom, 0.01·12 off at the top.
        Assert.Equal(2 * 0.12, Location.Position([Hole("h", new(40, 25, 0), Up, 5, 12, lean)], system).Value, 1e-9);
    }

    /// <summary>
    /// A wall square to A that is turned about A by 0.01: A alone lets its zone turn with it; a second datum, an axis beside B's wall,
    /// holds it, and the 20 mm of the wall lean out of the zone by 20·sin.
    /// </summary>
    [Fact]
    public void ASecondDatumHoldsTheZoneOfAPerpendicularity()
    {
        var wall = Face("t", new(0, 30, 0), Vector3D.UnitY, RigidTransform.FromAxisAngle(Up, 0.01));
        var first = ("A", Face("A", Vector3D.Zero, -Up));
        Assert.Equal(0, Orientation.Perpendicularity(wall, Datums(first), null).Value, 1e-9);
        var held = Datums(first, ("B", Face("B", Vector3D.Zero, -Vector3D.UnitY)));
        Assert.Equal(20 * Math.Sin(0.01), Orientation.Perpendicularity(wall, held, null).Value, 1e-9);
    }

    /// <summary>
    /// A radial dowel hole 8 mm deep, 50 mm from the bore, clocks the part. Its place is right, its direction 0.4 mrad off: by its
    /// direction alone a hole 80 mm away would read 0.064. Place and direction tell the clocking with σ/50 and σ/2.3 (8/√12): the place
    /// weighs 470 times as much, and 0.4/471 mrad are left.
    /// </summary>
    [Fact]
    public void AShortHoleClocksThePartByItsPlace()
    {
        const double Sigma = 0.0005;
        var lean = new Vector3D(1, 0.0004, 0).Normalized();
        var dowel = Hole("C", new(46, 0, 10), Vector3D.UnitX, 2, 8, lean, new(46, -0.0004 * 4, 10)) with
        {
            ErrorMotions = [.. new[] { Vector3D.UnitY, Up }.SelectMany(e => (SmallMotion[])[
                new(Vector3D.Zero, Sigma * e, new(50, 0, 10)), new(Sigma / (8 / Math.Sqrt(12)) * e, Vector3D.Zero, new(50, 0, 10))])],
        };
        var system = DatumSystem.Build([
            new("A", [Face("A", Vector3D.Zero, -Up)]), new("B", [Hole("B", Vector3D.Zero, Up, 10, 20)]), new("C", [dowel]),
        ]);
        Assert.Equal(0, system.FreeDegrees);
        var left = 2 * 80 * 0.0004 / (1 + Math.Pow(50 / (8 / Math.Sqrt(12)), 2));
        Assert.Equal(left, Location.Position([Hole("h", new(0, 80, 0), Up, 5, 12)], system).Value, 0.02 * left);
    }

    /// <summary>
    /// Datums A and B leave the turn about B; a hole 40 mm out, clocked by 1 mrad and 0.02 too far out, is judged at the best turn: only
    /// the radial error counts. As aligned, both do.
    /// </summary>
    [Fact]
    public void WhatDatumsLeaveFreeMakesAPositionLeast()
    {
        var system = DatumSystem.Build([new("A", [Face("A", Vector3D.Zero, -Up)]), new("B", [Hole("B", Vector3D.Zero, Up, 10, 20)])]);
        Assert.Equal(1, system.FreeDegrees);
        var made = new Vector3D(40.02 * Math.Cos(0.001), 40.02 * Math.Sin(0.001), 0);
        var hole = Hole("h", new(40, 0, 0), Up, 5, 12, madeAt: made);

        // Directions 3.75° apart stand for the distance: 1 − cos 1.875° of it may be missed.
        Assert.Equal(0.04, Location.Position([hole], system).Value, 0.04 * (1 - Math.Cos(1.875 * Math.PI / 180)) * 1.01);
        Assert.Equal(2 * (made - new Vector3D(40, 0, 0)).Length, Location.Position([hole], system, asAligned: true).Value, 1e-9);
    }

    [Fact]
    public void WhatHasNoAxisOrDirectionSaysSo()
    {
        var ball = Ball("s", new(1, 2, 3), 4);
        Assert.Contains(
            "s:", Assert.Throws<BadInputException>(() => Size.Angle(ball, Face("f", Vector3D.Zero, Up), 90)).Message,
            StringComparison.Ordinal);
        Assert.Contains("no axis", Assert.Throws<BadInputException>(
            () => Orientation.Perpendicularity(ball, Datums(("A", Face("A", Vector3D.Zero, Up))), null)).Message, StringComparison.Ordinal);
    }

    private static DatumSystem Datums(params (string Label, FeatureResult Feature)[] datums) =>
        DatumSystem.Build([.. datums.Select(d => new Datum(d.Label, [d.Feature]))]);

    private static RigidTransform Motion(int seed)
    {
        if (seed == 0)
        {
            return RigidTransform.Identity;
        }

        var random = new Random(seed);
        var axis = new Vector3D(random.NextDouble() - 0.5, random.NextDouble() - 0.5, random.NextDouble() - 0.5);
        return RigidTransform.FromAxisAngle(axis, 6 * random.NextDouble()) with
        {
            Translation = 300 * new Vector3D(
            random.NextDouble(), random.NextDouble(), random.NextDouble())
        };
    }

    private static FeatureResult Face(string id, Vector3D at, Vector3D normal, RigidTransform? made = null)
    {
        var u = normal.Perpendicular();
        var v = normal.Cross(u);
        var turn = made ?? RigidTransform.Identity;
        double[] points = [.. new[] { 10 * u, -10 * u, 10 * v, -10 * v }.SelectMany(p => (at + turn.Rotate(p)).ToArray())];
        var shape = new Plane3D(at, turn.Rotate(normal));
        return new(new(id, id, [0]), new(0, "plane", 1, false, 0, 0, 0, at) { Shape = new Plane3D(at, normal) }, shape, points,
            new double[4])
        { Areas = [1, 1, 1, 1] };
    }

    private static FeatureResult Hole(
        string id, Vector3D at, Vector3D axis, double radius, double length, Vector3D? madeAlong = null, Vector3D? madeAt = null)
    {
        var shape = new Cylinder3D(madeAt ?? at, madeAlong ?? axis, radius);
        var u = shape.Axis.Perpendicular();
        var v = shape.Axis.Cross(u);
        double[] points =
            [.. Enumerable.Range(0, 24)
                .SelectMany(i => (shape.Point + (radius * ((Math.Cos(Math.PI * i / 6) * u) + (Math.Sin(Math.PI * i / 6) * v)))
                + (length * (i < 12 ? 0.2 : 0.8) * shape.Axis)).ToArray())];
        return new(new(id, id, [0]), new(0, "cylinder", 1, true, 0, length, 6.28, at) { Shape = new Cylinder3D(at, axis, radius) }, shape,
            points, new double[24]);
    }

    private static FeatureResult Ball(string id, Vector3D at, double radius)
    {
        var shape = new Sphere3D(at, radius);
        double[] points =
            [.. new[] { Vector3D.UnitX, Vector3D.UnitY, Up, -Up, -Vector3D.UnitX }.SelectMany(d => (at + (radius * d)).ToArray())];
        return new(new(id, id, [0]), new(0, "sphere", 1, false, 0, 0, 6.28, at) { Shape = shape }, shape, points, new double[5]);
    }
}
