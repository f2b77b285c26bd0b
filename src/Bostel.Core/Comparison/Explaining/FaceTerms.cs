using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>What can be wrong with one face.</summary>
internal enum FaceError
{
    /// <summary>It stands too high all over; a round one has another radius.</summary>
    Offset,

    /// <summary>It is moved, as far as its surface tells that from an offset: never a plane.</summary>
    Shift,

    /// <summary>It is turned about its middle.</summary>
    Turn,

    /// <summary>A plane is bowed; a round one tapers or bulges.</summary>
    Form,
}

/// <summary>
/// Errors of one face on its own, as the deviations they make. Every column is of root mean square 1 on the face, so that a coefficient is
/// in mm and one measure of what is usual holds for all faces.
/// </summary>
internal sealed class FaceTerms
{
    /// <summary>
    /// Mean squares below which an error is not told from those before it: a shift from an offset, a turn of a narrow face about its
    /// length, a bow.
    /// </summary>
    private const double LeastShift = 0.02, LeastTurn = 1e-4, LeastForm = 1e-3;

    /// <summary>
    /// Where the raw terms begin, mm: the offset; the shift; the turn times <see cref="Reach"/>; the rise along U from the middle to the
    /// end; how much the ends stand higher than the middle along U, the corners crosswise, the ends along V.
    /// </summary>
    public const int OffsetAt = 0, ShiftAt = 1, TurnAt = 4, RiseAt = 7, EndsAlongU = 8, Crosswise = 9, EndsAlongV = 10;

    /// <summary>Number of the raw terms.</summary>
    public const int Raw = 11;

    private readonly NominalFace _face;
    private readonly Vector3D _center;
    private readonly double _reach;
    private readonly Vector3D _u, _v;
    private readonly double _alongU, _alongV;

    /// <summary>By column: its coefficients of the raw terms (offset, six of motion, those of form).</summary>
    private readonly List<double[]> _columns = [];

    /// <param name="readings">Of the face.</param>
    public FaceTerms(NominalFace face, IReadOnlyList<SurfaceReading> readings)
    {
        _face = face;
        var weight = readings.Sum(c => c.Weight);
        var mean = readings.Aggregate(Vector3D.Zero, (sum, c) => sum + (c.Weight * c.Point)) / weight;

        // About a place on its axis a round face is turned without being shifted.
        _center = face.Shape switch
        {
            Cylinder3D c => c.AxisLine.Project(mean),
            Cone3D c => new Line3D(c.Apex, c.Axis).Project(mean),
            Torus3D t => t.Center,
            Sphere3D s => s.Center,
            _ => mean,
        };
        (_u, _v) = Directions(readings);
        _alongU = Math.Max(1e-9, readings.Max(c => Math.Abs((c.Point - _center).Dot(_u))));
        _alongV = Math.Max(1e-9, readings.Max(c => Math.Abs((c.Point - _center).Dot(_v))));
        _reach = Math.Max(1e-9, Math.Sqrt(readings.Sum(c => c.Weight * (c.Point - _center).LengthSquared) / weight));
    }

    public bool IsPlane => _face.Shape is Plane3D;

    /// <summary>Of a plane.</summary>
    public Vector3D Normal => ((Plane3D)_face.Shape!).Normal;

    /// <summary>The narrowest, mm; infinite of planes and of what has none.</summary>
    public double Radius => _face.Shape switch
    {
        Cylinder3D c => c.Radius,
        Sphere3D s => s.Radius,
        Torus3D t => t.MinorRadius,
        Cone3D c => Math.Max(1e-6, Math.Abs((_center - c.Apex).Dot(c.Axis)) * Math.Tan(c.HalfAngle)),
        _ => double.PositiveInfinity,
    };

    /// <summary>Columns by <see cref="FaceError"/>: the first, and how many; none before <see cref="Normalise"/>.</summary>
    public IReadOnlyList<(int From, int Count)> Groups { get; private set; } = [(0, 0), (0, 0), (0, 0), (0, 0)];

    /// <summary>Makes the columns from the cells that they are to be of root mean square 1 over.</summary>
    public void Normalise(IReadOnlyList<SurfaceCell> cells)
    {
        var weight = cells.Sum(c => c.Weight);
        var rows = cells.Select(c => c.Own).ToList();
        var weights = cells.Select(c => c.Weight / weight).ToList();
        Groups =
        [
            Basis(rows, weights, [OffsetAt], 0), Basis(rows, weights, [ShiftAt, ShiftAt + 1, ShiftAt + 2], LeastShift),
            Basis(rows, weights, [TurnAt, TurnAt + 1, TurnAt + 2], LeastTurn), Basis(rows, weights, [.. Form], LeastForm),
        ];
    }

    public int Count => _columns.Count;

    /// <summary>Mean square distance from its centre, its root, mm.</summary>
    public double Reach => _reach;

    /// <summary>The directions it extends in, the longer first; along its axis where it has one.</summary>
    public (Vector3D U, Vector3D V) Axes => (_u, _v);

    private IEnumerable<int> Form => _face.Shape switch
    {
        Cylinder3D or Cone3D => [RiseAt, EndsAlongU],
        Plane3D or null => [EndsAlongU, Crosswise, EndsAlongV],
        _ => [],
    };

    /// <summary>The row of the design of a place, or of a cell, from its raw terms.</summary>
    public double[] Row(ReadOnlySpan<double> raw)
    {
        var row = new double[Count];
        for (var k = 0; k < row.Length; k++)
        {
            for (var j = 0; j < raw.Length; j++)
            {
                row[k] += _columns[k][j] * raw[j];
            }
        }

        return row;
    }

    /// <summary>Coefficients of the raw terms, of one error of the face, mm.</summary>
    /// <param name="estimate">By column.</param>
    public double[] Physical(IReadOnlyList<double> estimate, FaceError group)
    {
        var raw = new double[Raw];
        var (from, count) = Groups[(int)group];
        for (var k = from; k < from + count; k++)
        {
            for (var j = 0; j < raw.Length; j++)
            {
                raw[j] += _columns[k][j] * estimate[k];
            }
        }

        return raw;
    }

    /// <summary>The same of a covariance: variances and covariances of the raw terms, mm².</summary>
    public double[,] Physical(double[,] covariance, FaceError group)
    {
        var raw = new double[Raw, Raw];
        var (from, count) = Groups[(int)group];
        for (var r = 0; r < Raw; r++)
        {
            for (var c = 0; c < Raw; c++)
            {
                for (var k = from; k < from + count; k++)
                {
                    for (var j = from; j < from + count; j++)
                    {
                        raw[r, c] += _columns[k][r] * covariance[k, j] * _columns[j][c];
                    }
                }
            }
        }

        return raw;
    }

    /// <summary>Fills the raw terms of a place.</summary>
    public void Fill(Vector3D p, Vector3D n, Span<double> raw)
    {
        var r = p - _center;
        var arm = r.Cross(n) / _reach;
        var (a, b) = (r.Dot(_u) / _alongU, r.Dot(_v) / _alongV);
        (raw[0], raw[1], raw[2], raw[3]) = (1, n.X, n.Y, n.Z);
        (raw[4], raw[5], raw[6]) = (arm.X, arm.Y, arm.Z);
        (raw[7], raw[8], raw[9], raw[10]) = (a, a * a, a * b, b * b);
    }

    /// <summary>
    /// Columns that span some of the raw terms, cleared of what those before them say already, and of root mean square 1.
    /// </summary>
    private (int From, int Count) Basis(List<double[]> rows, List<double> weights, int[] terms, double least)
    {
        var from = _columns.Count;
        var cleared = terms.Select(t => Cleared(t, rows, weights)).ToList();
        var gram = new double[terms.Length, terms.Length];
        for (var r = 0; r < terms.Length; r++)
        {
            for (var c = 0; c < terms.Length; c++)
            {
                gram[r, c] = Product(cleared[r], cleared[c], rows, weights);
            }
        }

        var (values, vectors) = terms.Length > 0 ? SymmetricEigen.Solve(gram) : ([], new double[0, 0]);
        for (var k = values.Length - 1; k >= 0 && values[k] > least; k--)
        {
            var column = new double[Raw];
            for (var t = 0; t < terms.Length; t++)
            {
                for (var j = 0; j < column.Length; j++)
                {
                    column[j] += vectors[t, k] * cleared[t][j] / Math.Sqrt(values[k]);
                }
            }

            _columns.Add(column);
        }

        return (from, _columns.Count - from);
    }

    private double[] Cleared(int term, List<double[]> rows, List<double> weights)
    {
        var column = new double[Raw];
        column[term] = 1;
        foreach (var before in _columns)
        {
            var share = Product(column, before, rows, weights);
            for (var j = 0; j < column.Length; j++)
            {
                column[j] -= share * before[j];
            }
        }

        return column;
    }

    private static double Product(double[] a, double[] b, List<double[]> rows, List<double> weights)
    {
        double sum = 0;
        for (var i = 0; i < rows.Count; i++)
        {
            double x = 0, y = 0;
            for (var j = 0; j < a.Length; j++)
            {
                x += a[j] * rows[i][j];
                y += b[j] * rows[i][j];
            }

            sum += weights[i] * x * y;
        }

        return sum;
    }

    private (Vector3D U, Vector3D V) Directions(IReadOnlyList<SurfaceReading> readings)
    {
        var axis = _face.Shape switch { Cylinder3D c => c.Axis, Cone3D c => c.Axis, _ => (Vector3D?)null };
        if (axis is { } along)
        {
            return (along, along.Perpendicular());
        }

        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        foreach (var c in readings)
        {
            var r = c.Point - _center;
            (xx, xy, xz) = (xx + (c.Weight * r.X * r.X), xy + (c.Weight * r.X * r.Y), xz + (c.Weight * r.X * r.Z));
            (yy, yz, zz) = (yy + (c.Weight * r.Y * r.Y), yz + (c.Weight * r.Y * r.Z), zz + (c.Weight * r.Z * r.Z));
        }

        var vectors = SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz).Vectors;
        return (vectors[2], vectors[1]);
    }
}
