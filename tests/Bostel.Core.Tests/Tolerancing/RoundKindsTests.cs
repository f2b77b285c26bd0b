using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>Roundness, straightness, run-out, coaxiality and sizes of round surfaces whose values follow from how they are made.</summary>
public class RoundKindsTests
{
    private const double Radius = 10, Length = 36;

    /// <summary>
    /// Points lie every 3° and every 0.5 mm: an extreme of three lobes is missed by no more than 1 − cos 4.5° of them.
    /// </summary>
    private const int Around = 120, Along = 72;

    private static readonly Vector3D Up = Vector3D.UnitZ;

    private static readonly DatumSystem Axis = DatumSystem.Build([new("A", [Made("A", (_, _) => 10, z: -50)])]);

    /// <summary>
    /// Three lobes of 5 µm: the zone between circles is 10 µm wide, on a cylinder that tapers and leans as on one that does not.
    /// </summary>
    [Theory]
    [InlineData(0, 0)]
    [InlineData(0.001, 0)]
    [InlineData(0.001, 0.002)]
    public void RoundnessIsThatOfTheCrossSections(double taper, double lean)
    {
        var f = Made("r", (angle, z) => Radius + (0.005 * Math.Cos(3 * angle)) + (taper * z), lean: lean, cone: taper != 0);
        Assert.Equal(0.01, Form.Roundness(f, null).Raw!.Value, 0.01 * (1 - Math.Cos(4.5 * Math.PI / 180)) + 2e-5);
    }

    /// <summary>
    /// A parabola of sag b over the length, in nine sections of h = L/9: their centres run from b·h²/12 to b·(16h² + h²/12), and the
    /// two ends are drawn out alike; the smallest cylinder is 16·b·h² wide.
    /// </summary>
    [Fact]
    public void StraightnessOfAnAxisIsTheSmallestCylinderRoundIt()
    {
        const double B = 1e-4;
        var f = Made("s", (_, _) => Radius, shift: z => B * (z - (Length / 2)) * (z - (Length / 2)) * Vector3D.UnitX);
        Assert.Equal(16 * B * Math.Pow(Length / 9, 2), Form.StraightnessOfAxis(f).Raw!.Value, 2e-4);

        // Its surface's lines bend by the whole sag where they lie in the plane of the bend.
        Assert.Equal(B * Math.Pow(Length / 2, 2), Form.StraightnessOfLines(f, null).Raw!.Value, 2e-3);
    }

    /// <summary>A shaft 0.02 mm beside the datum axis runs out by twice that; one that leans too by more, over all of it.</summary>
    [Fact]
    public void RunOutIsTwiceTheEccentricity()
    {
        var beside = Made("t", (_, _) => Radius, shift: _ => 0.02 * Vector3D.UnitX);
        Assert.Equal(0.04, RunOut.Of(beside, Axis, total: false).Raw!.Value, 1e-4);
        Assert.Equal(0.04, RunOut.Of(beside, Axis, total: true).Raw!.Value, 1e-4);

        // Leaning about its lower end by 1 mrad: at the top it is 36 µm more to the side.
        var leaning = Made("l", (_, _) => Radius, shift: z => (0.02 + (0.001 * z)) * Vector3D.UnitX);
        Assert.Equal(2 * (0.02 + (0.001 * Length)), RunOut.Of(leaning, Axis, total: true).Raw!.Value, 1e-4);

        // Of the widest of 16 slices, its middle.
        var widest = 2 * (0.02 + (0.001 * Length * (1 - (1.0 / 32))));
        Assert.Equal(widest, RunOut.Of(leaning, Axis, total: false).Raw!.Value, 4e-4);
    }

    /// <summary>A face that leans by 2 mrad, seen from 12 to 20 mm from the axis.</summary>
    [Fact]
    public void AxialRunOutGrowsWithTheRadius()
    {
        var points = new List<double>();
        for (var r = 12.0; r <= 20.001; r += 0.25)
        {
            for (var k = 0; k < Around; k++)
            {
                var (x, y) = (r * Math.Cos(2 * Math.PI * k / Around), r * Math.Sin(2 * Math.PI * k / Around));
                points.AddRange([x, y, 5 + (0.002 * x)]);
            }
        }

        var face = MadeFeature.Fitted("f", new Plane3D(new(0, 0, 5), Up), [.. points]);
        Assert.Equal(2 * 0.002 * 20, RunOut.Of(face, Axis, total: true).Raw!.Value, 1e-6);
        var circular = RunOut.Of(face, Axis, total: false);
        Assert.Equal(2 * 0.002 * 19.75, circular.Raw!.Value, 2 * 0.002 * 0.25);
        Assert.Contains("axial", circular.Method, StringComparison.Ordinal);
    }

    [Fact]
    public void CoaxialityIsTwiceTheDistanceFromTheDatumAxis()
    {
        Assert.Equal(0.06, Coaxiality.Of(Made("c", (_, _) => Radius, shift: _ => 0.03 * Vector3D.UnitY), Axis, false).Raw!.Value, 1e-6);
        Refused("12 mm beside", () => Coaxiality.Of(Made("o", (_, _) => Radius, nominalAt: new(12, 0, 0)), Axis, false));
    }

    /// <summary>
    /// An oval hole, two lobes of 20 µm. A cell reaches over 15° about the middle of its sector, 7.5° beside the lobe: of the lobe it
    /// sees cos 15° · sin 15°/15°. The largest cylinder that fits touches the narrow sides.
    /// </summary>
    [Fact]
    public void LocalSizesAndTheEnvelopeOfAnOvalHole()
    {
        const double Lobe = 0.02;
        var seen = Lobe * Math.Cos(Math.PI / 12) * Math.Sin(Math.PI / 12) / (Math.PI / 12);
        var hole = Made("o", (angle, _) => Radius + (Lobe * Math.Cos(2 * angle)));
        var local = LocalDiameter.TwoPoint(hole);
        Assert.Equal(2 * (Radius + seen), local.Raw!.Value, 4e-4);
        Assert.Equal(2 * (Radius - seen), local.Least!.Value, 2e-3);
        var envelope = LocalDiameter.Envelope(hole);

        // Smoothing leaves some 0.5 µm of the lobes that count as noise: four of its deviations on either side may be taken off.
        Assert.Equal(2 * (Radius - Lobe), envelope.Least!.Value, 0.004);
        Assert.Equal(local.Value, envelope.Value);
    }

    [Fact]
    public void ARadiusIsHalfADiameterAndAConeHasItsAngle()
    {
        var shaft = Made("r", (_, _) => Radius);
        var (radius, diameter) = (Size.Radius(shaft), Size.Diameter(shaft));
        Assert.Equal(diameter.Value / 2, radius.Value, 1e-12);
        Assert.Equal(Contribution.Combined(diameter.Budget!) / 2, Contribution.Combined(radius.Budget!), 1e-15);
        var cone = Made("c", (_, z) => Radius + (0.1 * z), cone: true);
        Assert.Equal(2 * Math.Atan(0.1) * 180 / Math.PI, Size.ConeAngle(cone).Value, 1e-6);
        Refused("no cone angle", () => Size.ConeAngle(shaft));
    }

    [Fact]
    public void WhatDoesNotFitIsRefusedInWords()
    {
        var face = MadeFeature.Fitted("f", new Plane3D(Vector3D.Zero, Up), [0, 0, 0, 5, 0, 0, 0, 5, 0, 5, 5, 0]);
        var plane = DatumSystem.Build([new("B", [face])]);
        Refused("roundness belongs to a cylinder", () => Form.Roundness(face, null));
        Refused("straightness of an axis", () => Form.StraightnessOfAxis(face));
        Refused("gives no axis", () => RunOut.Of(Made("t", (_, _) => Radius), plane, false));
        Refused("gives no axis", () => Coaxiality.Of(Made("t", (_, _) => Radius), plane, false));
        Refused("no size", () => new MaterialRequirement(MaterialLimit.Maximum, 5).Applied(new(0.1, [], "", []), face));
    }

    private static void Refused(string why, Action act) =>
        Assert.Contains(why, Assert.Throws<BadInputException>(act).Message, StringComparison.Ordinal);

    /// <summary>A hole along Z, measured without noise.</summary>
    /// <param name="radius">At an angle and a height.</param>
    /// <param name="shift">How far aside it lies at a height.</param>
    private static FeatureResult Made(
        string id, Func<double, double, double> radius, double z = 0, double lean = 0, bool cone = false,
        Func<double, Vector3D>? shift = null, Vector3D? nominalAt = null)
    {
        var points = new List<double>();
        for (var k = 0; k <= Along; k++)
        {
            var height = Length * k / Along;
            for (var i = 0; i < Around; i++)
            {
                var angle = 2 * Math.PI * i / Around;
                var r = radius(angle, height);
                var p = new Vector3D((r * Math.Cos(angle)) + (lean * height), r * Math.Sin(angle), z + height);
                points.AddRange((p + (shift?.Invoke(height) ?? Vector3D.Zero) + (nominalAt ?? Vector3D.Zero)).ToArray());
            }
        }

        var slope = (radius(0, 1) - radius(0, 0));
        Shape nominal = cone
            ? new Cone3D(new(0, 0, z - (radius(0, 0) / slope)), Up, Math.Atan(slope))
            : new Cylinder3D(new Vector3D(0, 0, z) + (nominalAt ?? Vector3D.Zero), Up, Radius);
        return MadeFeature.Fitted(id, nominal, [.. points], Length);
    }
}
