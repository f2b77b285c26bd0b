using Bostel.Core.Geometry;

namespace Bostel.Core.Comparison;

/// <summary>
/// Readings of one face in one cell of a grid, as one: thousands of cells tell as much of what reaches over a face as millions of places
/// do, and their noise is less. The rows of the design are means, too: so a cell may reach round a bore.
/// </summary>
/// <param name="Value">Mean deviation, mm.</param>
/// <param name="Weight">The area it stands for.</param>
/// <param name="Whole">Terms of the whole part.</param>
/// <param name="Own">Raw terms of the face.</param>
internal sealed record SurfaceCell(int Face, Vector3D Point, double Value, double Weight, double[] Whole, double[] Own)
{
    /// <summary>Planes at whole coordinates are no planes of the grid.</summary>
    private static readonly Vector3D Askew = new(0.37, 0.61, 0.43);

    /// <param name="readings">Of one face.</param>
    /// <param name="side">Of a cell, mm.</param>
    public static List<SurfaceCell> Of(IReadOnlyList<SurfaceReading> readings, double side, WholePartTerms whole, FaceTerms own)
    {
        var sums = new Dictionary<(long X, long Y, long Z), Sum>();
        Span<double> wholeRow = stackalloc double[whole.Count];
        Span<double> ownRow = stackalloc double[FaceTerms.Raw];
        foreach (var r in readings)
        {
            // By where it lies on the nominal: by where it was measured, noise would part a plane that lies on the grid into high and low.
            var cell = ((r.Point - (r.Value * r.Normal)) / side) + Askew;
            var key = ((long)Math.Floor(cell.X), (long)Math.Floor(cell.Y), (long)Math.Floor(cell.Z));
            if (!sums.TryGetValue(key, out var sum))
            {
                sums[key] = sum = new(new double[whole.Count], new double[FaceTerms.Raw]);
            }

            whole.Fill(r.Point, r.Normal, wholeRow);
            own.Fill(r.Point, r.Normal, ownRow);
            sum.Add(r, wholeRow, ownRow);
        }

        return [.. sums.OrderBy(s => s.Key).Select(s => s.Value.Mean(readings[0].Face))];
    }

    private sealed class Sum(double[] whole, double[] own)
    {
        private Vector3D _point;
        private double _value, _weight;

        public void Add(in SurfaceReading r, ReadOnlySpan<double> wholeRow, ReadOnlySpan<double> ownRow)
        {
            _point += r.Weight * r.Point;
            _value += r.Weight * r.Value;
            _weight += r.Weight;
            for (var k = 0; k < whole.Length; k++)
            {
                whole[k] += r.Weight * wholeRow[k];
            }

            for (var k = 0; k < own.Length; k++)
            {
                own[k] += r.Weight * ownRow[k];
            }
        }

        public SurfaceCell Mean(int face) => new(
            face, _point / _weight, _value / _weight, _weight, [.. whole.Select(v => v / _weight)], [.. own.Select(v => v / _weight)]);
    }
}
