using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>The deviation that stated errors make, place by place.</summary>
/// <param name="Shared">Errors that faces share, as coefficients of the terms of the whole part.</param>
/// <param name="Own">By face: coefficients of its terms, 0 for errors that are not stated.</param>
internal sealed record ExplainedField(
    WholePartTerms Whole, IReadOnlyList<(ExplainedPart Part, SharedError Error, double[] Coefficients)> Shared,
    IReadOnlyDictionary<int, (FaceTerms Terms, double[] Coefficients)> Own, IReadOnlyList<SurfaceCell> Cells)
{
    /// <summary>
    /// What is left of a deviation at a place once parts of the explanation are taken out: the place is put back by what the whole part was
    /// moved, so that it holds on narrow rounds too; what faces add is taken off there.
    /// </summary>
    /// <param name="triangle">Of the nominal, at the place.</param>
    /// <param name="value">The deviation, mm.</param>
    public double LeftAt(
        Vector3D p, int triangle, NominalModel nominal, double value, IReadOnlyCollection<ExplainedPart> without)
    {
        var face = nominal.FaceOfTriangle[triangle];
        var by = Vector3D.Zero;
        foreach (var (part, error, coefficients) in Shared)
        {
            if (error.Faces is null && without.Contains(part))
            {
                by += Whole.Displacement(coefficients, p);
            }
        }

        var normal = SurfaceReadings.NormalAt(nominal, triangle, p);
        if (by != Vector3D.Zero)
        {
            var back = p - by;
            value += SurfaceReadings.Distance(nominal, triangle, back) is { } there
                && SurfaceReadings.Distance(nominal, triangle, p) is { } here ? there - here : -by.Dot(normal);
            (p, normal) = (back, SurfaceReadings.NormalAt(nominal, triangle, back));
        }

        if (!without.Contains(ExplainedPart.Faces))
        {
            return value;
        }

        Span<double> whole = stackalloc double[Whole.Count];
        Span<double> raw = stackalloc double[FaceTerms.Raw];
        Whole.Fill(p, normal, whole);
        if (Own.TryGetValue(face, out var own))
        {
            own.Terms.Fill(p, normal, raw);
        }

        return value - OfFaces(face, whole, raw);
    }

    /// <summary>What is left of a cell.</summary>
    public double LeftOf(SurfaceCell cell, IReadOnlyCollection<ExplainedPart> without)
    {
        var left = cell.Value;
        foreach (var (part, error, coefficients) in Shared)
        {
            if (error.Faces is null && without.Contains(part))
            {
                left -= SmallSystems.Dot(coefficients, cell.Whole);
            }
        }

        return without.Contains(ExplainedPart.Faces) ? left - OfFaces(cell.Face, cell.Whole, cell.Own) : left;
    }

    /// <summary>Root mean square of what is left, over the cells.</summary>
    public double Left(IReadOnlyCollection<ExplainedPart> without) =>
        Math.Sqrt(Cells.Sum(c => c.Weight * Math.Pow(LeftOf(c, without), 2)) / Cells.Sum(c => c.Weight));

    private double OfFaces(int face, ReadOnlySpan<double> whole, ReadOnlySpan<double> raw)
    {
        double sum = 0;
        foreach (var (_, error, coefficients) in Shared)
        {
            if (error.Faces?.Contains(face) == true)
            {
                sum += SmallSystems.Dot(coefficients, whole);
            }
        }

        return Own.TryGetValue(face, out var own) ? sum + SmallSystems.Dot(own.Coefficients, own.Terms.Row(raw)) : sum;
    }
}
