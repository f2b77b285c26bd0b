using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>Tells the estimates of a model as findings, in the terms of those who make parts.</summary>
internal sealed class FindingsOf(
    ErrorModel model, ErrorEstimate estimate, WholePartTerms whole, NominalModel nominal, double device, ExplainedField explained)
{
    /// <summary>Chance that a pose is stated of a part that lies where it should.</summary>
    private const double Chance = 0.005;

    /// <summary>Waves stand out of what others have from so many times that on.</summary>
    private const double Wavy = 3;

    private const double Degrees = 180 / Math.PI;

    public static readonly ExplainedPart[] WholePart = [ExplainedPart.Pose, ExplainedPart.Size, ExplainedPart.Bend];

    private readonly double _factor = CoverageFactor.Of(model.Freedom);
    private IReadOnlyList<double>? _left;

    public List<Finding> All()
    {
        var found = new List<Finding>();
        var from = 0;
        for (var k = 0; k < model.Shared.Count; k++)
        {
            var (error, part) = (model.Shared[k], explained.Shared[k]);
            var rms = explained.Rms(c => part.Faces?.Contains(c.Face) != false
                ? SmallSystems.Dot(part.Coefficients, c.Whole)
                : 0);
            if (Shared(error, from) is { } finding)
            {
                found.Add(finding with { Rms = rms });
            }

            from += error.Columns.Length;
        }

        var ofFaces = Enumerable.Range(0, model.Faces.Count).SelectMany(OfFace).OrderByDescending(f => f.Rms);
        return [.. found.OrderBy(f => f.Part), .. ofFaces];
    }

    private Finding? Shared(SharedError error, int from)
    {
        Found At(int k, double scale = 1, double more = 0) => new(
            scale * estimate.Values[from + k],
            _factor * Math.Sqrt((scale * scale * estimate.Covariance[from + k, from + k]) + (more * more)));
        switch (error.Of)
        {
            case { Kind: WholePartError.Pose }:
                return ErrorSelection.ShareOf(model, estimate, error, Chance) > 1 ? Pose(At) : null;
            case { Kind: WholePartError.Size }:
                // An error of length of the device is the same for all faces: it reads as one of size.
                var percent = 100 / whole.Reach;
                var size = new SizeFinding(error.Columns.Length == 1
                    ? [At(0, percent, percent * device)]
                    : [.. Enumerable.Range(0, 3).Select(k => At(k, percent, 50 * device / Math.Max(1e-9, whole.Half(k))))]);
                return size.Percent.Any(p => p.StandsOut) ? size : null;
            case { Kind: WholePartError.Bend } bend:
                return At(0, 1, device) is { StandsOut: true } height ? new BendFinding(bend.Along, bend.Toward, height) : null;
            case { Kind: WholePartError.Twist } twist:
                var angle = 2 * Degrees / whole.Reach;
                return At(0, angle, angle * device) is { StandsOut: true } turned ? new TwistFinding(twist.Along, turned) : null;
            default:
                var shift = error.Columns.Select((c, k) => estimate.Values[from + k] * new Vector3D(c[0], c[1], c[2]))
                    .Aggregate(Vector3D.Zero, (a, b) => a + b);
                double variance = 0;
                for (var r = 0; r < error.Columns.Length; r++)
                {
                    for (var c = 0; c < error.Columns.Length; c++)
                    {
                        variance += estimate.Values[from + r] * estimate.Values[from + c] * estimate.Covariance[from + r, from + c];
                    }
                }

                variance /= Math.Max(1e-18, shift.LengthSquared);
                return new SharedShiftFinding(
                    [.. error.Faces!.Order()], shift.ToArray(), new(shift.Length, _factor * Math.Sqrt(variance + (device * device))));
        }
    }

    private PoseFinding? Pose(Func<int, double, double, Found> at)
    {
        var turn = Degrees / whole.Reach;
        var pose = new PoseFinding(
            [.. Enumerable.Range(0, 3).Select(k => at(k, 1, 0))], [.. Enumerable.Range(3, 3).Select(k => at(k, turn, 0))]);
        return pose.Shift.Concat(pose.Turn).Any(f => f.StandsOut) ? pose : null;
    }

    private IEnumerable<Finding> OfFace(int index)
    {
        var (face, own) = (model.Faces[index], model.Faces[index].Own);
        var (values, covariance) = estimate.OfFace(index);
        var share = Math.Sqrt(face.Weight / model.Faces.Sum(f => f.Weight));
        double RmsOf(FaceError error)
        {
            var (from, count) = own.Groups[(int)error];
            return share * Math.Sqrt(values.Skip(from).Take(count).Sum(v => v * v));
        }

        if (model.IsReleased(index, FaceError.Offset))
        {
            var height = new Found(values[0], _factor * Math.Sqrt(covariance[0, 0] + (device * device)));
            var round = nominal.Faces[face.Face] is { Shape: Cylinder3D, Internal: var inside } ? inside ? 1 : -1 : 0;
            if (height.StandsOut)
            {
                yield return new OffsetFinding(face.Face, height, round) { Rms = RmsOf(FaceError.Offset) };
            }
        }

        if (model.IsReleased(index, FaceError.Shift))
        {
            var raw = own.Physical(values, FaceError.Shift);
            var shift = new Vector3D(raw[1], raw[2], raw[3]);
            var by = new Found(
                shift.Length,
                _factor * Math.Sqrt(VarianceAlong(shift, own.Physical(covariance, FaceError.Shift), 1) + (device * device)));
            if (by.StandsOut)
            {
                yield return new ShiftFinding(face.Face, shift.ToArray(), by) { Rms = RmsOf(FaceError.Shift) };
            }
        }

        if (model.IsReleased(index, FaceError.Turn)
            && Turned(own, values, covariance, _factor) is { Turn: { StandsOut: true } turn } turned)
        {
            yield return new TurnFinding(face.Face, turned.Axis.ToArray(), turn) { Rms = RmsOf(FaceError.Turn) };
        }

        if (model.IsReleased(index, FaceError.Form) && Form(face.Face, own, values, covariance) is { } form)
        {
            yield return form with { Rms = RmsOf(FaceError.Form) };
        }

        if (Waves(index) is { } waves)
        {
            yield return waves with { Rms = share * waves.Height.Value };
        }
    }

    /// <summary>How a face is turned: about which axis, and by how many degrees.</summary>
    internal static (Vector3D Axis, Found Turn) Turned(FaceTerms own, double[] values, double[,] covariance, double factor)
    {
        var raw = own.Physical(values, FaceError.Turn);
        var turn = new Vector3D(raw[4], raw[5], raw[6]);
        var sigma = Math.Sqrt(VarianceAlong(turn, own.Physical(covariance, FaceError.Turn), 4));
        var scale = Degrees / own.Reach;
        return (turn.Length > 0 ? turn.Normalized() : Vector3D.UnitZ, new(scale * turn.Length, factor * scale * sigma));
    }

    private static double VarianceAlong(Vector3D v, double[,] covariance, int from)
    {
        var d = v.Length > 0 ? v.Normalized() : Vector3D.UnitX;
        double variance = 0;
        for (var r = 0; r < 3; r++)
        {
            for (var c = 0; c < 3; c++)
            {
                variance += d[r] * d[c] * covariance[from + r, from + c];
            }
        }

        return Math.Max(0, variance);
    }

    private FormFinding? Form(int face, FaceTerms own, double[] values, double[,] covariance)
    {
        var raw = own.Physical(values, FaceError.Form);
        var spread = own.Physical(covariance, FaceError.Form);
        Found Of(int k, double scale) => new(scale * raw[k], Math.Abs(scale) * _factor * Math.Sqrt(Math.Max(0, spread[k, k])));
        var alongU = new FormFinding(face, own.Axes.U.ToArray(), Of(7, 2), Of(8, -1));
        var alongV = new FormFinding(face, own.Axes.V.ToArray(), new(0, 0), Of(10, -1));
        var more = Math.Abs(alongV.Bow.Value) > Math.Abs(alongU.Bow.Value) && alongV.Bow.StandsOut && !alongU.Taper.StandsOut
            ? alongV
            : alongU;
        return more.Bow.StandsOut || more.Taper.StandsOut ? more : null;
    }

    /// <summary>Root mean square of what is left on each face when all is taken out that has a term: waves, and noise; mm.</summary>
    public IReadOnlyList<double> Left => _left ??= [.. Enumerable.Range(0, model.Faces.Count).Select(f =>
    {
        var (face, own) = (model.Faces[f], estimate.AloneWithShared(f).Values);
        var squares = face.Cells.Sum(c => c.Weight * Math.Pow(
            c.Value - explained.Shared.Where(s => s.Faces?.Contains(c.Face) != false).Sum(s => SmallSystems.Dot(s.Coefficients, c.Whole))
            - SmallSystems.Dot(face.Own.Row(c.Own), own), 2));
        return Math.Sqrt(squares / face.Weight);
    })];

    private WavesFinding? Waves(int index)
    {
        var (face, left) = (model.Faces[index], Left[index]);
        var usual = Left.Order().ElementAt(Left.Count / 2);
        if (face.Effective < 2 || left < Wavy * usual)
        {
            return null;
        }

        var height = Math.Sqrt((left * left) - (usual * usual));
        var waves = new WavesFinding(face.Face, new(height, _factor * left * left / height / Math.Sqrt(2 * face.Effective)));
        return waves.Height.StandsOut && height > device ? waves : null;
    }
}
