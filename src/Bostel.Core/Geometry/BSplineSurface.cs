namespace Bostel.Core.Geometry;

/// <summary>A point of a surface with its derivatives by the parameters.</summary>
public readonly record struct SurfacePoint(Vector3D Point, Vector3D Du, Vector3D Dv, Vector3D Duu, Vector3D Duv, Vector3D Dvv)
{
    /// <summary>Zero length where the surface has no normal.</summary>
    public Vector3D Normal => Du.Cross(Dv).Normalized();
}

/// <summary>
/// A rational tensor-product B-spline surface (ISO 10303-42, B_SPLINE_SURFACE). Source: Piegl and Tiller, The NURBS Book, 2nd ed.,
/// algorithms A2.1, A2.3 and A4.4. Safe for concurrent use.
/// </summary>
public sealed class BSplineSurface
{
    /// <summary>Degrees above this occur in no file that a part is drawn with.</summary>
    private const int MostDegree = 25;

    private const int MostSteps = 12;

    /// <param name="poles">(nu·nv)·4: x, y, z, weight, v running fastest; nu = knotsU − degreeU − 1, nv alike.</param>
    /// <exception cref="BadInputException">The counts do not fit together.</exception>
    public BSplineSurface(int degreeU, int degreeV, double[] knotsU, double[] knotsV, double[] poles)
    {
        (DegreeU, DegreeV, KnotsU, KnotsV, Poles) = (degreeU, degreeV, knotsU, knotsV, poles);
        if (degreeU is < 1 or > MostDegree || degreeV is < 1 or > MostDegree || CountU <= degreeU || CountV <= degreeV
            || poles.Length != 4 * CountU * CountV)
        {
            throw new BadInputException("A freeform surface has knots and poles that do not belong together.");
        }
    }

    public int DegreeU { get; }
    public int DegreeV { get; }
    public double[] KnotsU { get; }
    public double[] KnotsV { get; }
    public double[] Poles { get; }

    private int CountU => KnotsU.Length - DegreeU - 1;

    private int CountV => KnotsV.Length - DegreeV - 1;

    /// <summary>Point and derivatives up to the second; parameters outside the range count as its end.</summary>
    public SurfacePoint At(double u, double v)
    {
        u = Math.Clamp(u, KnotsU[DegreeU], KnotsU[CountU]);
        v = Math.Clamp(v, KnotsV[DegreeV], KnotsV[CountV]);
        var (spanU, spanV) = (Span(KnotsU, DegreeU, CountU, u), Span(KnotsV, DegreeV, CountV, v));
        Span<double> basisU = stackalloc double[3 * (DegreeU + 1)];
        Span<double> basisV = stackalloc double[3 * (DegreeV + 1)];
        Basis(KnotsU, DegreeU, spanU, u, basisU);
        Basis(KnotsV, DegreeV, spanV, v, basisV);

        // Sums with weight, by derivative: S, u, v, uu, uv, vv.
        Span<double> sums = stackalloc double[24];
        sums.Clear();
        ReadOnlySpan<(int U, int V)> orders = [(0, 0), (1, 0), (0, 1), (2, 0), (1, 1), (0, 2)];
        Span<double> along = stackalloc double[12];
        for (var i = 0; i <= DegreeU; i++)
        {
            along.Clear();
            var row = 4 * (((spanU - DegreeU + i) * CountV) + spanV - DegreeV);
            for (var j = 0; j <= DegreeV; j++)
            {
                for (var d = 0; d < 3; d++)
                {
                    var b = basisV[(d * (DegreeV + 1)) + j] * Poles[row + (4 * j) + 3];
                    along[4 * d] += b * Poles[row + (4 * j)];
                    along[(4 * d) + 1] += b * Poles[row + (4 * j) + 1];
                    along[(4 * d) + 2] += b * Poles[row + (4 * j) + 2];
                    along[(4 * d) + 3] += b;
                }
            }

            for (var o = 0; o < 6; o++)
            {
                var b = basisU[(orders[o].U * (DegreeU + 1)) + i];
                for (var k = 0; k < 4; k++)
                {
                    sums[(4 * o) + k] += b * along[(4 * orders[o].V) + k];
                }
            }
        }

        return Rational(sums);
    }

    /// <summary>
    /// The foot of a point near the surface, by Newton's method on (S − p)·Su = (S − p)·Sv = 0 (The NURBS Book, 6.1). Null when it
    /// does not converge, or ends at the border without being a foot.
    /// </summary>
    /// <param name="u">A start, with <paramref name="v"/>.</param>
    public SurfacePoint? Foot(Vector3D p, double u, double v)
    {
        var now = At(u, v);
        for (var step = 0; step < MostSteps; step++)
        {
            var r = now.Point - p;
            var (fu, fv) = (r.Dot(now.Du), r.Dot(now.Dv));
            var (a, b, c) =
                (now.Du.LengthSquared + r.Dot(now.Duu), now.Du.Dot(now.Dv) + r.Dot(now.Duv), now.Dv.LengthSquared + r.Dot(now.Dvv));
            var det = (a * c) - (b * b);
            if (!(det > 0))
            {
                return null;
            }

            var (nextU, nextV) = (u - (((c * fu) - (b * fv)) / det), v - (((a * fv) - (b * fu)) / det));
            (nextU, nextV) = (Math.Clamp(nextU, KnotsU[DegreeU], KnotsU[CountU]), Math.Clamp(nextV, KnotsV[DegreeV], KnotsV[CountV]));
            var moved = (((nextU - u) * now.Du) + ((nextV - v) * now.Dv)).Length;
            (u, v) = (nextU, nextV);
            now = At(u, v);
            if (moved < 1e-9)
            {
                // A foot's line stands on the surface; at the border the nearest point may lie beside it.
                var rest = now.Point - p;
                var aside = rest - (rest.Dot(now.Normal) * now.Normal);
                return aside.Length < 1e-7 ? now : null;
            }
        }

        return null;
    }

    private static SurfacePoint Rational(ReadOnlySpan<double> sums)
    {
        var w = sums[3];
        var point = A(sums, 0) / w;
        var du = (A(sums, 1) - (sums[7] * point)) / w;
        var dv = (A(sums, 2) - (sums[11] * point)) / w;
        return new(point, du, dv,
            (A(sums, 3) - (2 * sums[7] * du) - (sums[15] * point)) / w,
            (A(sums, 4) - (sums[7] * dv) - (sums[11] * du) - (sums[19] * point)) / w,
            (A(sums, 5) - (2 * sums[11] * dv) - (sums[23] * point)) / w);

        static Vector3D A(ReadOnlySpan<double> sums, int order) => new(sums[4 * order], sums[(4 * order) + 1], sums[(4 * order) + 2]);
    }

    private static int Span(double[] knots, int degree, int count, double t)
    {
        var (low, high) = (degree, count);
        while (high - low > 1)
        {
            var middle = (low + high) / 2;
            (low, high) = t < knots[middle] ? (low, middle) : (middle, high);
        }

        // Knots that coincide have no width: back to the last one that has.
        while (low > degree && knots[low] == knots[low + 1])
        {
            low--;
        }

        return low;
    }

    /// <summary>The basis functions that are not zero, and their first and second derivatives, one order after the other (A2.3).</summary>
    private static void Basis(double[] knots, int degree, int span, double t, Span<double> found)
    {
        var n = degree + 1;
        Span<double> table = stackalloc double[n * n];
        Span<double> left = stackalloc double[n];
        Span<double> right = stackalloc double[n];
        table[0] = 1;
        for (var j = 1; j <= degree; j++)
        {
            (left[j], right[j]) = (t - knots[span + 1 - j], knots[span + j] - t);
            double saved = 0;
            for (var r = 0; r < j; r++)
            {
                table[(j * n) + r] = right[r + 1] + left[j - r];
                var share = table[(r * n) + j - 1] / table[(j * n) + r];
                table[(r * n) + j] = saved + (right[r + 1] * share);
                saved = left[j - r] * share;
            }

            table[(j * n) + j] = saved;
        }

        found.Clear();
        for (var j = 0; j <= degree; j++)
        {
            found[j] = table[(j * n) + degree];
        }

        Span<double> a = stackalloc double[2 * n];
        for (var r = 0; r <= degree; r++)
        {
            var (now, last) = (n, 0);
            a[0] = 1;
            double factor = degree;
            for (var k = 1; k <= Math.Min(2, degree); k++)
            {
                double d = 0;
                var (rk, pk) = (r - k, degree - k);
                if (r >= k)
                {
                    a[now] = a[last] / table[((pk + 1) * n) + rk];
                    d = a[now] * table[(rk * n) + pk];
                }

                var (first, end) = (rk >= -1 ? 1 : -rk, r - 1 <= pk ? k - 1 : degree - r);
                for (var j = first; j <= end; j++)
                {
                    a[now + j] = (a[last + j] - a[last + j - 1]) / table[((pk + 1) * n) + rk + j];
                    d += a[now + j] * table[((rk + j) * n) + pk];
                }

                if (r <= pk)
                {
                    a[now + k] = -a[last + k - 1] / table[((pk + 1) * n) + r];
                    d += a[now + k] * table[(r * n) + pk];
                }

                found[(k * n) + r] = factor * d;
                factor *= degree - k;
                (now, last) = (last, now);
            }
        }
    }
}
