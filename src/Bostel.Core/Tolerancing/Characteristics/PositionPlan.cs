using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>Position of an axis, centre or plane, or of a pattern of them at once, to datums (ISO 5458).</summary>
public sealed record PositionPlan(int No, string Name) : AxisPlan(No, Name)
{
    /// <summary>
    /// Motions that the datums leave free stay as the alignment has them, instead of being used to make the value least.
    /// </summary>
    public bool AsAligned { get; init; }

    /// <summary>
    /// The datums hold the zone's direction alone, written &gt;&lt;; the places count among themselves, as in the lower line of a composite
    /// tolerance (ISO 5459:2011, 7.4.2.8; ASME Y14.5-2018, 10.5.1).
    /// </summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool OrientationOnly { get; init; }

    /// <summary>A datum that is taken at its maximum material boundary; null: none.</summary>
    public DatumBoundary? Boundary { get; init; }

    protected override double UsualCoverage => Coverages.OfAverages;

    internal override IEnumerable<string> Faults()
    {
        if (Boundary is { } boundary && (!boundary.IsPossible || !Datums.Skip(1).Contains(boundary.Datum)))
        {
            yield return "boundary: names a datum after the first, and a size above 0 mm.";
        }

        if (OrientationOnly && (AsAligned || Boundary is not null))
        {
            yield return "orientationOnly: a zone that the datums do not place has no boundary, and does not stay as aligned.";
        }

        foreach (var fault in base.Faults())
        {
            yield return fault;
        }
    }

    internal override Evaluated Evaluate(EvaluationContext context) => Location.Position(
        [.. Enumerable.Range(0, Math.Max(1, Features.Length)).Select(i => Feature(i, context))], System(context), Straight, AsAligned,
        Boundary is { } b ? DatumShift.Of(b, context.Datum(b.Datum)) : null, Material, ProjectedBy, OrientationOnly);
}

/// <summary>Coaxiality of an axis, concentricity of a centre, to the axis of a datum (ISO 1101).</summary>
public sealed record CoaxialityPlan(int No, string Name) : AxisPlan(No, Name)
{
    protected override double UsualCoverage => Coverages.OfAverages;

    internal override Evaluated Evaluate(EvaluationContext context) =>
        WithMaterial(Coaxiality.Of(Feature(0, context), System(context), Straight, ProjectedBy), context);
}

/// <summary>Symmetry about the plane of a datum: of an axis, of a constructed plane, or of the middle between two opposite faces.</summary>
public sealed record SymmetryPlan(int No, string Name) : AxisPlan(No, Name)
{
    protected override double UsualCoverage => Coverages.OfAverages;

    internal override Evaluated Evaluate(EvaluationContext context) => WithMaterial(
        Symmetry.Of([.. Enumerable.Range(0, Math.Clamp(Features.Length, 1, 2)).Select(i => Feature(i, context))], System(context),
            Straight, ProjectedBy), context);
}
