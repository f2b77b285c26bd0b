using System.Globalization;
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

    public static string Number(double? value, int decimals) =>
        value is { } v ? v.ToString("F" + decimals, CultureInfo.InvariantCulture) : "–";

    public static string Kind(string kind) => kind.Replace('-', ' ');

    /// <summary>Text that a spreadsheet would take for a formula gets an apostrophe before it.</summary>
    public static string Neutral(string text) =>
        text.Length > 0 && "=+-@\t\r".Contains(text[0], StringComparison.Ordinal) ? "'" + text : text;
}
