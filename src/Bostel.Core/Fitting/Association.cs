using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>One entry to every fit: kind of feature, criterion, and what is known beforehand.</summary>
public static class Association
{
    /// <summary>What is known before the fit: the plane of a circle or line, a start, the outer side, which tangent criterion.</summary>
    public sealed record Known(Shape? Start = null, Vector3D? Normal = null, Vector3D? Outward = null, bool LeastSum = true);

    /// <exception cref="BadInputException">The criterion is not defined for the kind, or the points do not determine it.</exception>
    public static FitResult Fit(string kind, Criterion criterion, double[] points, Known? known = null)
    {
        known ??= new();
        return (kind, criterion) switch
        {
            ("circle", Criterion.LeastSquares) => LeastSquares.Circle(points, known.Normal),
            ("slot", Criterion.LeastSquares) => LeastSquares.Slot(points, known.Normal),
            ("line", Criterion.LeastSquares) when known.Normal is { } normal => LeastSquares.LineInPlane(points, normal),
            (_, Criterion.LeastSquares) => LeastSquares.Fit(kind, points, known.Start),
            ("plane", Criterion.MinimumZone) => ExtremalFit.MinimumZonePlane(points),
            ("plane", Criterion.OuterTangent) => ExtremalFit.OuterTangentPlane(
                points, known.Outward ?? throw new BadInputException("outward: the outer tangent plane needs a direction out of the material."), known.LeastSum),
            ("line", Criterion.MinimumZone) => known.Normal is { } n ? ExtremalFit.MinimumZoneLine(points, n) : ExtremalFit.MinimumZoneLine(points),
            ("circle", not Criterion.OuterTangent) => ExtremalFit.Circle(points, criterion, known.Normal),
            ("sphere", not Criterion.OuterTangent) => ExtremalFit.Sphere(points, criterion),
            ("cylinder", not Criterion.OuterTangent) => ExtremalFit.Cylinder(points, criterion, known.Start as Cylinder3D),
            _ => throw new BadInputException($"method: {criterion} is not available for a {kind}."),
        };
    }
}
