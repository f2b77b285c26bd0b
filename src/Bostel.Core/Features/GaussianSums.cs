using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>
/// Gaussian means of what lies around places, four sources at a time whatever the machine, so that sums are the same on each. Not for
/// concurrent use.
/// </summary>
internal sealed class GaussianSums
{
    private readonly double _falls;
    private readonly double _reach;
    private readonly List<Four> _fours = [];
    private readonly List<Second> _seconds = [];

    /// <param name="nestingIndex">Cut-off wavelength λ, mm: the weights are exp(−π d² / (α λ)²), α = √(ln 2 / π), by which half
    /// of a wave of that length passes.</param>
    /// <param name="reach">Farther sources do not count, mm.</param>
    public GaussianSums(double nestingIndex, double reach) =>
        (_falls, _reach) = (-Math.PI * Math.PI / (Math.Log(2) * nestingIndex * nestingIndex), reach);

    /// <summary>Goes on with other sources.</summary>
    public void Take(GaussianSource[] from, ReadOnlySpan<int> which)
    {
        _fours.Clear();
        _seconds.Clear();
        Span<GaussianSource> four = stackalloc GaussianSource[4];
        for (var i = 0; i < which.Length; i += 4)
        {
            for (var k = 0; k < 4; k++)
            {
                // What is missing to four has no area.
                four[k] = i + k < which.Length ? from[which[i + k]] : default;
            }

            _fours.Add(new(
                Of(four, s => s.Middle.X), Of(four, s => s.Middle.Y), Of(four, s => s.Middle.Z), Of(four, s => s.Area),
                Of(four, s => s.Moment), Of(four, s => s.Squares)));
            if (from[which[0]].Gathered)
            {
                _seconds.Add(new(
                    Of(four, s => s.Slope.X), Of(four, s => s.Slope.Y), Of(four, s => s.Slope.Z), Of(four, s => s.Of.X),
                    Of(four, s => s.Of.Y), Of(four, s => s.Of.Z), Of(four, s => s.Across.X), Of(four, s => s.Across.Y),
                    Of(four, s => s.Across.Z)));
            }
        }

        static Vector256<double> Of(ReadOnlySpan<GaussianSource> four, Func<GaussianSource, double> value) =>
            Vector256.Create(value(four[0]), value(four[1]), value(four[2]), value(four[3]));
    }

    /// <summary>The mean at a place, and the number of points that it rests on.</summary>
    public (double Value, double Support) At(Vector3D p)
    {
        var (px, py, pz) = (Vector256.Create(p.X), Vector256.Create(p.Y), Vector256.Create(p.Z));
        var (falls, square) = (Vector256.Create(_falls), Vector256.Create(_reach * _reach));
        Vector256<double> sum = default, weight = default, squares = default;
        var seconds = CollectionsMarshal.AsSpan(_seconds);
        var fours = CollectionsMarshal.AsSpan(_fours);
        for (var i = 0; i < fours.Length; i++)
        {
            ref readonly var four = ref fours[i];
            var (dx, dy, dz) = (four.X - px, four.Y - py, four.Z - pz);
            var d2 = (dx * dx) + (dy * dy) + (dz * dz);
            var near = Vector256.LessThanOrEqual(d2, square);
            if (near == default)
            {
                continue;
            }

            var w = Vector256.ConditionalSelect(near, Vector256.Exp(falls * d2), default);
            var (area, moment, areas) = (four.Area, four.Moment, four.Squares);
            if (seconds.Length > 0)
            {
                // w(d + δ) / w(d) = 1 + 2f d·δ + f δ² + 2f² (d·δ)² + …, f the factor of d², summed over the points of the
                // source.
                ref readonly var of = ref seconds[i];
                var spread = of.XX + of.YY + of.ZZ;
                var along = (of.XX * dx * dx) + (of.YY * dy * dy) + (of.ZZ * dz * dz)
                    + (2 * ((of.XY * dx * dy) + (of.XZ * dx * dz) + (of.YZ * dy * dz)));
                var more = Vector256<double>.One + (falls * spread) + (2 * falls * falls * along);
                moment = (moment * more) + (2 * falls * ((dx * of.SlopeX) + (dy * of.SlopeY) + (dz * of.SlopeZ)));
                area *= more;
                areas *= Vector256<double>.One + (2 * falls * spread) + (8 * falls * falls * along);
            }

            sum += w * moment;
            weight += w * area;
            squares += w * w * areas;
        }

        var all = Vector256.Sum(weight);
        return (Vector256.Sum(sum) / all, all * all / Vector256.Sum(squares));
    }

    private readonly record struct Four(
        Vector256<double> X, Vector256<double> Y, Vector256<double> Z, Vector256<double> Area, Vector256<double> Moment,
        Vector256<double> Squares);

    private readonly record struct Second(
        Vector256<double> SlopeX, Vector256<double> SlopeY, Vector256<double> SlopeZ, Vector256<double> XX, Vector256<double> YY,
        Vector256<double> ZZ, Vector256<double> XY, Vector256<double> XZ, Vector256<double> YZ);
}
