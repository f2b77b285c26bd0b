using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>
/// A measured feature in nominal coordinates, with its evidence. Uncertainties are standard deviations (k = 1) from the scatter, the
/// geometry and the effective number of points, without the device's own length error. <see cref="Points"/> holds 3·N coordinates.
/// </summary>
public sealed record FeatureResult(FeaturePlan Plan, NominalFace Nominal, Shape Shape, double[] Points, double[] Residuals)
{
    /// <summary>How it follows from others; null: it is measured itself. <see cref="Points"/> then only tell where it lies.</summary>
    public ConstructionPlan? Construction { get; init; }

    /// <summary>What it follows from.</summary>
    public IReadOnlyList<FeatureResult> From { get; init; } = [];

    /// <summary>The feature off by each of its independent errors; the same source and index is the same error in every feature.</summary>
    public IReadOnlyList<Variation> Variations { get; init; } = [];

    public LeftOut LeftOut { get; init; } = LeftOut.Nothing;

    /// <summary>Share of the nominal face, inside the margin, that has points.</summary>
    public double Coverage { get; init; }

    /// <summary>Places of the nominal face, inside the margin, that have none; 3·K.</summary>
    public double[] Missing { get; init; } = [];

    /// <summary>Standard deviation of the residuals.</summary>
    public double Scatter { get; init; }

    /// <summary>Greatest minus least residual.</summary>
    public double Form { get; init; }

    public double EffectivePoints { get; init; }

    /// <summary>The surface each point stands for, mm².</summary>
    public double[] Areas { get; init; } = [];

    public double RadiusSigma { get; init; }
    public double PositionSigma { get; init; }

    /// <summary>Standard deviation of the direction, rad.</summary>
    public double DirectionSigma { get; init; }

    /// <summary>Degrees of freedom that tell the uncertainties; null: as many as matter.</summary>
    public double? Freedom { get; init; }

    /// <summary>Independent motions of one standard deviation each by which the feature may be off: a root of its covariance.</summary>
    public IReadOnlyList<SmallMotion> ErrorMotions { get; init; } = [];

    /// <summary>What noise adds to an extremal association, taken off: of the diameter, or of the place of a plane; mm.</summary>
    public double NoiseTaken { get; init; }

    public double EdgeMargin { get; init; }

    /// <summary>The margin that was cut to fit a narrow face, mm; null: it was not.</summary>
    public double? MarginCutFrom { get; init; }

    /// <summary>Scan vertices used, for showing them on the stage.</summary>
    public int[] Vertices { get; init; } = [];

    /// <summary>Scan vertices left out.</summary>
    public int[] LeftOutVertices { get; init; } = [];

    /// <summary>Whether it was fitted to the points of a surface; no edge, and not constructed.</summary>
    public bool IsSurface => Construction is null && Plan.EdgeOf is null;

    public int Used => Construction is null ? Residuals.Length : From.Sum(f => f.Used);

    /// <summary>The middle of where it was measured.</summary>
    public Vector3D Place => PointSums.Centroid(Points);

    public Criterion Criterion => Plan.Criterion;

    /// <summary>Faces of the nominal that it rests on.</summary>
    public IEnumerable<int> Faces => Construction is null ? Plan.Faces : From.SelectMany(f => f.Faces);

    public Line3D? Axis => NominalFaceBuilder.AxisOf(Shape);
    public Line3D? NominalAxis => NominalFaceBuilder.AxisOf(Nominal.Shape);

    public double? Radius => RadiusOf(Shape);
    public double? NominalRadius => RadiusOf(Nominal.Shape);

    /// <summary>Direction of a plane's normal or a round feature's axis.</summary>
    public Vector3D? Direction => NominalFaceBuilder.DirectionOf(Shape);

    public Vector3D? NominalDirection => NominalFaceBuilder.DirectionOf(Nominal.Shape);

    /// <summary>The feature as measured in other coordinates; the nominal stays where it is.</summary>
    public FeatureResult Moved(RigidTransform pose) => this with
    {
        Shape = Shape.Transformed(pose),
        Points = pose.ApplyAll(Points),
        ErrorMotions = [.. ErrorMotions.Select(m => m.At(pose))],
        Variations = [.. Variations.Select(v => v with { Shape = v.Shape.Transformed(pose) })],
    };

    /// <summary>Its shape as it would be with one error.</summary>
    internal Shape Varied(string source, int index) =>
        Variations.FirstOrDefault(v => v.Source == source && v.Index == index)?.Shape ?? Shape;

    internal static double? RadiusOf(Shape? shape) => shape switch
    {
        Cylinder3D s => s.Radius,
        Circle3D s => s.Radius,
        Sphere3D { Radius: > 0 } s => s.Radius,
        _ => null,
    };
}
