using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Fitting;

/// <summary>Fits with parts held, with weights, and extremal fits of every kind they are defined for.</summary>
public class HeldPartTests
{
    private static readonly Vector3D _axis = new Vector3D(0.3, -0.2, 0.93).Normalized();
    private static readonly Vector3D _center = new(12, -7, 31);

    public static TheoryData<string, string> Held() => new()
    {
        { "plane", "direction" }, { "line", "direction" }, { "circle", "radius" }, { "circle", "on" }, { "sphere", "radius" },
        { "sphere", "on" },
        { "cylinder", "direction" }, { "cylinder", "radius" }, { "cylinder", "direction radius" }, { "cylinder", "on" },
        { "cylinder", "on radius" },
        { "cone", "direction" }, { "cone", "angle" }, { "cone", "on" }, { "torus", "direction" }, { "torus", "radius" }, { "torus", "on" },
        { "slot", "direction" }, { "slot", "radius" },
    };

    /// <summary>
    /// Held parts stay exactly as given, and exact points give the rest back, whole and over a 60° arc, without a start.
    /// </summary>
    [Theory]
    [MemberData(nameof(Held))]
    public void ExactPointsGiveTheRestBack(string kind, string held)
    {
        foreach (var share in kind is "slot" or "torus" or "line" or "plane" ? [1.0] : (double[])[1.0, 1.0 / 6])
        {
            var truth = FitShapes.Truth(kind, _center, _axis);
            var fit = LeastSquares.Fit(kind, FitShapes.Points(truth, share, 0, 3, 300), Hold(truth, held));
            Assert.InRange(fit.Form, 0, 1e-8);
            FitShapes.AssertSame(truth, fit.Shape, 1e-7);
        }
    }

    /// <summary>
    /// With noise and a part held a little off the truth: held exactly, fitted worse than free, and no allowed motion makes it better.
    /// </summary>
    [Theory]
    [MemberData(nameof(Held))]
    public void WhatIsHeldStaysAndTheRestIsBest(string kind, string held)
    {
        var truth = FitShapes.Truth(kind, _center, _axis);
        var points = FitShapes.Points(truth, 1, 0.02, 8, 300);
        var slightly = RigidTransform.FromAxisAngle(new(1, 0, 0), 0.002) with { Translation = new(0.01, 0.02, -0.01) };
        var known = Hold(truth.Transformed(slightly), held);
        known = known with { Radius = known.Radius + 0.01, HalfAngle = known.HalfAngle + 0.001 };
        var fit = LeastSquares.Fit(kind, points, known);
        var free = LeastSquares.Fit(kind, points, known.Normal is null ? null : new() { Normal = known.Normal });
        Assert.True(fit.Residuals.Sum(r => r * r) >= free.Residuals.Sum(r => r * r));
        Assert.Equal(free.Fitted - FitShapes.HeldCount(kind, held), fit.Fitted);
        FitShapes.AssertHeld(fit.Shape, known);
        foreach (var neighbour in FitShapes.Neighbours(fit.Shape, held, known))
        {
            var flat = FitShapes.InPlane(points, fit.Shape, fit.Reference);
            Assert.True(neighbour.Distances(flat).Sum(r => r * r) >= fit.Shape.Distances(flat).Sum(r => r * r) * (1 - 1e-10),
                $"{kind}, {held} held: {neighbour} is better");
        }
    }

    /// <summary>A point of weight three counts like three points.</summary>
    [Theory]
    [InlineData("plane")]
    [InlineData("line")]
    [InlineData("circle")]
    [InlineData("sphere")]
    [InlineData("cylinder")]
    [InlineData("cone")]
    [InlineData("torus")]
    [InlineData("slot")]
    public void WeightsCountLikeRepeatedPoints(string kind)
    {
        var truth = FitShapes.Truth(kind, _center, _axis);
        var points = FitShapes.Points(truth, 1, 0.02, 5, 240);
        var weights = Enumerable.Range(0, 240).Select(i => (double)(i % 4)).ToArray();
        var repeated = points.Chunk(3).SelectMany((p, i) => Enumerable.Repeat(p, i % 4).SelectMany(q => q)).ToArray();
        var known = kind is "circle" or "slot" ? new Known { Normal = _axis } : null;
        var weighted = LeastSquares.Fit(kind, points, known, weights);
        FitShapes.AssertSame(LeastSquares.Fit(kind, repeated, known).Shape, weighted.Shape, 2e-8);
        Assert.Equal(60, weighted.Rejected.Length);
    }

    /// <summary>
    /// Pairs of points on both sides of the true surface, e away along its normal: no zone of that kind can be narrower than 2e but for the
    /// second order of tilts, and the true surface reaches it.
    /// </summary>
    [Theory]
    [InlineData("plane")]
    [InlineData("circle")]
    [InlineData("sphere")]
    [InlineData("cylinder")]
    [InlineData("cone")]
    [InlineData("torus")]
    [InlineData("slot")]
    public void TheMinimumZoneOfPairsIsTheirDistance(string kind)
    {
        const double E = 0.01;
        var truth = FitShapes.Truth(kind, _center, _axis);
        double[] points = [.. FitShapes.Points(truth, 1, 0, 6, 150, +E), .. FitShapes.Points(truth, 1, 0, 6, 150, -E)];
        var known = kind is "circle" or "slot" ? new Known { Normal = _axis } : null;
        var fit = Association.Fit(kind, Criterion.MinimumZone, points, known);
        Assert.Equal(2 * E, fit.Form, 1e-6);
        FitShapes.AssertSame(truth, fit.Shape, 1e-4);
    }

    /// <summary>The growing set of extreme points gives the same as all points at once: points repeated change no extremal fit.</summary>
    [Theory]
    [InlineData("plane", Criterion.MinimumZone)]
    [InlineData("sphere", Criterion.MinimumZone)]
    [InlineData("sphere", Criterion.MinimumCircumscribed)]
    [InlineData("cylinder", Criterion.MinimumZone)]
    [InlineData("cylinder", Criterion.MinimumCircumscribed)]
    [InlineData("cone", Criterion.MinimumZone)]
    public void ManyPointsGiveTheSameAsAllAtOnce(string kind, Criterion criterion)
    {
        var truth = FitShapes.Truth(kind, _center, _axis);
        var points = FitShapes.Points(truth, 1, 0.05, 9, 1200);
        var random = new Random(4);
        var many = Enumerable.Range(0, 6).SelectMany(_ => points.Chunk(3)).OrderBy(_ => random.Next()).SelectMany(p => p).ToArray();
        Assert.Equal(Association.Fit(kind, criterion, points).Form, Association.Fit(kind, criterion, many).Form, 1e-7);
    }

    [Fact]
    public void AnOuterTangentLineTouchesFromOutside()
    {
        // The convex hull of these points has its upper edge from (0, 1) to (10, 2): the tangent of least sum lies on it.
        double[] points = [0, 1, 0, 3, 0.5, 0, 5, 1.2, 0, 7, 1.5, 0, 10, 2, 0, 4, 1.3, 0, 6, 1, 0];
        var fit = Association.Fit("line", Criterion.OuterTangent, points, new() { Normal = Vector3D.UnitZ, Outward = Vector3D.UnitY });
        var line = (Line3D)fit.Shape;
        Assert.InRange(line.Distance(new(0, 1, 0)), 0, 1e-9);
        Assert.InRange(line.Distance(new(10, 2, 0)), 0, 1e-9);
        Assert.All(fit.Residuals, r => Assert.InRange(r, -10, 1e-9));
    }

    [Theory]
    [InlineData("plane", "radius")]
    [InlineData("sphere", "direction")]
    [InlineData("slot", "on")]
    [InlineData("cylinder", "angle")]
    public void WhatAKindDoesNotHaveCannotBeHeld(string kind, string held)
    {
        var known = Hold(FitShapes.Truth("cone", _center, _axis), held) with { Radius = held == "radius" ? 5 : null };
        var error = Assert.ThrowsAny<BadInputException>(
            () => LeastSquares.Fit(kind, FitShapes.Points(FitShapes.Truth(kind, _center, _axis), 1, 0, 2, 60), known));
        Assert.Contains("cannot be held", error.Message, StringComparison.Ordinal);
    }

    private static Known Hold(Shape truth, string held)
    {
        var flat = truth is Circle3D or Slot3D;
        var known = new Known { Normal = flat ? FitShapes.AxisOf(truth) : null };
        foreach (var part in held.Split(' '))
        {
            known = part switch
            {
                "direction" => known with { Direction = truth is Slot3D s ? s.Direction : FitShapes.AxisOf(truth) },
                "radius" => known with { Radius = FitShapes.RadiusOf(truth) },
                "angle" => known with { HalfAngle = (truth as Cone3D)?.HalfAngle },
                _ => known with { On = new(FitShapes.PointOf(truth), 3 * FitShapes.AxisOf(truth)) },
            };
        }

        return known;
    }
}
