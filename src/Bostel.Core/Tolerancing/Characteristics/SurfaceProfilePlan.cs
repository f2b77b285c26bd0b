using System.Text.Json.Serialization;

namespace Bostel.Core.Tolerancing;

/// <summary>Profile of a surface (ISO 1660), to datums or to none.</summary>
public sealed record SurfaceProfilePlan(int No, string Name) : GeometricalPlan(No, Name)
{
    /// <summary>Faces of the nominal under the tolerance.</summary>
    public int[] Faces { get; init; } = [];

    public string[] Datums { get; init; } = [];

    /// <summary>
    /// Motions that the datums leave free stay as the alignment has them, instead of being used to make the value least.
    /// </summary>
    public bool AsAligned { get; init; }

    /// <summary>UZ: the middle of the zone lies so far out of the material, mm; below 0 in it; null: on the nominal.</summary>
    public double? ZoneOffset { get; init; }

    /// <summary>OZ: the zone may lie at any one offset from the nominal.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool FreeOffset { get; init; }

    [JsonIgnore]
    public override References Refers => new([], Datums, Faces);

    internal override IEnumerable<string> Faults()
    {
        if (FreeOffset && ZoneOffset is not null)
        {
            yield return "zoneOffset: a zone at any offset has none of its own.";
        }

        foreach (var fault in base.Faults())
        {
            yield return fault;
        }
    }

    internal override Evaluated Evaluate(EvaluationContext context) => Profile.Surface(this, context);
}

/// <summary>Profile of a line (ISO 1660): of the cut in a section of the plan, to datums or to none.</summary>
public sealed record LineProfilePlan(int No, string Name) : GeometricalPlan(No, Name)
{
    /// <summary>Name of the section.</summary>
    public string Section { get; init; } = "";

    /// <summary>Faces of the nominal whose lines count; none: all that the section cuts.</summary>
    public int[] Faces { get; init; } = [];

    public string[] Datums { get; init; } = [];

    /// <summary>The middle of the zone lies so far out of the material, mm; null: on the nominal.</summary>
    public double? ZoneOffset { get; init; }

    [JsonIgnore]
    public override References Refers => new([], Datums, Faces) { Section = Section };

    internal override Evaluated Evaluate(EvaluationContext context) => Profile.Line(this, context);
}
