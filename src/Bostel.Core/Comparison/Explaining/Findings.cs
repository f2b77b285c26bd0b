using System.Globalization;
using System.Text.Json.Serialization;
using Bostel.Core.Geometry;

namespace Bostel.Core.Comparison;

/// <summary>What of a part's deviation is explained together, and can be taken out of a map.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ExplainedPart>))]
public enum ExplainedPart
{
    /// <summary>Shift and turn that the alignment left.</summary>
    [JsonStringEnumMemberName("pose")]
    Pose,

    /// <summary>Shrinkage or growth.</summary>
    [JsonStringEnumMemberName("size")]
    Size,

    /// <summary>Bend and twist.</summary>
    [JsonStringEnumMemberName("bend")]
    Bend,

    /// <summary>Own errors of faces, and of faces that moved together.</summary>
    [JsonStringEnumMemberName("faces")]
    Faces,
}

/// <param name="Value">As estimated.</param>
/// <param name="U">Expanded uncertainty for 95 %, in the unit of the value.</param>
public sealed record Found(double Value, double U)
{
    [JsonIgnore]
    public bool StandsOut => Math.Abs(Value) > U;

    /// <summary>Of its size, with two digits of the uncertainty.</summary>
    public string Say(string unit)
    {
        var digits = U > 0 ? Math.Clamp(1 - (int)Math.Floor(Math.Log10(U)), 0, 4) : 4;
        var format = "F" + digits.ToString(CultureInfo.InvariantCulture);
        return string.Create(CultureInfo.InvariantCulture, $"{Math.Abs(Value).ToString(format, CultureInfo.InvariantCulture)} ± ")
            + $"{U.ToString(format, CultureInfo.InvariantCulture)} {unit}";
    }
}

/// <summary>One error that stands out. Lengths in mm, nominal coordinates.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(PoseFinding), "pose")]
[JsonDerivedType(typeof(SizeFinding), "size")]
[JsonDerivedType(typeof(BendFinding), "bend")]
[JsonDerivedType(typeof(TwistFinding), "twist")]
[JsonDerivedType(typeof(SharedShiftFinding), "shared-shift")]
[JsonDerivedType(typeof(OffsetFinding), "offset")]
[JsonDerivedType(typeof(ShiftFinding), "shift")]
[JsonDerivedType(typeof(TurnFinding), "turn")]
[JsonDerivedType(typeof(FormFinding), "form")]
[JsonDerivedType(typeof(WavesFinding), "waves")]
public abstract record Finding
{
    private protected static readonly string[] AxisNames = ["X", "Y", "Z"];

    [JsonIgnore]
    public abstract ExplainedPart Part { get; }

    /// <summary>Root mean square of the deviation that it makes, over the part, mm.</summary>
    public double Rms { get; init; }

    /// <summary>Faces it is told of; none: the whole part.</summary>
    [JsonIgnore]
    public virtual IReadOnlyList<int> OnFaces => [];

    /// <param name="name">Of a face.</param>
    public abstract string Words(Func<int, string> name);

    /// <summary>A direction, by its axis where it runs along one.</summary>
    private protected static string Direction(IReadOnlyList<double> v)
    {
        var unit = Vector3D.FromArray(v).Normalized();
        for (var k = 0; k < 3; k++)
        {
            if (Math.Abs(unit[k]) > 0.985)
            {
                return (unit[k] > 0 ? "+" : "−") + AxisNames[k];
            }
        }

        // The sign of a zero is none.
        return "(" + string.Join(", ", unit.ToArray().Select(v =>
            (Math.Round(v, 2) + 0.0).ToString("0.00", CultureInfo.InvariantCulture).Replace('-', '−'))) + ")";
    }

    /// <summary>The line along a direction.</summary>
    private protected static string Line(IReadOnlyList<double> v) => Direction(v).TrimStart('+', '−');

    private protected static string Signed(string axis, double value) => (value > 0 ? "+" : "−") + axis;

    private protected static string Joined(IEnumerable<string> parts)
    {
        var all = parts.ToList();
        return all.Count < 2 ? string.Concat(all) : string.Join(", ", all.SkipLast(1)) + " and " + all[^1];
    }
}

/// <summary>Shift of the part's middle (mm) and turn (degrees) along and about the axes, still in it as it is aligned.</summary>
public sealed record PoseFinding(IReadOnlyList<Found> Shift, IReadOnlyList<Found> Turn) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Pose;

    public override string Words(Func<int, string> name)
    {
        var shifts = Shift.Select((f, k) => f.StandsOut ? $"lies {f.Say("mm")} off in {Signed(AxisNames[k], f.Value)}" : "");
        var turns = Turn.Select((f, k) => f.StandsOut ? $"is turned by {f.Say("°")} about {Signed(AxisNames[k], f.Value)}" : "");
        return $"As it is aligned, the part {Joined(shifts.Concat(turns).Where(s => s.Length > 0))}.";
    }
}

/// <summary>Growth in percent, negative for shrinkage.</summary>
/// <param name="Percent">Along X, Y and Z; one when it is equal in all.</param>
public sealed record SizeFinding(IReadOnlyList<Found> Percent) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Size;

    public override string Words(Func<int, string> name)
    {
        static string Which(Found f) => f.Value < 0 ? "shrunk" : "grown";
        var said = Percent.Count == 1
            ? [$"{Which(Percent[0])} by {Percent[0].Say("%")}"]
            : Percent.Select((f, k) => f.StandsOut ? $"{Which(f)} by {f.Say("%")} along {AxisNames[k]}" : "").Where(s => s.Length > 0);
        return $"The part is {Joined(said)}.";
    }
}

/// <param name="Along">Axis that is bent, 0 to 2.</param>
/// <param name="Toward">Axis along which the middle is displaced.</param>
/// <param name="Height">Of the ends over the middle, mm.</param>
public sealed record BendFinding(int Along, int Toward, Found Height) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Bend;

    public override string Words(Func<int, string> name) =>
        $"The part is bent along {AxisNames[Along]}: its ends stand {Height.Say("mm")} further in "
        + $"{Signed(AxisNames[Toward], Height.Value)} than its middle.";
}

/// <param name="About">Axis, 0 to 2.</param>
/// <param name="Angle">From end to end, degrees.</param>
public sealed record TwistFinding(int About, Found Angle) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Bend;

    public override string Words(Func<int, string> name) =>
        $"The part is twisted about {AxisNames[About]} by {Angle.Say("°")} from end to end"
        + (Angle.Value > 0 ? "." : ", left-handed.");
}

/// <summary>Faces that moved together, as those that one core made.</summary>
/// <param name="Shift">mm.</param>
/// <param name="By">Its length.</param>
public sealed record SharedShiftFinding(IReadOnlyList<int> Faces, IReadOnlyList<double> Shift, Found By) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Faces;

    public override IReadOnlyList<int> OnFaces => Faces;

    public override string Words(Func<int, string> name) =>
        $"{Joined(Faces.Select(name))} are moved together by {By.Say("mm")} in {Direction(Shift)}.";
}

/// <summary>A face that stands high or low all over.</summary>
/// <param name="Height">Out of the material, mm.</param>
/// <param name="Round">+1: a bore, −1: a boss, whose diameter is another; 0: neither.</param>
public sealed record OffsetFinding(int Face, Found Height, int Round) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Faces;

    public override IReadOnlyList<int> OnFaces => [Face];

    public override string Words(Func<int, string> name) => Round == 0
        ? $"{name(Face)} stands {Height.Say("mm")} {(Height.Value > 0 ? "high" : "low")}."
        : $"{name(Face)} is {new Found(2 * Height.Value, 2 * Height.U).Say("mm")} too {(Height.Value * Round > 0 ? "small" : "large")} "
            + "in diameter.";
}

/// <summary>A round face that lies beside its place.</summary>
/// <param name="Shift">Of its middle, mm, as far as its surface tells.</param>
/// <param name="By">Its length.</param>
public sealed record ShiftFinding(int Face, IReadOnlyList<double> Shift, Found By) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Faces;

    public override IReadOnlyList<int> OnFaces => [Face];

    public override string Words(Func<int, string> name) => $"{name(Face)} is moved by {By.Say("mm")} in {Direction(Shift)}.";
}

/// <summary>A face that leans.</summary>
/// <param name="Axis">It is turned about.</param>
/// <param name="Turn">Degrees.</param>
public sealed record TurnFinding(int Face, IReadOnlyList<double> Axis, Found Turn) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Faces;

    public override IReadOnlyList<int> OnFaces => [Face];

    public override string Words(Func<int, string> name) => $"{name(Face)} leans {Turn.Say("°")} about {Direction(Axis)}.";
}

/// <summary>A face that is bowed or twisted, or a round one that tapers or bulges.</summary>
/// <param name="U">Direction of its length, or of its axis.</param>
/// <param name="V">Direction of its width.</param>
/// <param name="Taper">Of a round face: rise from end to end along U, mm; of others none.</param>
/// <param name="AlongU">Of the middle over the ends along U, mm.</param>
/// <param name="AlongV">The same along V.</param>
/// <param name="Crosswise">
/// How much higher than the middle the corners stand that lie along U and V together, and the others lower, mm.
/// </param>
public sealed record FormFinding(
    int Face, IReadOnlyList<double> U, IReadOnlyList<double> V, Found Taper, Found AlongU, Found AlongV, Found Crosswise) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Faces;

    public override IReadOnlyList<int> OnFaces => [Face];

    [JsonIgnore]
    public bool StandsOut => Taper.StandsOut || AlongU.StandsOut || AlongV.StandsOut || Crosswise.StandsOut;

    public override string Words(Func<int, string> name) => name(Face) + " " + Joined(
    [
        .. Taper.StandsOut ? [$"tapers by {Taper.Say("mm")} along {Line(U)}"] : (string[])[],
        .. Bowed(U, AlongU), .. Bowed(V, AlongV),
        .. Crosswise.StandsOut ? [$"is twisted: its corners stand {Crosswise.Say("mm")} high and low by turns"] : (string[])[],
    ]) + ".";

    private static string[] Bowed(IReadOnlyList<double> along, Found by) => by.StandsOut
        ? [$"is bowed along {Line(along)}: its middle stands {by.Say("mm")} {(by.Value > 0 ? "high" : "low")}"]
        : [];
}

/// <summary>A face that is wavy more than others are.</summary>
/// <param name="Height">Root mean square of the waves, mm.</param>
public sealed record WavesFinding(int Face, Found Height) : Finding
{
    public override ExplainedPart Part => ExplainedPart.Faces;

    public override IReadOnlyList<int> OnFaces => [Face];

    public override string Words(Func<int, string> name) => $"{name(Face)} is wavy by {Height.Say("mm")} (root mean square).";
}
