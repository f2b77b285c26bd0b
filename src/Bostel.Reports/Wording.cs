using System.Globalization;
using System.Xml;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>How numbers and verdicts are written in all reports.</summary>
public static class Wording
{
    public static string Of(Verdict verdict) => verdict switch
    {
        Verdict.Conforming => "conforming",
        Verdict.NonConforming => "non-conforming",
        Verdict.NotProven => "not proven",
        _ => "not measured",
    };

    /// <summary>What the plan's own alignment is called beside others.</summary>
    public const string OwnAlignment = "the plan's own";

    /// <summary>A named alignment in one line.</summary>
    public static string Of(NamedOutcome named) => named.Aligned is { } aligned && named.Change is { } change
        ? FormattableString.Invariant($"{aligned.How.Words}; RMS {aligned.Result.Rms:0.0000} mm; ")
            + FormattableString.Invariant($"up to {change.Moves:0.0000} mm and {change.TurnsDegrees:0.0000}° from {OwnAlignment}")
        : "determines no pose on this piece";

    /// <summary>What the colours of a figure mean.</summary>
    public static string Colours(ColourScale scale, string unit)
    {
        string End(double value, bool binds) => Signed(value) + (binds ? "" : " (no limit)");
        return $"Colours from {End(scale.Lower, scale.LowerBinds)} to {End(scale.Upper, scale.UpperBinds)} {unit}; "
            + (scale.LowerBinds || scale.UpperBinds ? "hatched beyond, " : "") + "dotted where there is no data.";
    }

    /// <summary>What a label of a figure says, line by line.</summary>
    public static IReadOnlyList<string> Label(LabelPlan label, double value, ColourScale scale, IReadOnlyList<LabelContent> say)
    {
        // A map that has no values below 0 needs no signs.
        string Plain(double v) => scale.Lower < 0 ? Signed(v) : Number(v, 3);
        return [.. say.Order().Select(s => s switch
        {
            LabelContent.Name => label.Name,
            LabelContent.Value => Plain(value),
            LabelContent.Limits => $"{(scale.LowerBinds ? Plain(scale.Lower) : "")} … {(scale.UpperBinds ? Plain(scale.Upper) : "")}",
            _ => scale.Beyond(value) switch
            {
                < 0 => $"{Signed(value - scale.Lower)} beyond",
                > 0 => $"{Signed(value - scale.Upper)} beyond",
                _ => "",
            },
        }).Where(line => line.Length > 0)];
    }

    private static string Signed(double value) => Signed(value, 3);

    /// <summary>With its sign; a dash where there is none.</summary>
    public static string Signed(double? value, int decimals) =>
        value is { } v ? (v >= 0 ? "+" : "−") + Number(Math.Abs(v), decimals) : Number(null, decimals);

    public static string Number(double? value, int decimals) =>
        value is { } v ? v.ToString("F" + decimals, CultureInfo.InvariantCulture) : "–";

    public static string Kind(string kind) => kind.Replace('-', ' ');

    /// <summary>Without the signs that XML 1.0 does not know.</summary>
    public static string InXml(string text) => string.Concat(
        text.EnumerateRunes().Where(r => r.Value > char.MaxValue || XmlConvert.IsXmlChar((char)r.Value)));

    /// <summary>Text that a spreadsheet would take for a formula gets an apostrophe before it.</summary>
    public static string Neutral(string text) =>
        text.Length > 0 && "=+-@\t\r".Contains(text[0], StringComparison.Ordinal) ? "'" + text : text;
}
