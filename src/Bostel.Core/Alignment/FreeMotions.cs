using System.Globalization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>
/// The motions a partly constrained body still has: an orthonormal basis of twists (turn times the lever, shift) about a centre. The centre
/// is moved to where the turns are pure, so that finite steps along the basis keep what is fixed.
/// </summary>
internal sealed class FreeMotions
{
    /// <summary>Sensitivities below this, squared, count as none: directions within about 2° of each other are parallel.</summary>
    internal const double Negligible = 1e-3;

    /// <summary>A twentieth of a turn or shift is a leaning axis, not another motion.</summary>
    internal const double Leaning = 0.05;

    private readonly double _lever;
    private List<double[]> _twists;

    public FreeMotions(Vector3D center, double lever)
    {
        (Center, _lever) = (center, lever);
        _twists = [.. Enumerable.Range(0, 6).Select(i => Enumerable.Range(0, 6).Select(k => k == i ? 1.0 : 0).ToArray())];
    }

    public Vector3D Center { get; private set; }

    public int Count => _twists.Count;

    /// <summary>The free motions one by one; a step of one moves no point of the part by much more than 1 mm.</summary>
    public IReadOnlyList<SmallMotion> All => [.. _twists.Select(t => new SmallMotion(Turn(t) / _lever, Shift(t), Center))];

    /// <summary>The six motions about the nominal's axes of which a free one holds a share.</summary>
    public IReadOnlyList<Motion> Named
    {
        get
        {
            bool Holds(Func<double[], Vector3D> part, int axis) =>
                _twists.Select(part).Any(v => v.Length > Leaning && Math.Abs(v[axis]) > Leaning * v.Length);
            return [.. Enum.GetValues<Motion>().Where(m => (int)m < 3
                ? Holds(Turn, (int)m)
                : _twists.Where(t => Turn(t).Length < Leaning).Select(Shift).Any(v => Math.Abs(v[(int)m - 3]) > Leaning * v.Length))];
        }
    }

    /// <summary>Row of a residual that grows with the shift of a point along a direction.</summary>
    public double[] Shift(Vector3D p, Vector3D along)
    {
        var arm = (p - Center).Cross(along) / _lever;
        return [arm.X, arm.Y, arm.Z, along.X, along.Y, along.Z];
    }

    /// <summary>Row of a residual lever · u·v that grows with the turn of the moving direction u.</summary>
    public static double[] Turn(Vector3D u, Vector3D v)
    {
        var turn = u.Cross(v);
        return [turn.X, turn.Y, turn.Z, 0, 0, 0];
    }

    /// <summary>What a row feels of a motion.</summary>
    public double Felt(double[] row, SmallMotion motion)
    {
        var shift = motion.Of(Center);
        var turn = _lever * motion.Turn;
        return Dot(row, [turn.X, turn.Y, turn.Z, shift.X, shift.Y, shift.Z]);
    }

    /// <summary>The least-squares step against residuals along the free motions; motions that no row feels stay.</summary>
    /// <param name="weighed">
    /// The rows by how sure they are; null: all alike. Whether a motion is felt at all is told by the rows themselves.
    /// </param>
    public (RigidTransform Motion, double Length, int Rank) Step(
        IReadOnlyList<(double[] Row, double Residual)> rows, IReadOnlyList<(double[] Row, double Residual)>? weighed = null)
    {
        if (Count == 0 || rows.Count == 0)
        {
            return (RigidTransform.Identity, 0, 0);
        }

        var felt = Split(rows, felt: true);
        var (normal, down) = (new double[felt.Count, felt.Count], new double[felt.Count]);
        foreach (var (row, residual) in weighed ?? rows)
        {
            var along = felt.Select(t => Dot(row, t)).ToArray();
            for (var a = 0; a < felt.Count; a++)
            {
                down[a] -= along[a] * residual;
                for (var b = 0; b < felt.Count; b++)
                {
                    normal[a, b] += along[a] * along[b];
                }
            }
        }

        var twist = new double[6];
        if (felt.Count > 0 && LinearSolve.Gauss(normal, down) is { } step)
        {
            for (var k = 0; k < felt.Count; k++)
            {
                Add(twist, felt[k], step[k]);
            }
        }

        var turn = new Vector3D(twist[0], twist[1], twist[2]) / _lever;
        return (RigidTransform.FromTwist(turn, new(twist[3], twist[4], twist[5]), Center), Math.Sqrt(Dot(twist, twist)), felt.Count);
    }

    /// <summary>The free motions that the rows feel, or those that they do not.</summary>
    private List<double[]> Split(IReadOnlyList<(double[] Row, double Residual)> rows, bool felt)
    {
        var (values, vectors) = Sensitivity(rows);
        var found = new List<double[]>();
        for (var e = 0; e < Count; e++)
        {
            if (values[e] >= Negligible == felt)
            {
                var twist = new double[6];
                for (var k = 0; k < Count; k++)
                {
                    Add(twist, _twists[k], vectors[k, e]);
                }

                found.Add(twist);
            }
        }

        return found;
    }

    /// <summary>Takes the motions that the rows feel out of the free ones. Returns how many.</summary>
    public int Fix(IReadOnlyList<(double[] Row, double Residual)> rows)
    {
        if (Count == 0 || rows.Count == 0)
        {
            return 0;
        }

        var before = Count;
        _twists = Split(rows, felt: false);
        Recentre();
        return before - Count;
    }

    /// <summary>What is free, in words.</summary>
    public string Describe() => Count == 0 ? "nothing" : string.Join(", ", _twists.Select(t =>
    {
        var turn = new Vector3D(t[0], t[1], t[2]);
        var shift = new Vector3D(t[3], t[4], t[5]);
        return turn.Length > 0.3
            ? string.Create(CultureInfo.InvariantCulture,
                $"turn about {Axis(turn)} through ({Hundredths(Center.X)}, {Hundredths(Center.Y)}, {Hundredths(Center.Z)})")
            : $"shift along {Axis(shift)}";
    }));

    /// <summary>Without the sign of a zero.</summary>
    private static double Hundredths(double length) => Math.Round(length, 2) + 0.0;

    private (double[] Values, double[,] Vectors) Sensitivity(IReadOnlyList<(double[] Row, double Residual)> rows)
    {
        var normal = new double[Count, Count];
        foreach (var (row, _) in rows)
        {
            var felt = _twists.Select(t => Dot(row, t)).ToArray();
            for (var a = 0; a < Count; a++)
            {
                for (var b = 0; b < Count; b++)
                {
                    normal[a, b] += felt[a] * felt[b];
                }
            }
        }

        return SymmetricEigen.Solve(normal);
    }

    /// <summary>Moves the centre to the axis of the free turns: where their shifts, apart from free shifts, are least.</summary>
    private void Recentre()
    {
        // Separate turns from pure shifts: eigenvectors of the turn parts.
        var n = Count;
        var gram = new double[n, n];
        for (var a = 0; a < n; a++)
        {
            for (var b = 0; b < n; b++)
            {
                gram[a, b] = Turn(_twists[a]).Dot(Turn(_twists[b]));
            }
        }

        if (n == 0)
        {
            return;
        }

        var (values, vectors) = SymmetricEigen.Solve(gram);
        var mixed = Enumerable.Range(0, n).Select(e =>
        {
            var t = new double[6];
            for (var k = 0; k < n; k++)
            {
                Add(t, _twists[k], vectors[k, e]);
            }

            return t;
        }).ToList();
        var shifts = mixed.Where((_, e) => values[e] < 1e-9).Select(t => Shift(t).Normalized()).ToList();
        var turns = mixed.Where((_, e) => values[e] >= 1e-9)
            .Select(t => (Turn: Turn(t) / _lever, Shift: shifts.Aggregate(Shift(t), (s, f) => s - (s.Dot(f) * f)))).ToList();
        if (turns.Count > 0)
        {
            // The velocity at a place x from the centre is shift + turn × x, of which the part along free shifts does not matter.
            var (a, b) = (new double[3, 3], new double[3]);
            foreach (var (turn, shift) in turns)
            {
                double[,] cross = { { 0, -turn.Z, turn.Y }, { turn.Z, 0, -turn.X }, { -turn.Y, turn.X, 0 } };
                for (var r = 0; r < 3; r++)
                {
                    for (var c = 0; c < 3; c++)
                    {
                        b[r] -= cross[c, r] * shift[c];
                        for (var k = 0; k < 3; k++)
                        {
                            a[r, c] += cross[k, r] * cross[k, c];
                        }
                    }
                }
            }

            var (lengths, axes) = SymmetricEigen.Solve(a);
            var move = Vector3D.Zero;
            for (var e = 0; e < 3; e++)
            {
                if (lengths[e] > 1e-9 * lengths[2])
                {
                    var axis = new Vector3D(axes[0, e], axes[1, e], axes[2, e]);
                    move += (new Vector3D(b[0], b[1], b[2]).Dot(axis) / lengths[e]) * axis;
                }
            }

            Center += move;
            _twists =
            [
                .. shifts.Select(s => (double[])[0, 0, 0, s.X, s.Y, s.Z]),
                .. turns.Select(t => Unit(t.Turn * _lever, t.Shift + t.Turn.Cross(move))),
            ];
            return;
        }

        _twists = [.. shifts.Select(s => (double[])[0, 0, 0, s.X, s.Y, s.Z])];

        static double[] Unit(Vector3D turn, Vector3D shift)
        {
            var length = Math.Sqrt(turn.LengthSquared + shift.LengthSquared);
            return [turn.X / length, turn.Y / length, turn.Z / length, shift.X / length, shift.Y / length, shift.Z / length];
        }
    }

    private static string Axis(Vector3D v)
    {
        var unit = v.Normalized();
        foreach (var (name, axis) in ((string, Vector3D)[])[("x", Vector3D.UnitX), ("y", Vector3D.UnitY), ("z", Vector3D.UnitZ)])
        {
            if (Math.Abs(unit.Dot(axis)) > 0.9998)
            {
                return name;
            }
        }

        return string.Create(CultureInfo.InvariantCulture, $"({unit.X:0.###}, {unit.Y:0.###}, {unit.Z:0.###})");
    }

    private static Vector3D Turn(double[] t) => new(t[0], t[1], t[2]);

    private static Vector3D Shift(double[] t) => new(t[3], t[4], t[5]);

    private static double Dot(double[] a, double[] b)
    {
        double sum = 0;
        for (var i = 0; i < 6; i++)
        {
            sum += a[i] * b[i];
        }

        return sum;
    }

    private static void Add(double[] to, double[] twist, double times)
    {
        for (var i = 0; i < 6; i++)
        {
            to[i] += times * twist[i];
        }
    }
}
