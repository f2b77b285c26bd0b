using static Bostel.Core.Comparison.SmallSystems;

namespace Bostel.Core.Comparison;

/// <summary>What the model was estimated to.</summary>
/// <param name="Shared">The shared errors.</param>
/// <param name="Values">Of their columns, one after the other, mm.</param>
/// <param name="Inverses">Of the own terms of each face, mm².</param>
/// <param name="Likelihood">
/// Logarithm of the marginal likelihood of the model; what is free has one wide prior, so that it is paid for.
/// </param>
internal sealed record ErrorEstimate(
    IReadOnlyList<FaceSystem> Faces, IReadOnlyList<SharedError> Shared, double[] Values, double[,] Covariance, double[][,] Inverses,
    double Likelihood)
{
    /// <summary>The first column of a shared error among all.</summary>
    public int From(SharedError error) => Shared.TakeWhile(s => s != error).Sum(s => s.Columns.Length);

    /// <summary>A shared error, as coefficients of the terms of the whole part.</summary>
    public double[] Of(SharedError error)
    {
        var from = From(error);
        var sum = new double[error.Columns[0].Length];
        for (var k = 0; k < error.Columns.Length; k++)
        {
            for (var j = 0; j < sum.Length; j++)
            {
                sum[j] += Values[from + k] * error.Columns[k][j];
            }
        }

        return sum;
    }

    /// <summary>All that a face shares, as coefficients of the terms of the whole part.</summary>
    public double[] SharedOn(FaceSystem face)
    {
        var sum = new double[face.Cells[0].Whole.Length];
        foreach (var of in Shared.Where(s => s.IsOn(face.Face)).Select(Of))
        {
            for (var j = 0; j < sum.Length; j++)
            {
                sum[j] += of[j];
            }
        }

        return sum;
    }

    /// <summary>A face's own terms and their covariance, the uncertainty of the shared ones included.</summary>
    public (double[] Values, double[,] Covariance) OfFace(int index) => OfFace(Faces[index], Inverses[index]);

    /// <summary>The same, with all of its own errors released.</summary>
    public (double[] Values, double[,] Covariance) Released(int index) => OfFace(Faces[index], Faces[index].Alone);

    /// <summary>A face's own terms as its own readings tell them, what it shares taken out.</summary>
    public double[] Alone(FaceSystem face) => Own(face, face.Alone);

    private double[] Own(FaceSystem face, double[,] inverse)
    {
        var right = Times(face.ZX, SharedOn(face));
        for (var r = 0; r < right.Length; r++)
        {
            right[r] = face.ZY[r] - right[r];
        }

        return Times(inverse, right);
    }

    private (double[] Values, double[,] Covariance) OfFace(FaceSystem face, double[,] inverse)
    {
        var covariance = (double[,])inverse.Clone();
        var columns = Shared.SelectMany(s => s.Columns.Select(c => s.IsOn(face.Face) ? Times(inverse, Times(face.ZX, c)) : null)).ToList();
        for (var j = 0; j < columns.Count; j++)
        {
            for (var k = 0; k < columns.Count; k++)
            {
                if (columns[j] is { } left && columns[k] is { } right)
                {
                    for (var r = 0; r < left.Length; r++)
                    {
                        for (var c = 0; c < right.Length; c++)
                        {
                            covariance[r, c] += left[r] * Covariance[j, k] * right[c];
                        }
                    }
                }
            }
        }

        return (Own(face, inverse), covariance);
    }
}
