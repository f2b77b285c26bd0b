using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;

namespace Bostel.Core.Tests.Comparison;

/// <summary>Distances between places on a block of 10 mm, known by arithmetic.</summary>
public class PlaceDistanceTests
{
    private static readonly NominalModel _block = CadMeshSegmentation.Recognise(Shapes.Cube(10, 1));
    private static readonly int _top = FaceTowards(Vector3D.UnitZ);
    private static readonly int _floor = FaceTowards(-Vector3D.UnitZ);
    private static readonly int _side = FaceTowards(-Vector3D.UnitX);

    [Fact]
    public void StraightAlongTheAxesAndOnTheNominal()
    {
        var found = Between(new([1, 2, 10.1], [1, 2, 10], _top), new([4, 6, 10.1], [4, 6, 10], _top));
        Assert.Equal(5, found.Straight, 1e-12);
        Assert.Equal([3, 4, 0], found.Along);
        Assert.Equal(5, found.OnNominal!.Value, 1e-12);

        // On one face there is nothing to be square to.
        Assert.Equal((null, null), (found.ToPlane, found.AngleDegrees));
    }

    [Fact]
    public void SquareToThePlaneOnWhichTheSecondLies()
    {
        var opposite = Between(new([3, 4, 10.02], null, _top), new([9, 9, 0], [9, 9, 0], _floor));
        Assert.Equal(10.02, opposite.ToPlane!.Value, 1e-9);
        Assert.Equal(0, opposite.AngleDegrees!.Value, 1e-6);
        Assert.Null(opposite.OnNominal);
        var square = Between(new([3, 4, 10], null, _top), new([0, 5, 5], null, _side));
        Assert.Equal(3, square.ToPlane!.Value, 1e-9);
        Assert.Equal(90, square.AngleDegrees!.Value, 1e-6);
        Assert.Null(Between(new([3, 4, 10], null, _top), new([0, 5, 5], null, null)).ToPlane);
    }

    [Fact]
    public void WhatIsNoPlaceIsRefused()
    {
        PickedPlace good = new([0, 0, 0], null, null);
        Assert.Throws<BadInputException>(() => Between(good, new([1, 2], null, null)));
        Assert.Throws<BadInputException>(() => Between(good, new([1, 2, double.NaN], null, null)));
        Assert.Throws<BadInputException>(() => Between(good, new([1, 2, 3], null, 99)));
    }

    private static PlaceDistance Between(PickedPlace a, PickedPlace b) => PlaceDistance.Between(a, b, _block);

    private static int FaceTowards(Vector3D direction) =>
        _block.Faces.Single(f => f.Shape is Plane3D plane && plane.Normal.Dot(direction) > 0.99).Id;
}
