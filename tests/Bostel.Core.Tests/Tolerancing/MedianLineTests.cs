using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>A bent bore does not pass by its straight axis.</summary>
public class MedianLineTests
{
    private const double Length = 90, Radius = 10, Bend = 0.06;

    /// <summary>
    /// The axis runs through its true place at both ends and is off by b(1 − x²) between, x from −1 to 1. The straight axis lies 2b/3
    /// off everywhere; of nine sections the middle one, a ninth of the length, sees b(1 − 1/243), its mean over ±1/9.
    /// </summary>
    [Fact]
    public void ABentBoreIsReadAtItsWorstSection()
    {
        var bore = Bore(Bend, 0, 1);
        Assert.Equal(2 * Bend * (1 - (1.0 / 243)), Location.Position([bore], System).Raw!.Value, 2e-4);
        Assert.Equal(4 * Bend / 3, Location.Position([bore], System, straight: true).Value, 2e-4);

        // The outermost sections see the mean of 1 − x² from 7/9 to 1, and the zone of orientation spans the difference.
        var ends = 1 - ((1 + (7.0 / 9) + (49.0 / 81)) / 3);
        var a = DatumSystem.Build([new("A", [Plane("A", Vector3D.Zero, -Vector3D.UnitZ)])]);
        Assert.Equal(Bend * (1 - (1.0 / 243) - ends), Orientation.Perpendicularity(bore, a, null).Raw!.Value, 2e-4);
        Assert.Equal(0, Orientation.Perpendicularity(bore, a, null, straight: true).Value, 2e-4);
    }

    /// <summary>
    /// Noise bends the line of a straight bore a little: that is taken off, and U holds what is left in at least 93 of 100.
    /// </summary>
    [Theory]
    [InlineData(0)]
    [InlineData(Bend)]
    public void NoiseIsNotTakenForBend(double bend)
    {
        var truth = 2 * bend * (1 - (1.0 / 243));
        var held = 0;
        for (var seed = 1; seed <= 100; seed++)
        {
            var row = Location.Position([Bore(bend, 0.02, seed)], System);
            held += Math.Abs(row.Value - truth) <= Contribution.Expanded(row.Budget!) ? 1 : 0;
        }

        Assert.InRange(held, 93, 100);
    }

    [Fact]
    public void AHalfSeenBoreIsJudgedByItsAxis()
    {
        var row = Location.Position([Bore(0, 0.01, 1, sweep: 2)], System);
        Assert.StartsWith("axis of", row.Method, StringComparison.Ordinal);
    }

    [Fact]
    public void TheSmallestCircleOfATriangleIsItsCircumcircleOrItsLongestSide()
    {
        // Right and obtuse: the longest side; equilateral of side 1: 2/√3; points inside change nothing.
        Assert.Equal(5, SmallestCircle.Diameter([new(0, 0, 0), new(3, 0, 0), new(0, 4, 0)]), 1e-9);
        Assert.Equal(10, SmallestCircle.Diameter([new(0, 0, 1), new(10, 0, 1), new(4, 1, 1)]), 1e-9);
        Assert.Equal(2 / Math.Sqrt(3),
            SmallestCircle.Diameter([new(0, 0, 0), new(1, 0, 0), new(0.5, Math.Sqrt(3) / 2, 0), new(0.5, 0.3, 0)]), 1e-9);
        Assert.Equal(0, SmallestCircle.Diameter([new(1, 2, 3), new(1, 2, 3)]), 1e-12);
    }

    private static DatumSystem System => DatumSystem.Build([
        new("A", [Plane("A", Vector3D.Zero, -Vector3D.UnitZ)]), new("B", [Plane("B", Vector3D.Zero, -Vector3D.UnitX)]),
        new("C", [Plane("C", Vector3D.Zero, -Vector3D.UnitY)]),
    ]);

    private static FeatureResult Bore(double bend, double noise, int seed, double sweep = 2 * Math.PI)
    {
        var (random, draws) = (new Random(seed), new SeededNoise(seed));
        var at = new Vector3D(40, 30, 0);
        var points = new List<double>();
        for (var i = 0; i < 9000; i++)
        {
            // Even over the surface: heights are a regular comb, angles go round by the golden section.
            var (h, angle) = (Length * (i + 0.5) / 9000, sweep * (i * 0.6180339887498949 % 1));
            var x = (2 * h / Length) - 1;
            var r = Radius + (noise * draws.Normal(i));
            points.AddRange((at + new Vector3D((bend * (1 - (x * x))) + (r * Math.Cos(angle)), r * Math.Sin(angle), h)).ToArray());
        }

        var nominal = new Cylinder3D(at, Vector3D.UnitZ, Radius);
        return MadeFeature.Fitted("h", nominal, [.. points], Length);
    }

    private static FeatureResult Plane(string id, Vector3D at, Vector3D normal)
    {
        var (u, v) = (normal.Perpendicular(), normal.Cross(normal.Perpendicular()));
        var shape = new Plane3D(at, normal);
        return new(new(id, id, [0]), new(0, "plane", 1, false, 0, 0, 0, at) { Shape = shape }, shape,
            [.. new[] { u, -u, v, -v }.SelectMany(p => (at + (10 * p)).ToArray())], new double[4]);
    }
}
