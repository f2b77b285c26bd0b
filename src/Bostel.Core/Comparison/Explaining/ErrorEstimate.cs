using static Bostel.Core.Comparison.SmallSystems;

namespace Bostel.Core.Comparison;

/// <summary>What the model was estimated to.</summary>
/// <param name="Columns">Of the shared errors, in their order.</param>
/// <param name="Values">By column, mm.</param>
/// <param name="Inverses">Of the own terms of each face, mm².</param>
/// <param name="Likelihood">
/// Logarithm of the marginal likelihood of the model; what is free has one wide prior, so that it is paid for.
/// </param>
internal sealed record ErrorEstimate(
    IReadOnlyList<FaceSystem> Faces, IReadOnlyList<(double[] Column, HashSet<int>? Of)> Columns, double[] Values, double[,] Covariance,
    double[][,] Inverses, double Likelihood)
{
    /// <summary>Coefficients of the terms of the whole part, of what all faces share.</summary>
    public double[] SharedByAll(int terms)
    {
        var sum = new double[terms];
        for (var k = 0; k < Values.Length; k++)
        {
            for (var j = 0; j < terms && Columns[k].Of is null; j++)
            {
                sum[j] += Values[k] * Columns[k].Column[j];
            }
        }

        return sum;
    }

    /// <summary>Of a face: coefficients of the terms of the whole part.</summary>
    public double[] SharedOn(FaceSystem face)
    {
        var sum = new double[face.Cells[0].Whole.Length];
        for (var k = 0; k < Values.Length; k++)
        {
            for (var j = 0; j < sum.Length && Columns[k].Of?.Contains(face.Face) != false; j++)
            {
                sum[j] += Values[k] * Columns[k].Column[j];
            }
        }

        return sum;
    }

    /// <summary>A face's own terms and their covariance, the uncertainty of the shared ones included.</summary>
    public (double[] Values, double[,] Covariance) OfFace(int index)
    {
        var (face, inverse) = (Faces[index], Inverses[index]);
        var values = Times(inverse, Less(face));
        var covariance = (double[,])inverse.Clone();
        var felt = new double[face.Own.Count, Values.Length];
        for (var k = 0; k < Values.Length; k++)
        {
            if (Columns[k].Of?.Contains(face.Face) != false)
            {
                var pull = Times(inverse, Times(face.ZX, Columns[k].Column));
                for (var r = 0; r < pull.Length; r++)
                {
                    felt[r, k] = pull[r];
                }
            }
        }

        for (var r = 0; r < values.Length; r++)
        {
            for (var k = 0; k < Values.Length; k++)
            {
                double half = 0;
                for (var j = 0; j < Values.Length; j++)
                {
                    half += felt[r, j] * Covariance[j, k];
                }

                for (var c = 0; c < values.Length; c++)
                {
                    covariance[r, c] += half * felt[c, k];
                }
            }
        }

        return (values, covariance);
    }

    /// <summary>The same, with all of its own errors released.</summary>
    public (double[] Values, double[,] Covariance) AloneWithShared(int index) =>
        (this with { Inverses = [.. Inverses.Select((inverse, k) => k == index ? Faces[k].Alone : inverse)] }).OfFace(index);

    /// <summary>A face's own terms as its own readings tell them alone, and their variances.</summary>
    public (double[] Values, double[] Variances) Alone(int index)
    {
        var face = Faces[index];
        var inverse = face.Alone;
        return (Times(inverse, Less(face)), [.. Enumerable.Range(0, face.Own.Count).Select(k => inverse[k, k])]);
    }

    /// <summary>The right side of a face's own equations, the shared errors taken out.</summary>
    private double[] Less(FaceSystem face)
    {
        var right = (double[])face.ZY.Clone();
        for (var k = 0; k < Values.Length; k++)
        {
            if (Columns[k].Of?.Contains(face.Face) != false)
            {
                var part = Times(face.ZX, Columns[k].Column);
                for (var r = 0; r < right.Length; r++)
                {
                    right[r] -= Values[k] * part[r];
                }
            }
        }

        return right;
    }
}
