using Bostel.Core.Alignment;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>A datum: its letter and the features it is taken from (more than one: a pattern, used together).</summary>
public sealed record Datum(string Label, IReadOnlyList<FeatureResult> Features);

/// <summary>
/// A datum system after ISO 5459: the datums are applied in order, each under the constraint of those before it. <see cref="Transform"/>
/// moves measured data (already in nominal coordinates by the alignment) so that the measured datums lie on the nominal ones. Degrees of
/// freedom the datums leave free keep the alignment's value; <see cref="FreeDegrees"/> counts them.
/// </summary>
public sealed class DatumSystem
{
    private readonly DatumPose? _pose;
    private readonly Vector3D _pivot;
    private readonly double _positionVariance;
    private readonly double _tiltVariance;

    private DatumSystem(IReadOnlyList<Datum> datums)
    {
        Labels = string.Join(" | ", datums.Select(d => d.Label));
        if (datums.Count == 0)
        {
            return;
        }

        _pose = DatumAlignment.Solve([.. datums.Select(AlignmentDatumOf)], RigidTransform.Identity);
        foreach (var feature in datums.SelectMany(d => d.Features))
        {
            _positionVariance += feature.PositionSigma * feature.PositionSigma;
            _tiltVariance = Math.Max(_tiltVariance, feature.Shape is Plane3D ? feature.DirectionSigma * feature.DirectionSigma : 0);
        }

        _pivot = PointSums.Centroid(datums[^1].Features[0].Points);
    }

    public RigidTransform Transform => _pose?.Transform ?? RigidTransform.Identity;

    public int FreeDegrees => _pose?.FreeDegrees ?? 6;

    public string Labels { get; }

    /// <summary>Builds the system from measured datum features.</summary>
    /// <exception cref="BadInputException">A datum is of a kind that fixes nothing here.</exception>
    public static DatumSystem Build(IReadOnlyList<Datum> datums) => new(datums);

    /// <summary>Standard deviation that the datums bring to a point's place.</summary>
    public double SigmaAt(Vector3D p) => Math.Sqrt(_positionVariance + (_tiltVariance * (p - _pivot).LengthSquared));

    /// <summary>Measured features and the nominal ones they are to lie on.</summary>
    /// <exception cref="BadInputException">A feature has no plane, axis or centre.</exception>
    public static AlignmentDatum AlignmentDatumOf(Datum datum) => new(datum.Label,
        [.. datum.Features.Select(f => f.Nominal.Shape is { } nominal
            ? new DatumPair(f.Shape, nominal, PointSums.Centroid(f.Points))
            : throw new BadInputException($"datum {datum.Label}: a {f.Nominal.Kind} cannot serve as a datum here."))]);
}
