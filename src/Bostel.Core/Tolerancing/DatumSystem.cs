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
/// freedom the datums leave free keep the alignment's value here; <see cref="FreeMotions"/> lists them for zones that may use them.
/// </summary>
public sealed class DatumSystem
{
    private readonly DatumPose _pose;
    private readonly Lazy<RigidTransform[]> _shaken;

    private DatumSystem(IReadOnlyList<Datum> datums)
    {
        Labels = string.Join(" | ", datums.Select(d => d.Label));
        _pose = DatumAlignment.Solve([.. datums.Select(AlignmentDatumOf)], RigidTransform.Identity);
        Features = [.. datums.SelectMany(d => d.Features)];
        _shaken = new(() =>
        {
            var poses = new RigidTransform[Shaken.Trials];
            Parallel.For(0, poses.Length, k =>
            {
                var ordinal = 0;
                Datum Moved(Datum d) => d with { Features = [.. d.Features.Select(f => Shaken.Once(f, k, ordinal++))] };
                poses[k] = DatumAlignment.Solve([.. datums.Select(d => AlignmentDatumOf(Moved(d)))], Transform).Transform;
            });
            return poses;
        });
    }

    /// <summary>Where the datums might as well bring the part: the poses of datums shaken by their uncertainty.</summary>
    internal IReadOnlyList<RigidTransform> ShakenPoses => _shaken.Value;

    public RigidTransform Transform => _pose.Transform;

    public int FreeDegrees => _pose.FreeDegrees;

    public IReadOnlyList<SmallMotion> FreeMotions => _pose.Motions;

    /// <summary>All features that the datums are taken from.</summary>
    public IReadOnlyList<FeatureResult> Features { get; }

    public string Labels { get; }

    /// <summary>Builds the system from measured datum features.</summary>
    /// <exception cref="BadInputException">No datum, or one of a kind that fixes nothing here.</exception>
    public static DatumSystem Build(IReadOnlyList<Datum> datums) => new(datums);

    /// <summary>Standard deviation that the datums bring to a point's place along a direction.</summary>
    /// <param name="p">Before the datums' motion.</param>
    public double SigmaAt(Vector3D p, Vector3D direction) =>
        Math.Sqrt(ShakenPoses.Average(t => Math.Pow((t.Apply(p) - Transform.Apply(p)).Dot(direction), 2)));

    /// <summary>Measured features and the nominal ones they are to lie on.</summary>
    /// <exception cref="BadInputException">A feature has no plane, axis or centre.</exception>
    public static AlignmentDatum AlignmentDatumOf(Datum datum)
    {
        return new(datum.Label, [.. datum.Features.Select(f => f.Nominal.Shape is { } nominal
            ? new DatumPair(f.Shape, nominal, PointSums.Centroid(f.Points)) { Errors = f.ErrorMotions }
            : throw new BadInputException($"datum {datum.Label}: a {f.Nominal.Kind} cannot serve as a datum here."))]);
    }
}
