using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>Features made from points, as extraction makes them from a scan.</summary>
internal static class MadeFeature
{
    /// <param name="nominal">The nominal surface; a plane's normal points out of the material.</param>
    /// <param name="length">Of the nominal axis.</param>
    public static FeatureResult Fitted(string id, Shape nominal, double[] points, double length = 10)
    {
        var fit = LeastSquares.Fit(nominal.Kind, points, new() { Start = nominal });
        var turned = fit.Shape is Plane3D p && p.Normal.Dot(((Plane3D)nominal).Normal) < 0;
        var sure = FitUncertainty.Of(fit, points)!;
        return new(new(id, id, [0]), new(0, nominal.Kind, 1, true, 0, length, 6.28, PointSums.Centroid(points)) { Shape = nominal },
            turned && fit.Shape is Plane3D plane ? plane with { Normal = -plane.Normal } : fit.Shape, points,
            turned ? [.. fit.Residuals.Select(r => -r)] : fit.Residuals)
        {
            Areas = [.. fit.Residuals.Select(_ => 1.0)],
            Coverage = 1,
            EffectivePoints = sure.EffectivePoints,
            Freedom = sure.Freedom,
            PositionSigma = sure.Position,
            DirectionSigma = sure.Direction,
            RadiusSigma = sure.Radius,
            ErrorMotions = sure.Motions,
            Variations = [.. sure.Shapes.Select((v, k) => new Variation(
                id, k, Variation.Scatter(id), turned && v is Plane3D q ? q with { Normal = -q.Normal } : v, sure.Freedom))],
        };
    }
}
