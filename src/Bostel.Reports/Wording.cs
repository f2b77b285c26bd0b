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

    public static string Number(double? value, int decimals) =>
        value is { } v ? v.ToString("F" + decimals, CultureInfo.InvariantCulture) : "–";

    public static string Kind(string kind) => kind.Replace('-', ' ');

    /// <summary>Text that a spreadsheet would take for a formula gets an apostrophe before it.</summary>
    public static string Neutral(string text) =>
        text.Length > 0 && "=+-@\t\r".Contains(text[0], StringComparison.Ordinal) ? "'" + text : text;
}
