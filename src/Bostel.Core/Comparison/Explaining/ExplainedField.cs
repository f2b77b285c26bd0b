using Bostel.Core.Geometry;

namespace Bostel.Core.Comparison;

/// <summary>The deviation that estimated errors make, place by place.</summary>
/// <param name="Shared">Errors that faces share, as coefficients of the terms of the whole part.</param>
/// <param name="Own">Of released errors: coefficients of the face's terms.</param>
internal sealed record ExplainedField(
    WholePartTerms? Whole, IReadOnlyList<(ExplainedPart Part, HashSet<int>? Faces, double[] Coefficients)> Shared,
    IReadOnlyDictionary<int, (FaceTerms Terms, double[] Coefficients)> Own, IReadOnlyList<SurfaceCell> Cells)
{
    public static readonly ExplainedField None = new(null, [], new Dictionary<int, (FaceTerms, double[])>(), []);

    public static ExplainedField Of(ErrorModel model, ErrorEstimate estimate, WholePartTerms whole)
    {
        var shared = new List<(ExplainedPart, HashSet<int>?, double[])>();
        var at = 0;
        foreach (var error in model.Shared)
        {
            var sum = new double[whole.Count];
            foreach (var column in error.Columns)
            {
                for (var k = 0; k < sum.Length; k++)
                {
                    sum[k] += estimate.Values[at] * column[k];
                }

                at++;
            }

            shared.Add((PartOf(error), error.Faces, sum));
        }

        var own = new Dictionary<int, (FaceTerms, double[])>();
        for (var f = 0; f < model.Faces.Count; f++)
        {
            var (values, _) = estimate.OfFace(f);
            foreach (var error in Enum.GetValues<FaceError>().Where(e => !model.IsReleased(f, e)))
            {
                var (from, count) = model.Faces[f].Own.Groups[(int)error];
                Array.Clear(values, from, count);
            }

            own[model.Faces[f].Face] = (model.Faces[f].Own, values);
        }

        return new(whole, shared, own, [.. model.Faces.SelectMany(f => f.Cells)]);
    }

    /// <summary>The same, without a pose that is not stated.</summary>
    public ExplainedField Stating(IReadOnlyList<Finding> findings) => findings.Any(f => f is PoseFinding)
        ? this
        : this with { Shared = [.. Shared.Where(s => s.Part != ExplainedPart.Pose)] };

    /// <summary>The deviation that parts of the explanation make at a place, mm.</summary>
    public double At(Vector3D p, Vector3D n, int face, IReadOnlyCollection<ExplainedPart> parts)
    {
        if (Whole is null || parts.Count == 0)
        {
            return 0;
        }

        Span<double> row = stackalloc double[Whole.Count];
        Span<double> raw = stackalloc double[FaceTerms.Raw];
        Whole.Fill(p, n, row);
        if (Own.TryGetValue(face, out var own))
        {
            own.Terms.Fill(p, n, raw);
        }

        return At(face, row, raw, parts);
    }

    /// <summary>The mean of it over a cell.</summary>
    public double At(SurfaceCell cell, IReadOnlyCollection<ExplainedPart> parts) => At(cell.Face, cell.Whole, cell.Own, parts);

    private double At(int face, ReadOnlySpan<double> whole, ReadOnlySpan<double> raw, IReadOnlyCollection<ExplainedPart> parts)
    {
        double sum = 0;
        foreach (var (part, faces, coefficients) in Shared)
        {
            if (parts.Contains(part) && faces?.Contains(face) != false)
            {
                for (var k = 0; k < coefficients.Length; k++)
                {
                    sum += coefficients[k] * whole[k];
                }
            }
        }

        return parts.Contains(ExplainedPart.Faces) && Own.TryGetValue(face, out var own)
            ? sum + SmallSystems.Dot(own.Coefficients, own.Terms.Row(raw))
            : sum;
    }

    /// <summary>Root mean square of what is left without some parts, over the cells.</summary>
    public double Left(IReadOnlyCollection<ExplainedPart> without) => Rms(c => c.Value - At(c, without));

    /// <summary>Root mean square of a deviation over the cells.</summary>
    public double Rms(Func<SurfaceCell, double> deviation) =>
        Math.Sqrt(Cells.Sum(c => c.Weight * Math.Pow(deviation(c), 2)) / Cells.Sum(c => c.Weight));

    private static ExplainedPart PartOf(SharedError error) => error.Of?.Kind switch
    {
        WholePartError.Pose => ExplainedPart.Pose,
        WholePartError.Size => ExplainedPart.Size,
        WholePartError.Bend or WholePartError.Twist => ExplainedPart.Bend,
        _ => ExplainedPart.Faces,
    };
}
