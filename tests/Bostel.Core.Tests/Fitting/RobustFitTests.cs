using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Fitting;

/// <summary>Fits among foreign points.</summary>
public class RobustFitTests
{
    private static readonly Vector3D _axis = new Vector3D(-0.4, 0.5, 0.77).Normalized();

    /// <summary>A quarter of the points lie off on one side, up to a radius away: the feature is found as if they were not there.</summary>
    [Theory]
    [InlineData("plane", RobustMethod.Tukey)]
    [InlineData("circle", RobustMethod.Tukey)]
    [InlineData("sphere", RobustMethod.Tukey)]
    [InlineData("cylinder", RobustMethod.Tukey)]
    [InlineData("cone", RobustMethod.Tukey)]
    [InlineData("plane", RobustMethod.Trimmed)]
    [InlineData("sphere", RobustMethod.Trimmed)]
    [InlineData("cylinder", RobustMethod.Trimmed)]
    public void ForeignPointsAreLeftOut(string kind, RobustMethod method)
    {
        var truth = FitShapes.Truth(kind, new(5, 6, 7), _axis);
        var good = FitShapes.Points(truth, 1, 0.01, 3, 300);
        var random = new Random(8);
        var side = _axis.Perpendicular();
        double[] points = [.. good, .. Enumerable.Range(0, 100).SelectMany(i =>
            (Vector3D.FromArray(good[(9 * i)..((9 * i) + 3)]) + ((1 + (7 * random.NextDouble())) * (side + (0.3 * _axis)))).ToArray())];
        var known = kind == "circle" ? new Known { Normal = _axis } : Known.Nothing;
        var alone = LeastSquares.Fit(kind, good, known).Shape;
        var fit = Association.Fit(kind, Criterion.LeastSquares, points, known, null, new(method, 0.7));

        // Within a few standard errors of the fit to the good points alone (0.01 mm over 300 points: 0.6 µm times the leverage of each
        // kind).
        FitShapes.AssertSame(alone, fit.Shape, method == RobustMethod.Tukey ? 0.0015 : 0.004);
        Assert.True(fit.Rejected.Count(i => i >= 300) > 90, $"{fit.Rejected.Count(i => i >= 300)} of 100 left out");
        Assert.Equal(fit.Residuals.Length - fit.Rejected.Length, fit.Points);
    }

    [Fact]
    public void ThreeSigmaLeavesOutWhatIsFarAndReportsIt()
    {
        var truth = FitShapes.Truth("cylinder", default, _axis);
        var points = FitShapes.Points(truth, 1, 0.01, 4, 1000);
        for (var i = 0; i < 10; i++)
        {
            var p = Vector3D.FromArray(points[(300 * i)..((300 * i) + 3)]);
            var off = p + (0.2 * (p - new Line3D(default, _axis).Project(p)).Normalized());
            off.ToArray().CopyTo(points, 300 * i);
        }

        var fit = Association.Fit("cylinder", Criterion.LeastSquares, points, null, null, new(RobustMethod.ThreeSigma));
        Assert.Subset(fit.Rejected.ToHashSet(), Enumerable.Range(0, 10).Select(i => 100 * i).ToHashSet());

        // 0.27 % of normal errors lie beyond three standard deviations: 3 of 1000, hardly ever more than 12.
        Assert.InRange(fit.Rejected.Length, 10, 22);
        Assert.InRange(fit.Scatter, 0.009, 0.011);
        Assert.All(fit.Residuals.Where((_, i) => !fit.Rejected.Contains(i)), r => Assert.InRange(Math.Abs(r), 0, 3 * fit.Scatter * 1.01));
    }

    /// <summary>Exact points have residuals of rounding alone: none of them is an outlier, one a micrometre off is.</summary>
    [Theory]
    [InlineData("plane", RobustMethod.ThreeSigma)]
    [InlineData("cylinder", RobustMethod.ThreeSigma)]
    [InlineData("plane", RobustMethod.Tukey)]
    [InlineData("sphere", RobustMethod.Tukey)]
    public void RoundingIsNoOutlier(string kind, RobustMethod method)
    {
        var truth = FitShapes.Truth(kind, new(50, -60, 700), _axis);
        var points = FitShapes.Points(truth, 1, 0, 4, 400);
        Assert.Empty(Association.Fit(kind, Criterion.LeastSquares, points, null, null, new(method)).Rejected);
        var p = Vector3D.FromArray(points[300..303]);
        (p + (1e-3 * truth.Gradient(p))).ToArray().CopyTo(points, 300);
        Assert.Equal([100], Association.Fit(kind, Criterion.LeastSquares, points, null, null, new(method)).Rejected);
    }

    /// <summary>An extremal fit after a filter rests on what the filter left.</summary>
    [Fact]
    public void AFilterComesBeforeAnExtremalFit()
    {
        var points = FitShapes.Points(FitShapes.Truth("sphere", default, _axis), 1, 0.01, 4, 500);
        (points[0], points[1], points[2]) = (0, 0, 12);
        var plain = Association.Fit("sphere", Criterion.MinimumZone, points);
        var filtered = Association.Fit("sphere", Criterion.MinimumZone, points, null, null, new(RobustMethod.ThreeSigma));
        Assert.True(plain.Form > 3);
        Assert.InRange(filtered.Form, 0.03, 0.1);
        Assert.Contains(0, filtered.Rejected);
        Assert.True(filtered.Residuals[0] > 3);
    }

    /// <summary>
    /// The stated interval covers the truth also after outliers were rejected.
    /// </summary>
    [Theory]
    [InlineData(RobustMethod.Tukey)]
    [InlineData(RobustMethod.Trimmed)]
    [InlineData(RobustMethod.ThreeSigma)]
    public void TheStatedIntervalCoversTheTruth(RobustMethod method)
    {
        var truth = FitShapes.Truth("circle", default, Vector3D.UnitZ);
        var covered = 0;
        Parallel.For(0, 300, seed =>
        {
            var points = FitShapes.Points(truth, 1, 0.02, seed, 120);
            var fit = Association.Fit(
                "circle", Criterion.LeastSquares, points, new() { Normal = Vector3D.UnitZ, Start = truth }, null, new(method));
            if (Math.Abs(2 * (((Circle3D)fit.Shape).Radius - 8)) <= FitUncertainty.Of(fit, points)!.Diameter)
            {
                Interlocked.Increment(ref covered);
            }
        });

        // 95.45 % less and more by three standard errors of 300 draws.
        Assert.InRange(covered / 3.0, 91.8, 99.1);
    }

    [Fact]
    public void AShareOfLessThanHalfIsRefused() => Assert.Contains(
        "share", Assert.Throws<BadInputException>(() =>
            RobustFit.Try("plane", FitShapes.Points(FitShapes.Truth("plane", default, _axis), 1, 0, 1, 50), Known.Nothing, null,
                new(RobustMethod.Trimmed, 0.4)).OrThrow()).Message, StringComparison.Ordinal);
}
