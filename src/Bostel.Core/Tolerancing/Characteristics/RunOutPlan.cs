namespace Bostel.Core.Tolerancing;

/// <summary>
/// Run-out of the widest cross-section about a datum axis, radial of round surfaces, axial of faces square to it (ISO 1101).
/// </summary>
public sealed record CircularRunOutPlan(int No, string Name) : DatumedPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) => RunOut.Of(Feature(0, context), System(context), total: false);
}

/// <summary>Run-out of a whole cylinder or face about a datum axis (ISO 1101).</summary>
public sealed record TotalRunOutPlan(int No, string Name) : DatumedPlan(No, Name)
{
    internal override Evaluated Evaluate(EvaluationContext context) => RunOut.Of(Feature(0, context), System(context), total: true);
}
