using Bostel.Core.Alignment;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Alignment;

/// <summary>An axis system laid through shapes, each expectation by hand.</summary>
public class AxisSystemTests
{
    private static readonly Vector3D _near = new(7, 8, 9);
    private static readonly Plane3D _base = new(new(1, 2, 3), new(0, 0, -1));

    [Fact]
    public void WhatNoShapeDecidesStays()
    {
        Close(RigidTransform.FromTranslation(-_near), AxisSystem.Through(null, "z", null, "x", [], _near));

        // The base decides the height alone; turned upside down, x stays.
        var turned = AxisSystem.Through(_base, "z", null, "x", [_base], _near);
        Close(new(1, 0, 0, 0, -1, 0, 0, 0, -1, new(-7, 8, 3)), turned);

        // What the second axis would be now is the first: the third takes its place.
        var upright = AxisSystem.Through(new Line3D(Vector3D.Zero, Vector3D.UnitX), "z", null, "x", [], Vector3D.Zero);
        Assert.Equal(Vector3D.UnitZ, upright.Rotate(Vector3D.UnitX));
        Assert.Equal(Vector3D.UnitY, upright.Rotate(Vector3D.UnitY));
    }

    [Fact]
    public void TheOriginLiesOnAllThatItIsAskedToLieOn()
    {
        Plane3D left = new(new(4, 0, 0), -Vector3D.UnitX), front = new(new(0, 5, 0), -Vector3D.UnitY);
        Cylinder3D bore = new(new(10, 20, 0), Vector3D.UnitZ, 3);
        At(new(4, 5, 3), left, front, _base);
        At(new(10, 20, 3), bore, _base);
        At(new(10, 20, 9), bore);
        At(new(4, 8, 9), left);
        At(new(1, 1, 1), new Sphere3D(new(1, 1, 1), 5));

        // Two parallel planes: half way, as their least squares are.
        At(new(6, 8, 9), left, new Plane3D(new(8, 0, 0), Vector3D.UnitX));

        static void At(Vector3D expected, params Shape[] on)
        {
            var system = AxisSystem.Through(null, "z", null, "x", on, _near);
            Assert.InRange(Vector3D.Distance(system.Inverse().Translation, expected), 0, 1e-12);
        }
    }

    /// <summary>A plane holds one shift, a bore the two across it, a point all three; what leans holds none of the axes alone.</summary>
    [Fact]
    public void WhatTheOriginDoesNotHoldIsFree()
    {
        Cylinder3D bore = new(new(10, 20, 0), Vector3D.UnitZ, 3);
        Assert.Equal([Motion.ShiftX, Motion.ShiftY], AxisSystem.FreeShifts([_base]));
        Assert.Equal([Motion.ShiftZ], AxisSystem.FreeShifts([bore]));
        Assert.Empty(AxisSystem.FreeShifts([bore, _base]));
        Assert.Empty(AxisSystem.FreeShifts([new Sphere3D(_near, 2)]));
        Assert.Equal([Motion.ShiftX, Motion.ShiftY, Motion.ShiftZ],
            AxisSystem.FreeShifts([new Plane3D(_near, new Vector3D(1, 1, 1).Normalized())]));
    }

    /// <summary>A plane's normal, a point, and a bore whose axis lies along the first: each seen from the origin.</summary>
    [Fact]
    public void TheSecondAxisPointsTowardsADirectionOrAPlace()
    {
        Cylinder3D first = new(Vector3D.Zero, Vector3D.UnitZ, 3), other = new(new(0, 30, -5), Vector3D.UnitZ, 3);
        Shape[] seconds = [new Plane3D(new(9, 9, 9), new Vector3D(0, 1, 0.2).Normalized()), new Sphere3D(new(0, 4, 7), 1), other];
        foreach (var second in seconds)
        {
            var system = AxisSystem.Through(first, "z", second, "x", [first], Vector3D.Zero);
            Assert.InRange(Vector3D.Distance(system.Rotate(Vector3D.UnitY), Vector3D.UnitX), 0, 1e-12);
            Assert.Equal(Vector3D.UnitZ, system.Rotate(Vector3D.UnitZ));
        }
    }

    [Fact]
    public void WhatDecidesNothingIsSaid()
    {
        Says("parallel", () => AxisSystem.Through(_base, "z", new Plane3D(Vector3D.Zero, Vector3D.UnitZ), "x", [], _near));
        Says("sphere has no direction", () => AxisSystem.Through(new Sphere3D(_near, 1), "z", null, "x", [], _near));
        Says("same axis", () => AxisSystem.Through(_base, "z", new Plane3D(Vector3D.Zero, Vector3D.UnitX), "-z", [], _near));
        Says("'q' is not x, y or z", () => AxisSystem.Through(_base, "q", null, "x", [], _near));

        static void Says(string what, Action of) =>
            Assert.Contains(what, Assert.ThrowsAny<BadInputException>(of).Message, StringComparison.Ordinal);
    }

    private static void Close(RigidTransform expected, RigidTransform actual) =>
        Assert.All(expected.ToArray().Zip(actual.ToArray()), pair => Assert.Equal(pair.First, pair.Second, 1e-12));
}
