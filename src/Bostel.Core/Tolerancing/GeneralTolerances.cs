using System.Text.Json.Serialization;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// The drawing's general tolerances: for what has none of its own. Each asks for a length of the nominal and gives a limit deviation or the
/// width of a zone, mm or degrees; null: the rule says nothing of it. The rules are a closed set.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "standard")]
[JsonDerivedType(typeof(Iso2768Tolerances), "iso-2768")]
[JsonDerivedType(typeof(Iso22081Tolerances), "iso-22081")]
public abstract record GeneralTolerances
{
    /// <summary>As a title block and the report write it.</summary>
    [JsonIgnore]
    public abstract string Words { get; }

    /// <summary>What is wrong with it; null when nothing.</summary>
    internal virtual string? Fault => null;

    /// <summary>Limit deviation of a length, mm.</summary>
    internal abstract double? OfLength(double nominal);

    /// <summary>Limit deviation of an external radius, mm.</summary>
    internal virtual double? OfExternalRadius(double nominal) => OfLength(nominal);

    /// <summary>Limit deviation of an angle, degrees.</summary>
    /// <param name="side">Length of the shorter side, mm; null: not known.</param>
    internal abstract double? OfAngle(double? side);

    /// <summary>Zone of straightness and flatness for the longer side of a face, mm.</summary>
    internal virtual double? OfForm(double length) => null;

    /// <summary>Zone of roundness, mm.</summary>
    internal virtual double? OfRoundness(double diameter) => null;

    /// <summary>Zone of perpendicularity for the shorter side, mm.</summary>
    internal virtual double? OfPerpendicularity(double side) => null;

    /// <summary>Zone of symmetry, mm.</summary>
    internal virtual double? OfSymmetry(double length) => null;

    /// <summary>Circular run-out, mm.</summary>
    [JsonIgnore]
    internal virtual double? OfRunOut => null;

    /// <summary>Zone of every surface, mm.</summary>
    [JsonIgnore]
    internal virtual double? OfProfile => null;
}

/// <summary>
/// General geometrical and size specifications (ISO 22081:2021): one zone for every surface, one deviation for linear and one for angular
/// sizes.
/// </summary>
/// <param name="Profile">Width of the zone of every surface, mm; null: none.</param>
/// <param name="Size">Limit deviation of linear sizes, mm; null: none.</param>
/// <param name="Angle">Limit deviation of angular sizes, degrees; null: none.</param>
public sealed record Iso22081Tolerances(double? Profile = null, double? Size = null, double? Angle = null) : GeneralTolerances
{
    public override string Words => "ISO 22081: " + string.Join(", ", new[]
    {
        Profile is { } zone ? Invariant($"profile of a surface {zone:0.######} mm") : null,
        Size is { } size ? Invariant($"linear sizes ±{size:0.######} mm") : null,
        Angle is { } angle ? Invariant($"angular sizes ±{angle:0.######}°") : null,
    }.OfType<string>());

    internal override string? Fault => Profile is null && Size is null && Angle is null ? "ISO 22081 needs a profile, a size or an angle."
        : new[] { Profile, Size, Angle }.OfType<double>().Any(v => !(v > 0 && double.IsFinite(v))) ? "each must be above 0."
        : null;

    internal override double? OfLength(double nominal) => Size;

    internal override double? OfAngle(double? side) => Angle;

    internal override double? OfProfile => Profile;
}
