namespace Bostel.Core.Fitting;

/// <summary>
/// The linear program min t subject to s·(dᵢ + gᵢ·δ) − aᵢ ≤ t for all points i and the chosen signs s ∈ {+1, −1}, and
/// |δₖ| ≤ Δ, solved through its dual by the revised simplex method with full pricing. Each pivot exchanges one contact point, as in
/// the classical exchange algorithm (Stiefel 1959; Osborne and Watson 1967). On return the dual weights of the contact points prove
/// optimality.
/// </summary>
internal static class ChebyshevProgram
{
    private const int MostPivots = 2000;

    /// <param name="distances">dᵢ, n values.</param>
    /// <param name="gradients">gᵢ, n·m values, row by row.</param>
    /// <param name="m">Number of parameters.</param>
    /// <param name="trust">Δ, the bound on every parameter's change.</param>
    /// <param name="upper">Bind dᵢ + gᵢδ ≤ t.</param>
    /// <param name="lower">Bind −(dᵢ + gᵢδ) ≤ t.</param>
    /// <param name="allowances">aᵢ, how much of each distance is allowed; null for none.</param>
    /// <returns>δ and t at the optimum; null when the program is unbounded or does not settle.</returns>
    public static (double[] Delta, double T)? Solve(
        double[] distances, double[] gradients, int m, double trust, bool upper, bool lower, double[]? allowances = null)
    {
        var n = distances.Length;
        var size = m + 1;
        var scale = Math.Max(1e-12, distances.Max(Math.Abs));
        var big = 1e7 * scale;

        // Dual: max Σ λ s d − Δ Σ μ  with  Σ λ s g ± μ = 0,  Σ λ = 1,  λ, μ ≥ 0. The basis starts with artificials of
        // price −big.
        var inverse = new double[size, size];
        var value = new double[size];
        var price = new double[size];
        for (var r = 0; r < size; r++)
        {
            inverse[r, r] = 1;
            value[r] = r < m ? 0 : 1;
            price[r] = -big;
        }

        var y = new double[size];
        var column = new double[size];
        for (var pivot = 0; pivot < MostPivots; pivot++)
        {
            Multipliers(inverse, price, y);
            var entering = Price(distances, allowances, gradients, m, y, upper, lower, out var violation);
            var bound = PriceBounds(y, m, trust, out var overstep);
            var boundEnters = overstep > Math.Max(violation, 1e-13 * scale);
            if (!boundEnters && violation <= 1e-13 * scale)
            {
                var delta = new double[m];
                for (var k = 0; k < m; k++)
                {
                    delta[k] = -y[k];
                }

                return (delta, y[m]);
            }

            var sign = entering < n ? 1 : -1;
            var point = entering % n;
            if (boundEnters)
            {
                for (var r = 0; r < size; r++)
                {
                    column[r] = inverse[r, bound % m] * (bound < m ? 1 : -1);
                }
            }
            else
            {
                Column(inverse, gradients.AsSpan(point * m, m), sign, column);
            }

            var leaving = Ratio(column, value, price, big);
            if (leaving < 0)
            {
                return null;
            }

            Exchange(inverse, value, column, leaving);
            price[leaving] = boundEnters ? -trust : (sign * distances[point]) - (allowances?[point] ?? 0);
        }

        return null;
    }

    private static void Multipliers(double[,] inverse, double[] price, double[] y)
    {
        for (var c = 0; c < y.Length; c++)
        {
            double sum = 0;
            for (var r = 0; r < y.Length; r++)
            {
                sum += price[r] * inverse[r, c];
            }

            y[c] = sum;
        }
    }

    private static int Price(double[] d, double[]? allowances, double[] g, int m, double[] y, bool upper, bool lower, out double violation)
    {
        violation = double.NegativeInfinity;
        var best = 0;
        for (var i = 0; i < d.Length; i++)
        {
            var e = d[i];
            for (var k = 0; k < m; k++)
            {
                e -= g[(i * m) + k] * y[k];
            }

            var most = y[m] + (allowances?[i] ?? 0);
            if (upper && e - most > violation)
            {
                violation = e - most;
                best = i;
            }

            if (lower && -e - most > violation)
            {
                violation = -e - most;
                best = i + d.Length;
            }
        }

        return best;
    }

    /// <summary>The bound most overstepped: k for δₖ ≤ Δ, m + k for −δₖ ≤ Δ.</summary>
    private static int PriceBounds(double[] y, int m, double trust, out double overstep)
    {
        overstep = double.NegativeInfinity;
        var worst = 0;
        for (var k = 0; k < 2 * m; k++)
        {
            var excess = (k < m ? -y[k] : y[k - m]) - trust;
            if (excess > overstep)
            {
                overstep = excess;
                worst = k;
            }
        }

        return worst;
    }

    private static void Column(double[,] inverse, ReadOnlySpan<double> gradient, int sign, double[] column)
    {
        var m = gradient.Length;
        for (var r = 0; r <= m; r++)
        {
            var sum = inverse[r, m];
            for (var k = 0; k < m; k++)
            {
                sum += inverse[r, k] * sign * gradient[k];
            }

            column[r] = sum;
        }
    }

    private static int Ratio(double[] column, double[] value, double[] price, double big)
    {
        var leaving = -1;
        var least = double.PositiveInfinity;
        for (var r = 0; r < column.Length; r++)
        {
            if (column[r] <= 1e-11)
            {
                continue;
            }

            var ratio = value[r] / column[r];
            var better = ratio < least - 1e-15 || (ratio <= least + 1e-15 && leaving >= 0 && (price[r] <= -big) && price[leaving] > -big);
            if (better || (leaving >= 0 && Math.Abs(ratio - least) <= 1e-15 && column[r] > column[leaving] && price[r] <= price[leaving]))
            {
                least = Math.Min(least, ratio);
                leaving = r;
            }
        }

        return leaving;
    }

    private static void Exchange(double[,] inverse, double[] value, double[] column, int leaving)
    {
        var size = value.Length;
        var pivot = column[leaving];
        for (var c = 0; c < size; c++)
        {
            inverse[leaving, c] /= pivot;
        }

        value[leaving] /= pivot;
        for (var r = 0; r < size; r++)
        {
            if (r == leaving || column[r] == 0)
            {
                continue;
            }

            for (var c = 0; c < size; c++)
            {
                inverse[r, c] -= column[r] * inverse[leaving, c];
            }

            value[r] = Math.Max(0, value[r] - (column[r] * value[leaving]));
        }
    }
}
