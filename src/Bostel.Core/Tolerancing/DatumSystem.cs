using Bostel.Core.Alignment;
using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>A datum: its letter and the features it is taken from (more than one: a pattern, used together).</summary>
public sealed record Datum(string Label, IReadOnlyList<FeatureResult> Features);

/// <summary>A motion of one standard deviation by which a datum may misplace the part, in nominal coordinates.</summary>
internal sealed record DatumError(string Source, double? Freedom, SmallMotion Motion);

/// <summary>
/// A datum system after ISO 5459: the datums are applied in order, each under the constraint of those before it. <see cref="Transform"/>
/// moves measured data (already in nominal coordinates by the alignment) so that the measured datums lie on the nominal ones. Degrees of
/// freedom the datums leave free keep the alignment's value here; <see cref="FreeMotions"/> lists them for zones that may use them.
/// </summary>
public sealed class DatumSystem
{
    private readonly IReadOnlyList<Datum> _datums;
    private readonly Lazy<IReadOnlyList<DatumError>> _errors;

    private DatumSystem(IReadOnlyList<Datum> datums)
    {
        _datums = datums;
        Pose = DatumAlignment.Solve([.. datums.Select(AlignmentDatumOf)], RigidTransform.Identity);
        Features = [.. datums.SelectMany(d => d.Features)];
        _errors = new(FindErrors);
    }

    public RigidTransform Transform => Pose.Transform;

    /// <summary>How the datums were applied.</summary>
    public DatumPose Pose { get; }

    public int FreeDegrees => Pose.FreeDegrees;

    public IReadOnlyList<SmallMotion> FreeMotions => Pose.Motions;

    /// <summary>All features that the datums are taken from.</summary>
    public IReadOnlyList<FeatureResult> Features { get; }

    /// <summary>The datums with how they are associated, as "A | B by least-squares".</summary>
    public string Words => Features.Select(f => f.Criterion).Distinct().Count() == 1
        ? $"{string.Join(" | ", _datums.Select(d => d.Label))} by {Tolerancing.Words.Of(Features[0].Criterion)}"
        : string.Join(" | ", _datums.Select(d =>
            $"{d.Label} by {string.Join(", ", d.Features.Select(f => Tolerancing.Words.Of(f.Criterion)).Distinct())}"));

    /// <summary>The letter of the first datum.</summary>
    internal string FirstLabel => _datums[0].Label;

    /// <summary>The first datum's direction in nominal coordinates, and whether it is the normal of a plane.</summary>
    /// <exception cref="BadInputException">It has none.</exception>
    public (Vector3D Direction, bool IsPlane) First => _datums[0].Features.FirstOrDefault(f => f.NominalDirection is not null) is { } f
        ? (f.NominalDirection!.Value, f.Shape is Plane3D)
        : throw new BadInputException($"Datum {_datums[0].Label} gives no direction.");

    /// <summary>Whether the part may still turn; after a first datum with a direction only about that.</summary>
    public bool MayTurn => FreeMotions.Any(m => m.Turn != Vector3D.Zero);

    /// <summary>Where the datums might as well have brought the part.</summary>
    internal IReadOnlyList<DatumError> Errors => _errors.Value;

    /// <summary>Builds the system from measured datum features.</summary>
    /// <exception cref="BadInputException">No datum, or one of a kind that fixes nothing here.</exception>
    public static DatumSystem Build(IReadOnlyList<Datum> datums) => new(datums);

    /// <summary>What each datum brings to a zone's width: that of the errors it makes at the points.</summary>
    /// <param name="points">In nominal coordinates, 3·N.</param>
    /// <param name="along">Across the zone, at each point.</param>
    /// <param name="turnsFreely">The zone may turn about this direction: such errors of the datums do not matter.</param>
    internal IReadOnlyList<Contribution> Contributions(
        double[] points, Func<int, Vector3D> along, Func<double, double, double> zone, Vector3D? turnsFreely = null) =>
        Contribution.Of(Errors.Select(e =>
        {
            var m = turnsFreely is { } d ? e.Motion with { Turn = e.Motion.Turn - (e.Motion.Turn.Dot(d) * d) } : e.Motion;
            double low = double.PositiveInfinity, high = double.NegativeInfinity;
            for (var i = 0; i < points.Length / 3; i++)
            {
                var off = m.Of(Vector3D.At(points, i)).Dot(along(i));
                (low, high) = (Math.Min(low, off), Math.Max(high, off));
            }

            return new Contribution(e.Source, zone(low, high), e.Freedom);
        }));

    /// <summary>Measured features and the nominal ones they are to lie on.</summary>
    /// <exception cref="BadInputException">A feature has no plane, axis or centre.</exception>
    public static AlignmentDatum AlignmentDatumOf(Datum datum) =>
        new(datum.Label, [.. datum.Features.Select(f => f.Nominal.Shape is { } nominal
        ? new DatumPair(f.Shape, nominal, PointSums.Centroid(f.Points)) { Errors = f.ErrorMotions }
        : throw new BadInputException($"datum {datum.Label}: a {f.Nominal.Kind} cannot serve as a datum here."))]);

    /// <summary>
    /// The pose is solved anew with the features off by each of their independent errors, whose effects add up to first order
    /// (JCGM 100:2008, 5.1.3 note 2). An error that several features share, as constructions do, moves them together.
    /// </summary>
    private List<DatumError> FindErrors()
    {
        var back = Transform.Inverse();
        var center = Features.Aggregate(Vector3D.Zero, (sum, f) => sum + (f.Nominal.Center / Features.Count));
        var found = new List<DatumError>();
        foreach (var error in Features.SelectMany(f => f.Variations).DistinctBy(v => (v.Source, v.Index)))
        {
            Datum With(Datum d) =>
                d with { Features = [.. d.Features.Select(f => f with { Shape = f.Varied(error.Source, error.Index) })] };
            var pose = DatumAlignment.Solve([.. _datums.Select(d => AlignmentDatumOf(With(d)))], Transform).Transform;
            var off = _datums.Where(d => d.Features.Any(f => f.Variations.Any(v => (v.Source, v.Index) == (error.Source, error.Index))));
            var labels = string.Join(" and ", off.Select(d => d.Label));
            found.Add(new($"datum {labels}", error.Freedom, SmallMotion.Of(pose.After(back), center)));
        }

        return found;
    }
}
