using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// The directions in which the local parameters of a model may move when parts of the feature are held: δ = B u, one column of
/// <see cref="Basis"/> a free direction. <see cref="Angular"/> marks columns in rad.
/// </summary>
internal sealed record Freedom(double[,] Basis, bool[] Angular)
{
    public int Count => Angular.Length;

    /// <summary>Nothing is held: the basis is the identity.</summary>
    private bool IsWhole { get; init; }

    /// <param name="known">What is held.</param>
    /// <param name="model">Where the parameters are local to.</param>
    /// <param name="sized">Whether the offset is a parameter of the fit; extremal criteria find it last.</param>
    public static Freedom Of<TModel>(Known known, TModel model, bool sized = true)
        where TModel : struct, IShapeModel<TModel>
    {
        var parameters = TModel.Parameters;
        var columns = new List<(double[] Column, bool Angular)>();
        for (var i = 0; i < parameters.Length; i++)
        {
            if (IsFree(parameters[i], known, sized, parameters))
            {
                var unit = new double[parameters.Length];
                unit[i] = 1;
                columns.Add((unit, parameters[i] is Parameter.Tilt or Parameter.Turn or Parameter.Angle));
            }
        }

        if (known.On is { } line && model is SphereModel)
        {
            columns.Insert(0, ([.. line.Direction.ToArray(), 0], false));
        }

        var basis = new double[parameters.Length, columns.Count];
        for (var c = 0; c < columns.Count; c++)
        {
            for (var r = 0; r < parameters.Length; r++)
            {
                basis[r, c] = columns[c].Column[r];
            }
        }

        return new(basis, [.. columns.Select(c => c.Angular)]) { IsWhole = columns.Count == parameters.Length && known.On is null };
    }

    private static bool IsFree(Parameter parameter, Known known, bool sized, ReadOnlySpan<Parameter> all) => parameter switch
    {
        Parameter.Tilt => known.AxisDirection is null,
        Parameter.Turn => known.Direction is null,
        Parameter.Angle => known.HalfAngle is null,
        Parameter.Offset => sized && known.Radius is null,
        Parameter.ShiftX or Parameter.ShiftY => known.On is null,

        // A torus on an axis may still slide along it; a sphere's centre moves along its line, see above.
        Parameter.ShiftZ => known.On is null || all.Contains(Parameter.Extent),
        _ => true,
    };

    /// <summary>BᵀAB and Bᵀb of a fit's sums, the matrix row after row.</summary>
    public void Reduce(NormalSums sums, Span<double> matrix, Span<double> right)
    {
        if (!IsWhole)
        {
            Reduce(sums.Matrix()).AsSpan().CopyTo(matrix);
            Reduce(sums.Right).CopyTo(right);
            return;
        }

        sums.Right.CopyTo(right);
        for (var r = 0; r < Count; r++)
        {
            for (var c = 0; c <= r; c++)
            {
                matrix[(r * Count) + c] = matrix[(c * Count) + r] = sums.At(r, c);
            }
        }
    }

    /// <summary>BᵀAB.</summary>
    public double[,] Reduce(double[,] a)
    {
        if (IsWhole)
        {
            return a;
        }

        var m = Basis.GetLength(0);
        var reduced = new double[Count, Count];
        for (var r = 0; r < Count; r++)
        {
            for (var c = 0; c < Count; c++)
            {
                for (var i = 0; i < m; i++)
                {
                    for (var j = 0; j < m; j++)
                    {
                        reduced[r, c] += Basis[i, r] * a[i, j] * Basis[j, c];
                    }
                }
            }
        }

        return reduced;
    }

    /// <summary>Bᵀb.</summary>
    public double[] Reduce(ReadOnlySpan<double> b)
    {
        var reduced = new double[Count];
        for (var c = 0; c < Count; c++)
        {
            for (var i = 0; i < b.Length; i++)
            {
                reduced[c] += Basis[i, c] * b[i];
            }
        }

        return reduced;
    }

    /// <summary>B u.</summary>
    public double[] Expand(ReadOnlySpan<double> u)
    {
        var full = new double[Basis.GetLength(0)];
        for (var i = 0; i < full.Length; i++)
        {
            for (var c = 0; c < Count; c++)
            {
                full[i] += Basis[i, c] * u[c];
            }
        }

        return full;
    }

    /// <summary>B C Bᵀ: held parameters have no variance.</summary>
    public double[,] Expand(double[,] covariance)
    {
        if (IsWhole)
        {
            return (double[,])covariance.Clone();
        }

        var m = Basis.GetLength(0);
        var full = new double[m, m];
        for (var i = 0; i < m; i++)
        {
            for (var j = 0; j < m; j++)
            {
                for (var r = 0; r < Count; r++)
                {
                    for (var c = 0; c < Count; c++)
                    {
                        full[i, j] += Basis[i, r] * covariance[r, c] * Basis[j, c];
                    }
                }
            }
        }

        return full;
    }
}
