using System.Globalization;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>How numbers of a unit are written in a report that shows its lengths in a unit of its own.</summary>
/// <param name="Sign">As it stands behind a number: mm, in or °.</param>
/// <param name="Per">Of the stored unit in one of the shown.</param>
/// <param name="More">Decimals more than in mm.</param>
public readonly record struct Written(string Sign, double Per, int More)
{
    /// <param name="unit">The stored one, "mm" or "°".</param>
    public static Written In(string unit, ShownUnit shown) =>
        unit == "mm" ? new(shown.Sign(), shown.Millimetres(), shown.Decimals(0)) : new(unit, 1, 0);

    /// <summary>With so many decimals as mm would have; a dash where there is none.</summary>
    public string Number(double? value, int decimals) => Wording.Number(value / Per, decimals + More);

    /// <summary>With its sign.</summary>
    public string Signed(double? value, int decimals) => Wording.Signed(value / Per, decimals + More);

    /// <summary>With its unit.</summary>
    public string Full(double? value, int decimals) =>
        value is null ? "–" : Number(value, decimals) + (Sign == "°" ? "°" : " " + Sign);

    /// <summary>Both limits of a dimension, the one of a zone.</summary>
    public string Limits(CharacteristicResult row) => row.Nominal is null
        ? "≤ " + Number(row.UpperLimit, row.Decimals)
        : $"{Number(row.LowerLimit, row.Decimals)} … {Number(row.UpperLimit, row.Decimals)}";

    /// <summary>What other ways make of a verdict, where they make another of it.</summary>
    public string? RestsOn(CharacteristicResult row)
    {
        var written = this;
        return row.Firmness is not { Others: { Count: > 0 } others } firm ? null
            : $"{others.Count} of {firm.Tried} other ways give another verdict: "
                + string.Join(", ", others.Select(o => $"{o.What} {written.Number(o.Measured, row.Decimals)} ({Wording.Of(o.Verdict)})"));
    }

    public static string Percent(double share) => (100 * share).ToString("0.0", CultureInfo.InvariantCulture) + " %";
}
