using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>A datum: its letter and the features it is taken from (more than one: a pattern, used together).</summary>
public sealed record Datum(string Label, IReadOnlyList<FeatureResult> Features);

/// <summary>
/// A datum system after ISO 5459: the datums are applied in order, each under the constraint of those before it. <see cref="Transform"/> moves
/// measured data (already in nominal coordinates by the alignment) so that the measured datums lie on the nominal ones. Degrees of freedom the
/// datums leave free keep the alignment's value; <see cref="FreeDegrees"/> counts them.
/// </summary>
public sealed class DatumSystem
{
    private readonly List<Vector3D> _freeMoves = [Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ];
    private Vector3D? _spin;
    private bool _turned;
    private Vector3D _pivot;
    private double _positionVariance;
    private double _tiltVariance;

    private DatumSystem()
    {
    }

    public RigidTransform Transform { get; private set; } = RigidTransform.Identity;

    public int FreeDegrees => _freeMoves.Count + (_turned ? 0 : _spin is null ? 3 : 1);

    public string Labels { get; private set; } = "";

    /// <summary>Builds the system from measured datum features.</summary>
    /// <exception cref="BadInputException">A datum is of a kind that fixes nothing here.</exception>
    public static DatumSystem Build(IReadOnlyList<Datum> datums)
    {
        var system = new DatumSystem { Labels = string.Join(" | ", datums.Select(d => d.Label)) };
        foreach (var datum in datums)
        {
            if (datum.Features.Count == 1)
            {
                system.Apply(datum.Label, datum.Features[0]);
            }
            else
            {
                system.ApplyPattern(datum);
            }
        }

        return system;
    }

    /// <summary>Standard deviation that the datums bring to a point's place.</summary>
    public double SigmaAt(Vector3D p) => Math.Sqrt(_positionVariance + (_tiltVariance * (p - _pivot).LengthSquared));

    private void Apply(string label, FeatureResult feature)
    {
        switch (feature.Nominal.Shape)
        {
            case Plane3D nominal:
                Turn(feature.Direction!.Value, nominal.Normal);
                Shift(nominal.Normal, (nominal.Point - Transform.Apply(Foot(feature))).Dot(nominal.Normal));
                break;
            case Cylinder3D or Cone3D or Torus3D:
                var axis = feature.NominalAxis!;
                if (_spin is not { } d || d.LineAngleTo(axis.Direction) > 0.02)
                {
                    Turn(feature.Direction!.Value, axis.Direction);
                }

                if (_spin is { } spin && !_turned && spin.LineAngleTo(axis.Direction) < 0.02 && !_freeMoves.Any(m => Math.Abs(m.Dot(spin)) < 0.5))
                {
                    SpinTo([(Foot(feature), axis)]);
                }

                MoveOnto(Foot(feature), axis);
                break;
            case Sphere3D nominal:
                var gap = nominal.Center - Transform.Apply(((Sphere3D)feature.Shape).Center);
                foreach (var move in _freeMoves.ToArray())
                {
                    Shift(move, gap.Dot(move));
                }

                break;
            default:
                throw new BadInputException($"datum {label}: a {feature.Nominal.Kind} cannot serve as a datum here.");
        }

        Remember(feature);
    }

    /// <summary>Several parallel axes: they fix the spin by least squares, and the place where it is still free.</summary>
    private void ApplyPattern(Datum datum)
    {
        var members = datum.Features.Select(f => (Foot: Foot(f), Axis: f.NominalAxis ?? throw new BadInputException($"datum {datum.Label}: a pattern is made of round features."))).ToList();
        if (_spin is null)
        {
            Turn(datum.Features[0].Direction!.Value, members[0].Axis.Direction);
        }

        var inPlane = _freeMoves.Where(m => Math.Abs(m.Dot(_spin!.Value)) < 0.5).ToArray();
        if (inPlane.Length > 0)
        {
            Vector3D Mean(Func<(Vector3D Foot, Line3D Axis), Vector3D> of) => members.Aggregate(Vector3D.Zero, (s, m) => s + (of(m) / members.Count));
            var gap = Mean(m => m.Axis.Project(Transform.Apply(m.Foot))) - Mean(m => Transform.Apply(m.Foot));
            foreach (var move in inPlane)
            {
                Shift(move, gap.Dot(move));
            }

            _pivot = Mean(m => m.Axis.Project(Transform.Apply(m.Foot)));
        }

        SpinTo(members);
        foreach (var f in datum.Features)
        {
            Remember(f);
        }
    }

    /// <summary>Turns the measured direction to the nominal one as far as the freedom left allows.</summary>
    private void Turn(Vector3D measured, Vector3D nominal)
    {
        var now = Transform.Rotate(measured);
        if (_turned)
        {
            return;
        }

        if (_spin is not { } about)
        {
            Compose(RigidTransform.Between(now.Normalized(), nominal), _pivot);
            _spin = nominal;
            return;
        }

        var a = now - (now.Dot(about) * about);
        var b = nominal - (nominal.Dot(about) * about);
        if (b.Length < 0.1)
        {
            return;
        }

        Compose(RigidTransform.FromAxisAngle(about, Math.Atan2(a.Cross(b).Dot(about), a.Dot(b))), _pivot);
        _turned = true;
    }

    private void SpinTo(IReadOnlyList<(Vector3D Foot, Line3D Axis)> members)
    {
        var about = _spin!.Value;
        double sine = 0, cosine = 0;
        foreach (var (foot, axis) in members)
        {
            var p = Transform.Apply(foot);
            var from = Flat(p - _pivot);
            var to = Flat(axis.Project(p) - _pivot);
            sine += from.Cross(to).Dot(about);
            cosine += from.Dot(to);
        }

        if (Math.Abs(sine) + Math.Abs(cosine) > 1e-9 && !_turned)
        {
            Compose(RigidTransform.FromAxisAngle(about, Math.Atan2(sine, cosine)), _pivot);
            _turned = true;
        }

        Vector3D Flat(Vector3D v) => v - (v.Dot(about) * about);
    }

    private void MoveOnto(Vector3D foot, Line3D axis)
    {
        var p = Transform.Apply(foot);
        var gap = axis.Project(p) - p;
        foreach (var move in _freeMoves.Where(m => Math.Abs(m.Dot(axis.Direction)) < 0.9).ToArray())
        {
            var flat = (move - (move.Dot(axis.Direction) * axis.Direction)).Normalized();
            Shift(flat, gap.Dot(flat));
        }

        _pivot = axis.Project(Transform.Apply(foot));
    }

    /// <summary>Moves by an amount measured along a direction, using only free moves, and takes the direction from them.</summary>
    private void Shift(Vector3D along, double amount)
    {
        var free = _freeMoves.Aggregate(Vector3D.Zero, (s, m) => s + (m.Dot(along) * m));
        if (free.Length < 0.1)
        {
            return;
        }

        var unit = free.Normalized();
        Transform = RigidTransform.FromTranslation(amount / along.Dot(unit) * unit).After(Transform);
        var rest = _freeMoves.Select(m => m - (m.Dot(unit) * unit)).Where(m => m.Length > 0.05).ToList();
        _freeMoves.Clear();
        foreach (var m in rest)
        {
            var clean = _freeMoves.Aggregate(m, (s, f) => s - (s.Dot(f) * f));
            if (clean.Length > 0.05)
            {
                _freeMoves.Add(clean.Normalized());
            }
        }
    }

    private void Compose(RigidTransform rotation, Vector3D about) =>
        Transform = (rotation with { Translation = about - rotation.Rotate(about) }).After(Transform);

    private void Remember(FeatureResult feature)
    {
        _positionVariance += feature.PositionSigma * feature.PositionSigma;
        _tiltVariance = Math.Max(_tiltVariance, feature.Shape is Plane3D ? feature.DirectionSigma * feature.DirectionSigma : 0);
    }

    /// <summary>The point of the measured feature nearest to the centroid of its points.</summary>
    private static Vector3D Foot(FeatureResult feature)
    {
        var c = Fitting.PointSums.Centroid(feature.Points);
        return feature.Shape switch
        {
            Plane3D s => s.Project(c),
            Sphere3D s => s.Center,
            _ => feature.Axis!.Project(c),
        };
    }
}
