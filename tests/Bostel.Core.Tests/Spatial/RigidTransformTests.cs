using Bostel.Core.Geometry;
using CsCheck;

namespace Bostel.Core.Tests.Spatial;

public class RigidTransformTests
{
    private static readonly Gen<Vector3D> Vectors =
        Gen.Select(Gen.Double[-5, 5], Gen.Double[-5, 5], Gen.Double[-5, 5], (x, y, z) => new Vector3D(x, y, z)).Where(v => v.Length > 0.1);

    private static readonly Gen<RigidTransform> Motions = Gen.Select(
        Vectors, Gen.Double[-3, 3], Vectors, (axis, angle, t) => RigidTransform.FromAxisAngle(axis, angle) with { Translation = 100 * t });

    [Fact]
    public void AMotionAndItsInverseCancelAndDistancesStay() => Gen.Select(Motions, Motions, Vectors, Vectors).Sample((a, b, p, q) =>
        (a.Inverse().Apply(a.Apply(p)) - p).Length < 1e-10 &&
        (a.After(b).Apply(p) - a.Apply(b.Apply(p))).Length < 1e-9 &&
        Math.Abs((a.Apply(p) - a.Apply(q)).Length - (p - q).Length) < 1e-10 &&
        (RigidTransform.FromArray(a.ToArray()).Apply(p) - a.Apply(p)).Length < 1e-10);

    [Fact]
    public void BetweenTurnsOneDirectionIntoTheOther() => Gen.Select(Vectors, Vectors).Sample((a, b) =>
        (RigidTransform.Between(a.Normalized(), b.Normalized()).Rotate(a.Normalized()) - b.Normalized()).Length < 1e-9);

    [Fact]
    public void AnglesAreAccurateForTinyTurns() =>
        Assert.Equal(1e-9, RigidTransform.FromAxisAngle(new(1, 2, 3), 1e-9).RotationAngle(), 1e-16);

    [Theory]
    [InlineData("2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0")]
    [InlineData("-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0")]
    [InlineData("1, 0.5, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0")]
    public void ScaleMirrorAndShearAreNoMotions(string rows) =>
        Assert.Contains("not a rotation",
            Assert.Throws<BadInputException>(() =>
            RigidTransform.FromArray([.. rows.Split(',').Select(v => double.Parse(v, System.Globalization.CultureInfo.InvariantCulture)), 0,
                0, 0, 1])).Message, StringComparison.Ordinal);

    [Fact]
    public void EigenvaluesOfAKnownMatrix()
    {
        var (values, vectors) = SymmetricEigen.Solve3(2, 1, 0, 2, 0, 5);
        Assert.Equal([1.0, 3.0, 5.0], values.Select(v => Math.Round(v, 12)));
        Assert.Equal(1, Math.Abs(vectors[2].Z), 12);
    }
}
