using Bostel.Core.Geometry;

namespace Bostel.Core.Comparison;

/// <summary>What can be wrong with a part as a whole.</summary>
internal enum WholePartError
{
    Pose,
    Size,
    Bend,
    Twist,
}

/// <summary>Terms that stand and fall together.</summary>
/// <param name="From">The first of its columns.</param>
/// <param name="Along">Of a bend and a twist: the axis it runs along, 0 to 2.</param>
/// <param name="Toward">Of a bend: the axis its middle is displaced along.</param>
internal sealed record WholePartGroup(WholePartError Kind, int From, int Count, int Along = -1, int Toward = -1);

/// <summary>
/// Small displacements of a whole part, as the deviations they make along the normals. All columns are in mm at the part's reach: shifts,
/// turns and strains along the axes (first order), pure bending of a beam along an axis (a parabola, and cross-sections that turn with it:
/// two columns, since a press may lift without turning), twist about the longest side that grows evenly along it.
/// </summary>
internal sealed class WholePartTerms
{
    /// <summary>A side shorter than this share of the longest does not bend measurably.</summary>
    private const double LeastSide = 0.3;

    private readonly Vector3D _half;

    public WholePartTerms(Box3D box)
    {
        Center = box.Center;
        Reach = Math.Max(1e-9, box.Diagonal / 2);
        _half = 0.5 * box.Size;
        var longest = Enumerable.Range(0, 3).MaxBy(k => _half[k]);
        Groups = [new(WholePartError.Pose, 0, 6), new(WholePartError.Size, 6, 3)];
        foreach (var along in Enumerable.Range(0, 3).Where(k => _half[k] > LeastSide * _half[longest]))
        {
            foreach (var toward in Enumerable.Range(0, 3).Where(k => k != along))
            {
                Groups.Add(new(WholePartError.Bend, Groups[^1].From + Groups[^1].Count, 2, along, toward));
            }
        }

        Groups.Add(new(WholePartError.Twist, Groups[^1].From + Groups[^1].Count, 1, longest));
        Count = Groups[^1].From + 1;
    }

    public Vector3D Center { get; }

    /// <summary>Half the diagonal, mm: an angle or a strain times it is what a column holds.</summary>
    public double Reach { get; }

    /// <summary>Half the side of the part along an axis, mm.</summary>
    public double Half(int axis) => _half[axis];

    public List<WholePartGroup> Groups { get; }

    public int Count { get; }

    public WholePartGroup Group(WholePartError kind) => Groups.First(g => g.Kind == kind);

    /// <summary>Fills the row of the design at a place.</summary>
    public void Fill(Vector3D p, Vector3D n, Span<double> row)
    {
        var r = p - Center;
        var arm = r.Cross(n) / Reach;
        for (var k = 0; k < 3; k++)
        {
            (row[k], row[3 + k], row[6 + k]) = (n[k], arm[k], r[k] * n[k] / Reach);
        }

        foreach (var g in Groups)
        {
            if (g.Kind == WholePartError.Bend)
            {
                var t = r[g.Along] / _half[g.Along];
                (row[g.From], row[g.From + 1]) = (t * t * n[g.Toward], -2 * t * r[g.Toward] / _half[g.Along] * n[g.Along]);
            }
            else if (g.Kind == WholePartError.Twist)
            {
                row[g.From] = r[g.Along] / _half[g.Along] * Axis(g.Along).Cross(r).Dot(n) / Reach;
            }
        }
    }

    /// <summary>The displacement that coefficients of the terms make at a place, mm.</summary>
    public Vector3D Displacement(double[] coefficients, Vector3D p)
    {
        var (c, r) = (coefficients, p - Center);
        var u = new Vector3D(c[0], c[1], c[2]) + (new Vector3D(c[3], c[4], c[5]).Cross(r) / Reach)
            + (new Vector3D(c[6] * r.X, c[7] * r.Y, c[8] * r.Z) / Reach);
        foreach (var g in Groups)
        {
            var t = g.Along >= 0 ? r[g.Along] / _half[g.Along] : 0;
            u += g.Kind switch
            {
                WholePartError.Bend => (c[g.From] * t * t * Axis(g.Toward))
                    - (c[g.From + 1] * 2 * t * r[g.Toward] / _half[g.Along] * Axis(g.Along)),
                WholePartError.Twist => c[g.From] * t / Reach * Axis(g.Along).Cross(r),
                _ => Vector3D.Zero,
            };
        }

        return u;
    }

    public static Vector3D Axis(int k) => k switch { 0 => Vector3D.UnitX, 1 => Vector3D.UnitY, _ => Vector3D.UnitZ };
}
