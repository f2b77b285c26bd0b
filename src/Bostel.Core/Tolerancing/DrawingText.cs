using System.Globalization;
using System.Text.RegularExpressions;
using Bostel.Core.Nominals;

namespace Bostel.Core.Tolerancing;

/// <summary>What a requirement says as it is written on a drawing.</summary>
/// <param name="Nominal">Of a dimension; null: only limits, or a geometrical tolerance.</param>
/// <param name="Tolerance">Of a geometrical tolerance, mm.</param>
/// <param name="Diametral">A ⌀ stands before the value.</param>
public sealed record DrawingRequirement(
    double? Nominal, double? Upper, double? Lower, double? Tolerance, bool Diametral, MaterialLimit? Material, DatumReference[] Datums)
{
    /// <summary>Length of a projected zone, mm; null: it is none.</summary>
    public double? ProjectedBy { get; init; }

    /// <summary>T: the tangent plane is tolerated.</summary>
    public bool TangentPlane { get; init; }

    /// <summary>The datums hold the direction alone.</summary>
    public bool OrientationOnly { get; init; }

    /// <summary>The same in mm, of one that is written in another unit.</summary>
    public DrawingRequirement InMm(ShownUnit written) => written == ShownUnit.Millimetre ? this : this with
    {
        Nominal = Nominal * written.Millimetres(),
        Upper = Upper * written.Millimetres(),
        Lower = Lower * written.Millimetres(),
        Tolerance = Tolerance * written.Millimetres(),
        ProjectedBy = ProjectedBy * written.Millimetres(),
    };
}

/// <summary>
/// Reads requirements as drawings write them: a dimension as "52 H7", "12 ±0.1", "⌀8 +0.015/0", "±0.1", "+0.046/0" (ISO 129-1,
/// ISO 286-1); a geometrical tolerance as "⌀0.2 M P25|A|B M|C-D" (ISO 1101: value, material, projected zone, tangent plane, then
/// datums in order).
/// </summary>
public static partial class DrawingText
{
    /// <summary>A geometrical tolerance: value, material, then datums in order.</summary>
    /// <exception cref="BadInputException">It cannot be read, and where.</exception>
    public static DrawingRequirement Tolerance(string text)
    {
        var cells = Plain(text).Split('|').Select(c => c.Trim()).ToList();
        var zone = Zone().Match(cells[0]);
        if (!zone.Success || !(Number(zone.Groups["value"].Value) > 0))
        {
            throw new BadInputException($"'{text}': begins with the width of the zone, as \"⌀0.2 M\".");
        }

        var value = new DrawingRequirement(
            null, null, null, Number(zone.Groups["value"].Value), zone.Groups["diametral"].Length > 0,
            Material(zone.Groups["material"].Value), [])
        {
            ProjectedBy = zone.Groups["projected"].Length > 0 ? Number(zone.Groups["projected"].Value) : null,
            TangentPlane = zone.Groups["tangent"].Length > 0,
        };
        return cells.Count == 1 ? value : value.To(cells.Skip(1));
    }

    /// <summary>Behind a datum that holds the direction alone (ISO 5459, 7.4.2.8).</summary>
    public const string DirectionOnly = "><";

    /// <summary>
    /// A requirement to datums in order, as "A|B M|C"; A-B is a common datum, one with &gt;&lt; behind it holds the direction alone.
    /// </summary>
    /// <exception cref="BadInputException">One of them is no letter, or only some hold the direction alone.</exception>
    public static DrawingRequirement To(this DrawingRequirement value, string datums) =>
        value.To(Plain(datums).Split('|').Select(c => c.Trim()));

    /// <summary>"M" or "L"; null for anything else.</summary>
    public static MaterialLimit? Material(string sign) =>
        Plain(sign) switch { "M" => MaterialLimit.Maximum, "L" => MaterialLimit.Least, _ => null };

    private static DrawingRequirement To(this DrawingRequirement value, IEnumerable<string> datums)
    {
        List<string> cells = [.. datums];
        var only = cells.Count(c => c.Contains(DirectionOnly, StringComparison.Ordinal));
        return only > 0 && only < cells.Count
            ? throw new BadInputException($"'{string.Join('|', cells)}': {DirectionOnly} stands with every datum or with none.")
            : value with { Datums = DatumsIn(cells), OrientationOnly = only > 0 };
    }

    private static DatumReference[] DatumsIn(IEnumerable<string> cells) =>
        [.. cells.Select((cell, i) =>
            Letters().Match(cell.Replace(DirectionOnly, "", StringComparison.Ordinal).Trim()) is { Success: true } datum
                ? new DatumReference(datum.Groups["label"].Value.Replace(" ", "", StringComparison.Ordinal),
                    Material(datum.Groups["material"].Value), i + 1)
                : throw new BadInputException($"'{cell}' is no datum; a letter is, or two as A-B, with M or L behind it."))];

    /// <summary>A dimension, or limits alone.</summary>
    /// <param name="of">Nominal that limits without one are of, mm.</param>
    /// <exception cref="BadInputException">It cannot be read.</exception>
    public static DrawingRequirement Dimension(string text, double? of = null)
    {
        var match = Size().Match(Plain(text));
        if (!match.Success || match.Length == 0)
        {
            throw new BadInputException($"'{text}': is no dimension as \"52 H7\", \"12 ±0.1\" or \"8 +0.015/0\".");
        }

        double? nominal = match.Groups["nominal"].Length > 0 ? Number(match.Groups["nominal"].Value) : null;
        var (lower, upper) = ((double?)null, (double?)null);
        if (match.Groups["both"].Length > 0)
        {
            upper = Number(match.Groups["both"].Value);
            lower = -upper;
        }
        else if (match.Groups["class"].Length > 0)
        {
            var limits = (nominal ?? of) is { } size ? ToleranceClass.Limits(size, match.Groups["class"].Value) : null;
            (lower, upper) = limits ?? throw new BadInputException(
                $"'{text}': {match.Groups["class"].Value} is no class of ISO 286 that is known for this size.");
        }
        else if (match.Groups["first"].Length > 0)
        {
            var (a, b) = (Number(match.Groups["first"].Value), Number(match.Groups["second"].Value));
            (lower, upper) = (Math.Min(a, b), Math.Max(a, b));
        }

        if (lower >= upper)
        {
            throw new BadInputException($"'{text}': the limits leave no room between them.");
        }

        return new(nominal, upper, lower, null, match.Groups["diametral"].Length > 0, null, []);
    }

    /// <summary>Signs that keyboards lack, as they are typed instead.</summary>
    private static string Plain(string text) => text.Replace('Ⓜ', 'M').Replace('Ⓛ', 'L')
        .Replace('Ⓟ', 'P').Replace('Ⓣ', 'T').Replace('−', '-').Replace('∅', '⌀')
        .Replace('Ø', '⌀').Replace('ø', '⌀').Trim();

    private static double Number(string text) =>
        double.Parse(text.Replace(',', '.').Replace(" ", "", StringComparison.Ordinal), CultureInfo.InvariantCulture);

    private const string Digits = "[0-9]*[.,]?[0-9]+", Deviation = "[+-] ?" + Digits + "|0";

    [GeneratedRegex("^(?<diametral>⌀)? ?(?<value>" + Digits + ")( ?\\(?(?<material>[ML])\\)?)?"
        + "( ?\\(?P\\)? ?(?<projected>" + Digits + "))?( ?\\(?(?<tangent>T)\\)?)?$", RegexOptions.CultureInvariant)]
    private static partial Regex Zone();

    [GeneratedRegex("^(?<label>[A-Z]{1,2}?( ?- ?[A-Z]{1,2}?)*)( ?\\(?(?<material>[ML])\\)?)?$", RegexOptions.CultureInvariant)]
    private static partial Regex Letters();

    [GeneratedRegex(
        "^((?<diametral>⌀)|R)? ?(?<nominal>" + Digits + ")? ?(°|mm)? ?"
            + "(± ?(?<both>" + Digits + ")|(?<first>" + Deviation + ") ?[/ ] ?(?<second>" + Deviation + ")"
            + "|(?<class>[A-Za-z]{1,2} ?[0-9]{1,2}))? ?(°|mm)?$",
        RegexOptions.CultureInvariant)]
    private static partial Regex Size();
}
