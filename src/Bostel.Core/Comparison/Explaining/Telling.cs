using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>
/// Tells the estimates of a model in the terms of those who make parts. What is stated, and no more, is what can be taken out.
/// </summary>
internal sealed class Telling
{
    /// <summary>Chance that a pose is stated of a part that lies where it should.</summary>
    private const double Chance = 0.005;

    /// <summary>Waves stand out of what others have from so many times that on.</summary>
    private const double Wavy = 3;

    private const double Degrees = 180 / Math.PI;

    private static readonly ExplainedPart[] WholePart = [ExplainedPart.Pose, ExplainedPart.Size, ExplainedPart.Bend];

    private readonly ErrorModel _model;
    private readonly ErrorEstimate _estimate;
    private readonly WholePartTerms _whole;
    private readonly NominalModel _nominal;
    private readonly double _device;
    private readonly double _factor;

    /// <summary>Root mean square of what is left on each face when all is taken out that has a term: waves, and noise; mm.</summary>
    private readonly double[] _left;

    public Telling(ErrorModel model, ErrorEstimate estimate, WholePartTerms whole, NominalModel nominal, double device)
    {
        (_model, _estimate, _whole, _nominal, _device) = (model, estimate, whole, nominal, device);
        _factor = CoverageFactor.Of(model.Freedom);
        _left = [.. model.Faces.Select(f => f.RmsLeft(estimate.SharedOn(f)))];
        var shared = model.Shared.Select(s => (Error: s, Finding: OfShared(s))).Where(s => s.Finding is not null).ToList();
        var faces = Enumerable.Range(0, model.Faces.Count).SelectMany(OfFace).ToList();
        Field = new(
            whole, [.. shared.Select(s => (s.Finding!.Part, s.Error, estimate.Of(s.Error)))],
            Enumerable.Range(0, model.Faces.Count).ToDictionary(
                f => model.Faces[f].Face, f => (model.Faces[f].Own, Stated(f, faces))),
            [.. model.Faces.SelectMany(f => f.Cells)]);
        Findings =
        [
            .. shared.Select(s => s.Finding! with { Rms = RmsOf(s.Error) }).OrderBy(f => f.Part),
            .. faces.Select(f => f.Finding).OrderByDescending(f => f.Rms),
        ];
        Faces = [.. Enumerable.Range(0, model.Faces.Count).Select(ErrorsOf)];
    }

    /// <summary>The whole part first, then faces, the largest first.</summary>
    public IReadOnlyList<Finding> Findings { get; }

    public IReadOnlyList<FaceErrors> Faces { get; }

    public ExplainedField Field { get; }

    private Finding? OfShared(SharedError error)
    {
        var from = _estimate.From(error);
        Found At(int k, double scale = 1, double more = 0) => new(
            scale * _estimate.Values[from + k],
            _factor * Math.Sqrt((scale * scale * _estimate.Covariance[from + k, from + k]) + (more * more)));
        var angle = Degrees / _whole.Reach;
        switch (error.Of)
        {
            case { Kind: WholePartError.Pose }:
                var pose = new PoseFinding(
                    [.. Enumerable.Range(0, 3).Select(k => At(k))], [.. Enumerable.Range(3, 3).Select(k => At(k, angle))]);
                return ErrorSelection.ShareOf(_model, _estimate, error, Chance) > 1
                    && pose.Shift.Concat(pose.Turn).Any(f => f.StandsOut) ? pose : null;
            case { Kind: WholePartError.Size }:
                // An error of length of the device is the same for all faces: it reads as one of size.
                var percent = 100 / _whole.Reach;
                var size = new SizeFinding(error.Columns.Length == 1
                    ? [At(0, percent, percent * _device)]
                    : [.. Enumerable.Range(0, 3).Select(k => At(k, percent, 50 * _device / Math.Max(1e-9, _whole.Half(k))))]);
                return size.Percent.Any(p => p.StandsOut) ? size : null;
            case { Kind: WholePartError.Bend } bend:
                return At(0, 1, _device) is { StandsOut: true } height ? new BendFinding(bend.Along, bend.Toward, height) : null;
            case { Kind: WholePartError.Twist } twist:
                return At(0, 2 * angle, 2 * angle * _device) is { StandsOut: true } turned ? new TwistFinding(twist.Along, turned) : null;
            default:
                return SharedShift(error, from);
        }
    }

    private SharedShiftFinding? SharedShift(SharedError error, int from)
    {
        var (values, covariance) = (
            _estimate.Values[from..(from + error.Columns.Length)], SmallSystems.Block(_estimate.Covariance, from, error.Columns.Length));
        var shift = error.Columns.Zip(values, (c, v) => v * new Vector3D(c[0], c[1], c[2])).Aggregate(Vector3D.Zero, (a, b) => a + b);
        var variance = SmallSystems.Dot(values, SmallSystems.Times(covariance, values)) / Math.Max(1e-18, shift.LengthSquared);
        var by = Length(shift.Length, variance);
        return by.StandsOut ? new([.. error.Faces!.Order()], shift.ToArray(), by) : null;
    }

    /// <summary>What stands out of a face, and which of its terms that is; waves are no term.</summary>
    private IEnumerable<(int Index, FaceError? Error, Finding Finding)> OfFace(int index)
    {
        var (face, own) = (_model.Faces[index].Face, _model.Faces[index].Own);
        var (values, covariance) = _estimate.OfFace(index);
        var share = Math.Sqrt(_model.Faces[index].Weight / _model.Faces.Sum(f => f.Weight));
        foreach (var error in Enum.GetValues<FaceError>().Where(e => _model.IsReleased(index, e)))
        {
            Finding? finding = error switch
            {
                FaceError.Offset => Length(values[0], covariance[0, 0]) is { StandsOut: true } height
                    ? new OffsetFinding(face, height, Round(face)) : null,
                FaceError.Shift => Shifted(own, values, covariance) is var (shift, by) && by.StandsOut
                    ? new ShiftFinding(face, shift.ToArray(), by) : null,
                FaceError.Turn => Turned(own, values, covariance) is var (axis, turn) && turn.StandsOut
                    ? new TurnFinding(face, axis.ToArray(), turn) : null,
                _ => Formed(face, own, values, covariance) is { StandsOut: true } form ? form : null,
            };
            if (finding is not null)
            {
                var (from, count) = own.Groups[(int)error];
                var rms = Math.Sqrt(values.Skip(from).Take(count).Sum(v => v * v));
                yield return (index, error, finding with { Rms = share * rms });
            }
        }

        if (Waves(index) is { } waves)
        {
            yield return (index, null, waves with { Rms = share * waves.Height.Value });
        }
    }

    /// <summary>A face's terms without those that are not stated.</summary>
    private double[] Stated(int index, List<(int Index, FaceError? Error, Finding Finding)> stated)
    {
        var (values, _) = _estimate.OfFace(index);
        foreach (var error in Enum.GetValues<FaceError>().Where(e => !stated.Any(s => s.Index == index && s.Error == e)))
        {
            var (from, count) = _model.Faces[index].Own.Groups[(int)error];
            Array.Clear(values, from, count);
        }

        return values;
    }

    private FaceErrors ErrorsOf(int index)
    {
        var (face, own) = (_model.Faces[index], _model.Faces[index].Own);
        var (values, covariance) = _estimate.Released(index);
        var worst = face.Cells.Select(c => (Cell: c, Left: Field.LeftOf(c, WholePart))).MaxBy(c => Math.Abs(c.Left));
        return new(
            face.Face, Length(values[0], covariance[0, 0]), Shifted(own, values, covariance).By, Turned(own, values, covariance).Turn,
            Formed(face.Face, own, values, covariance).AlongU, _left[index], worst.Left, worst.Cell.Point.ToArray());
    }

    /// <summary>A length, with the device's error.</summary>
    private Found Length(double value, double variance) => new(value, _factor * Math.Sqrt(Math.Max(0, variance) + (_device * _device)));

    private (Vector3D Shift, Found By) Shifted(FaceTerms own, double[] values, double[,] covariance)
    {
        var shift = VectorAt(own.Physical(values, FaceError.Shift), FaceTerms.ShiftAt);
        return (shift, Length(shift.Length, VarianceAlong(shift, own.Physical(covariance, FaceError.Shift), FaceTerms.ShiftAt)));
    }

    /// <summary>How a face is turned: about which axis, and by how many degrees.</summary>
    private (Vector3D Axis, Found Turn) Turned(FaceTerms own, double[] values, double[,] covariance)
    {
        var turn = VectorAt(own.Physical(values, FaceError.Turn), FaceTerms.TurnAt);
        var sigma = Math.Sqrt(VarianceAlong(turn, own.Physical(covariance, FaceError.Turn), FaceTerms.TurnAt));
        var scale = Degrees / own.Reach;
        return (turn.Length > 0 ? turn.Normalized() : Vector3D.UnitZ, new(scale * turn.Length, _factor * scale * sigma));
    }

    private FormFinding Formed(int face, FaceTerms own, double[] values, double[,] covariance)
    {
        var raw = own.Physical(values, FaceError.Form);
        var spread = own.Physical(covariance, FaceError.Form);
        Found Of(int k, double scale) => new(scale * raw[k], Math.Abs(scale) * _factor * Math.Sqrt(Math.Max(0, spread[k, k])));
        return new(
            face, own.Axes.U.ToArray(), own.Axes.V.ToArray(), Of(FaceTerms.RiseAt, 2), Of(FaceTerms.EndsAlongU, -1),
            Of(FaceTerms.EndsAlongV, -1), Of(FaceTerms.Crosswise, 1));
    }

    private WavesFinding? Waves(int index)
    {
        var (face, left) = (_model.Faces[index], _left[index]);
        var usual = _left.Order().ElementAt(_left.Length / 2);
        if (face.Effective < 2 || left < Wavy * usual)
        {
            return null;
        }

        var height = Math.Sqrt((left * left) - (usual * usual));
        var waves = new WavesFinding(face.Face, new(height, _factor * left * left / height / Math.Sqrt(2 * face.Effective)));
        return waves.Height.StandsOut && height > _device ? waves : null;
    }

    /// <summary>Root mean square of the deviation that a shared error makes, mm.</summary>
    private double RmsOf(SharedError error)
    {
        var coefficients = _estimate.Of(error);
        return Math.Sqrt(
            Field.Cells.Where(c => error.IsOn(c.Face)).Sum(c => c.Weight * Math.Pow(SmallSystems.Dot(coefficients, c.Whole), 2))
            / Field.Cells.Sum(c => c.Weight));
    }

    /// <summary>+1: a bore, −1: a boss, 0: neither.</summary>
    private int Round(int face) => _nominal.Faces[face] is { Shape: Cylinder3D, Internal: var inside } ? (inside ? 1 : -1) : 0;

    private static Vector3D VectorAt(double[] raw, int from) => new(raw[from], raw[from + 1], raw[from + 2]);

    private static double VarianceAlong(Vector3D v, double[,] covariance, int from)
    {
        var d = (v.Length > 0 ? v.Normalized() : Vector3D.UnitX).ToArray();
        return Math.Max(0, SmallSystems.Dot(d, SmallSystems.Times(SmallSystems.Block(covariance, from, 3), d)));
    }
}
