using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Nominals;

namespace Bostel.Core.Tolerancing;

/// <summary>What a value rests on and what it lacks, for showing on the stage.</summary>
/// <param name="Used">Scan vertices of the toleranced features.</param>
/// <param name="LeftOut">Isolated scan vertices that were left out.</param>
/// <param name="Unmatched">Scan vertices without counterpart that count against the value.</param>
/// <param name="Missing">Places of the nominal that were not measured, 3·K coordinates, mm.</param>
/// <param name="Outlines">The measured features as polylines of 3·K coordinates each: axes, rims, centres.</param>
public sealed record StageEvidence(
    int[] Used, int[] LeftOut, int[] Unmatched, double[] Missing, IReadOnlyList<double[]> Outlines)
{
    /// <summary>Half the size of a cross, as a share of the part's diagonal.</summary>
    private const double Mark = 0.012;

    public static StageEvidence Of(FeatureResult f, NominalModel nominal) =>
        new(f.Vertices, f.LeftOutVertices, [], f.Missing, FeatureOutline.Of(f, MarkOn(nominal)));

    /// <exception cref="BadInputException">A feature or datum cannot be measured.</exception>
    public static StageEvidence Of(CharacteristicPlan plan, EvaluationContext context)
    {
        var (features, datums, faces) = plan.Refers;
        var toleranced = features.Select(context.Feature).ToList();
        var all = toleranced.Concat(datums.SelectMany(d => context.Datum(d).Features)).Distinct().ToList();
        int[] unmatched = [.. Doubts.Against(plan.Refers.Faces, all, context).SelectMany(a => a.Vertices).Distinct()];
        double[][] lines = [.. all.SelectMany(f => FeatureOutline.Of(f, MarkOn(context.Nominal)))];
        if (plan.Refers.Section is { } section)
        {
            // The station shows the section itself.
            var sheet = context.Section(section);
            var parts = plan is SectionDimensionPlan row
                ? SectionDimension.Named(sheet, row.Places)
                : sheet.Parts.Where(p => faces.Count == 0 || faces.Contains(p.Face));
            return new([], [], [], [], [.. parts.Select(p => sheet.Frame.InSpace(p.Run))]);
        }

        if (faces.Count == 0)
        {
            return new([.. toleranced.SelectMany(f => f.Vertices)], [.. all.SelectMany(f => f.LeftOutVertices)], unmatched,
                [.. all.SelectMany(f => f.Missing)], lines);
        }

        var scan = context.Scan;
        var on = FeatureExtraction.VerticesOn(faces, scan, context.Nominal, context.Deviation.MaxDistance);
        var (_, missing) = new FaceSamples(faces, context.Nominal, null).Covered(scan, on);
        return new([.. on], [.. all.SelectMany(f => f.LeftOutVertices)], unmatched, missing, lines);
    }

    private static double MarkOn(NominalModel nominal) => Mark * nominal.Mesh.Bounds.Diagonal;
}
