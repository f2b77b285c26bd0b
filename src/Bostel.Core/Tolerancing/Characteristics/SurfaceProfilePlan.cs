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

    [JsonIgnore]
    public override References Refers => new([], Datums, Faces);

    internal override Evaluated Evaluate(EvaluationContext context) => Profile.Surface(this, context);
}
