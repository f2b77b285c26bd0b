namespace Bostel.Core.Features;

/// <summary>A pattern as measured, beside the ideal one.</summary>
/// <param name="Step">The step that fits the places best: mm of a row, degrees of a ring.</param>
/// <param name="StepSigma">Its standard deviation.</param>
/// <param name="IsAngle">Whether the step is an angle.</param>
/// <param name="Places">In the order of the construction.</param>
public sealed record PatternReading(
    double Step, double NominalStep, double StepSigma, bool IsAngle, IReadOnlyList<PatternPlace> Places);

/// <summary>
/// How far a place lies from that of the ideal pattern, which has the nominal's step and size, laid where it fits best; mm.
/// </summary>
/// <param name="Feature">Id of the feature that stands there.</param>
/// <param name="Along">Along the row or the ring, ahead being positive.</param>
/// <param name="Across">Of a row the distance from its line; of a ring outwards from its circle.</param>
public sealed record PatternPlace(string Feature, double Along, double Across);

/// <summary>Reads patterns off measured features.</summary>
internal static class PatternReadings
{
    /// <returns>Null for what is no pattern.</returns>
    public static PatternReading? Of(FeatureResult f)
    {
        if (f.Construction is not PatternPlan plan)
        {
            return null;
        }

        PlacedPattern? With(Func<FeatureResult, Geometry.Shape> shapeOf) =>
            plan.Place([.. f.From.Select(x => new Situated(x.Plan.Name, shapeOf(x), x.Place))]).Pattern;
        Situated[] ideal = [.. f.From.Select(x => new Situated(x.Plan.Name, x.Nominal.Shape!, x.Nominal.Center))];
        if (With(x => x.Shape) is not { } measured || plan.Place(ideal).Pattern is not { } nominal)
        {
            return null;
        }

        var sigma = Math.Sqrt(f.Variations
            .Sum(v => With(x => x.Varied(v.Source, v.Index)) is { } off ? Math.Pow(off.Step - measured.Step, 2) : 0));
        var angle = plan is PolarPatternPlan;
        var unit = angle ? 180 / Math.PI : 1;

        // A plane that only tells where axes are pierced stands at no step.
        var standing = f.From.Where(x => x.Shape is not Geometry.Plane3D).ToList();
        var beginning = measured.Along.Select((a, i) => a - (nominal.Step * nominal.Radius * measured.Steps[i])).Average();
        return new(measured.Step * unit, nominal.Step * unit, sigma * unit, angle,
        [
            .. standing.Select((x, i) => new PatternPlace(
                x.Plan.Id, measured.Along[i] - beginning - (nominal.Step * nominal.Radius * measured.Steps[i]),
                measured.Across[i] - (angle ? nominal.Radius : 0))),
        ]);
    }
}
