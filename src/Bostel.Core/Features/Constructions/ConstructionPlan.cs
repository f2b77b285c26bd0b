using System.Text.Json.Serialization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>
/// A feature that is not measured itself but follows from others: it moves with them, and its uncertainty is theirs carried through. The
/// same rule makes its nominal from their nominals. The kinds are a closed set; they stand by what they make in the files beside this one.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(PointOfPlanesPlan), "point-of-planes")]
[JsonDerivedType(typeof(PiercedPointPlan), "pierced-point")]
[JsonDerivedType(typeof(NearestPointPlan), "nearest-point")]
[JsonDerivedType(typeof(CentrePlan), "centre")]
[JsonDerivedType(typeof(ProjectedPointPlan), "projected-point")]
[JsonDerivedType(typeof(MidPointPlan), "mid-point")]
[JsonDerivedType(typeof(ExtremePointPlan), "extreme-point")]
[JsonDerivedType(typeof(SurfacePointPlan), "surface-point")]
[JsonDerivedType(typeof(AxisThroughPlan), "axis-through")]
[JsonDerivedType(typeof(AxisOfPlanesPlan), "axis-of-planes")]
[JsonDerivedType(typeof(MidAxisPlan), "mid-axis")]
[JsonDerivedType(typeof(AxisAlongPlan), "axis-along")]
[JsonDerivedType(typeof(PlaneThroughPlan), "plane-through")]
[JsonDerivedType(typeof(MidPlanePlan), "mid-plane")]
[JsonDerivedType(typeof(OffsetPlanePlan), "offset-plane")]
[JsonDerivedType(typeof(PlaneOfAxisPlan), "plane-of-axis")]
[JsonDerivedType(typeof(PlaneAcrossPlan), "plane-across")]
[JsonDerivedType(typeof(MirrorPlanePlan), "mirror-plane")]
[JsonDerivedType(typeof(CircleThroughPlan), "circle-through")]
[JsonDerivedType(typeof(SectionCirclePlan), "section-circle")]
[JsonDerivedType(typeof(GaugeCirclePlan), "gauge-circle")]
[JsonDerivedType(typeof(AveragePlan), "average")]
[JsonDerivedType(typeof(PolarPatternPlan), "polar-pattern")]
[JsonDerivedType(typeof(LinearPatternPlan), "linear-pattern")]
public abstract record ConstructionPlan(string Id, string Name)
{
    /// <summary>Ids of what it is made from, in order: features, or constructions that stand before it in the plan.</summary>
    public string[] From { get; init; } = [];

    /// <summary>Name of the alignment in which it and what it is made from are measured; null: the plan's own.</summary>
    public string? Alignment { get; init; }

    [JsonIgnore]
    public string Kind => Kinds.NameOf(this);

    /// <summary>What it is, in words: "axis through 3 centres".</summary>
    [JsonIgnore]
    public abstract string What { get; }

    /// <summary>What it takes, as a sentence for who gives it something else.</summary>
    protected abstract string Takes { get; }

    /// <summary>The shape that follows from others; null when they are of kinds that it does not take.</summary>
    private protected abstract Made? Follow(IReadOnlyList<Situated> from);

    /// <summary>What is missing or wrong, one sentence each, without regard to what it is made from.</summary>
    internal virtual IEnumerable<string> Faults() => From.Length == 0 ? [$"a {Kind} needs {Takes}."] : [];

    /// <summary>The shape that follows from others, or why there is none.</summary>
    internal Made Make(IReadOnlyList<Situated> from) => Follow(from)
        ?? Made.Failed($"{Name}: a {Kind.Replace('-', ' ')} needs {Takes}; it is given "
            + $"{string.Join(", ", from.Select(f => $"{f.Name} ({Situated.Word(f.Shape)})"))}.");
}

/// <summary>A shape made from others, or in one sentence why they do not determine it.</summary>
internal readonly record struct Made(Shape? Shape, string? Why)
{
    public static Made Failed(string why) => new(null, why);

    /// <summary>Null when there is no shape: what was given is of kinds that are not taken.</summary>
    public static Made? IfAny(Shape? shape) => shape is null ? default(Made?) : new Made(shape, null);

    public static implicit operator Made(Shape shape) => new(shape, null);

    /// <exception cref="UndeterminedException">There is none.</exception>
    public Shape OrThrow() => Shape ?? throw new UndeterminedException(Why!);
}
