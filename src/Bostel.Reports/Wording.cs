using System.Globalization;
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

    /// <summary>Decimals the tolerance calls for: one more than its leading digit, between 3 and 5.</summary>
    public static int Decimals(CharacteristicResult row)
    {
        var width = row.Nominal is null ? row.UpperLimit : row.UpperLimit - row.LowerLimit;
        return width is > 0 ? Math.Clamp((int)Math.Ceiling(-Math.Log10(width.Value)) + 1, 3, 5) : 3;
    }

    public static string Number(double? value, int decimals) =>
        value is { } v ? v.ToString("F" + decimals, CultureInfo.InvariantCulture) : "–";

    public static string Kind(string kind) => kind.Replace('-', ' ');

    /// <summary>Text that a spreadsheet would take for a formula gets an apostrophe before it.</summary>
    public static string Neutral(string text) =>
        text.Length > 0 && "=+-@\t\r".Contains(text[0], StringComparison.Ordinal) ? "'" + text : text;
}
