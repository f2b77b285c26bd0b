using Bostel.Core.Nominals;

namespace Bostel.Core.Plans;

/// <summary>
/// Another way of aligning beside the plan's own, under a name: "as assembled". The map, features and characteristics that name it stand
/// in it.
/// </summary>
public sealed record NamedAlignment(string Name, AlignPlan Align);

/// <summary>A named alignment as it came out on one piece.</summary>
/// <param name="Aligned">Null: on this piece it does not determine a pose.</param>
/// <param name="Change">Against the plan's own alignment.</param>
public sealed record NamedOutcome(string Name, AlignedOutcome? Aligned, PoseChange? Change)
{
    public static NamedOutcome Of(string name, AlignedOutcome? aligned, AlignedOutcome own, NominalModel nominal) => new(
        name, aligned, aligned is null ? null : PoseChange.Of(
            aligned.Result.Transform.After(own.Result.Transform.Inverse()), nominal.Mesh.Bounds));
}
