using System.Globalization;
using System.Text.RegularExpressions;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Tolerance classes of ISO 286 up to 500 mm: standard tolerances (ISO 286-1:2010, table 1) and fundamental deviations of shafts and holes
/// (tables 2 to 5), for the letters c d e f g h js k m n p r s u and their capitals, grades 1 to 18.
/// </summary>
public static partial class ToleranceClass
{
    /// <summary>Upper ends of the ranges of nominal sizes, mm; a size belongs to the first that it does not exceed.</summary>
    private static readonly double[] Ranges = [3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500];

    /// <summary>The same of the finer ranges in which r, s, u and c are given.</summary>
    private static readonly double[] Finer =
        [3, 6, 10, 14, 18, 24, 30, 40, 50, 65, 80, 100, 120, 140, 160, 180, 200, 225, 250, 280, 315, 355, 400, 450, 500];

    /// <summary>By grade from 1, µm.</summary>
    private static readonly double[][] Grades =
    [
        [0.8, 1, 1, 1.2, 1.5, 1.5, 2, 2.5, 3.5, 4.5, 6, 7, 8],
        [1.2, 1.5, 1.5, 2, 2.5, 2.5, 3, 4, 5, 7, 8, 9, 10],
        [2, 2.5, 2.5, 3, 4, 4, 5, 6, 8, 10, 12, 13, 15],
        [3, 4, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20],
        [4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27],
        [6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40],
        [10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63],
        [14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97],
        [25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155],
        [40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250],
        [60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400],
        [100, 120, 150, 180, 210, 250, 300, 350, 400, 460, 520, 570, 630],
        [140, 180, 220, 270, 330, 390, 460, 540, 630, 720, 810, 890, 970],
        [250, 300, 360, 430, 520, 620, 740, 870, 1000, 1150, 1300, 1400, 1550],
        [400, 480, 580, 700, 840, 1000, 1200, 1400, 1600, 1850, 2100, 2300, 2500],
        [600, 750, 900, 1100, 1300, 1600, 1900, 2200, 2500, 2900, 3200, 3600, 4000],
        [1000, 1200, 1500, 1800, 2100, 2500, 3000, 3500, 4000, 4600, 5200, 5700, 6300],
        [1400, 1800, 2200, 2700, 3300, 3900, 4600, 5400, 6300, 7200, 8100, 8900, 9700],
    ];

    /// <summary>How far a shaft of the letter stays below its nominal size at least, µm.</summary>
    private static readonly Dictionary<string, double[]> Below = new()
    {
        ["c"] = [60, 70, 80, 95, 95, 110, 110, 120, 130, 140, 150, 170, 180, 200, 210, 230, 240, 260, 280, 300, 330, 360, 400, 440, 480],
        ["d"] = [20, 30, 40, 50, 65, 80, 100, 120, 145, 170, 190, 210, 230],
        ["e"] = [14, 20, 25, 32, 40, 50, 60, 72, 85, 100, 110, 125, 135],
        ["f"] = [6, 10, 13, 16, 20, 25, 30, 36, 43, 50, 56, 62, 68],
        ["g"] = [2, 4, 5, 6, 7, 9, 10, 12, 14, 15, 17, 18, 20],
        ["h"] = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0],
    };

    /// <summary>How far a shaft of the letter stays above its nominal size at least, µm; k in grades 4 to 7, else 0.</summary>
    private static readonly Dictionary<string, double[]> Above = new()
    {
        ["k"] = [0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5],
        ["m"] = [2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23],
        ["n"] = [4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40],
        ["p"] = [6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68],
        ["r"] = [10, 15, 19, 23, 23, 28, 28, 34, 34, 41, 43, 51, 54, 63, 65, 68, 77, 80, 84, 94, 98, 108, 114, 126, 132],
        ["s"] = [14, 19, 23, 28, 28, 35, 35, 43, 43, 53, 59, 71, 79, 92, 100, 108, 122, 130, 140, 158, 170, 190, 208, 232, 252],
        ["u"] = [18, 23, 28, 33, 33, 41, 48, 60, 70, 87, 102, 124, 144, 170, 190, 210, 236, 258, 284, 315, 350, 390, 435, 490, 540],
    };

    /// <summary>Width of a grade, mm; null beyond 500 mm or for a grade that is not in 1 to 18.</summary>
    public static double? Width(double nominal, int grade) =>
        grade is >= 1 and <= 18 && Row(Ranges, nominal) is { } row ? Grades[grade - 1][row] / 1000 : null;

    /// <summary>Lower and upper deviation of a class, mm; null where it is not one that is known.</summary>
    /// <param name="nominal">Nominal size, mm.</param>
    /// <param name="name">Letters and grade, as "H7" (a hole) or "g6" (a shaft).</param>
    public static (double Lower, double Upper)? Limits(double nominal, string name)
    {
        var match = Form().Match(name);
        if (!match.Success || Width(nominal, int.Parse(match.Groups[2].Value, CultureInfo.InvariantCulture)) is not { } width)
        {
            return null;
        }

        var (letters, grade) = (match.Groups[1].Value, int.Parse(match.Groups[2].Value, CultureInfo.InvariantCulture));
        var letter = letters.ToLowerInvariant();
        var isHole = char.IsUpper(letters[0]);
        if (letter == "js")
        {
            return (-width / 2, width / 2);
        }

        if (Of(Below, letter, nominal) is { } below)
        {
            return isHole ? (below, Rounded(below + width)) : (Rounded(-below - width), -below);
        }

        if (Of(Above, letter, nominal) is not { } above)
        {
            return null;
        }

        if (letter == "k" && grade is < 4 or > 7)
        {
            above = 0;
        }

        if (!isHole)
        {
            return (above, Rounded(above + width));
        }

        return HoleUpper(letter, grade, nominal, above) is { } upper ? (Rounded(upper - width), Rounded(upper)) : null;
    }

    /// <summary>
    /// The upper deviation of a hole that reaches below its nominal: that of the shaft with the other sign, raised by Δ, the step from the
    /// grade before, for K, M and N up to grade 8 and P to U up to grade 7 (ISO 286-1, 4.3.2.4).
    /// </summary>
    private static double? HoleUpper(string letter, int grade, double nominal, double above)
    {
        if (letter == "k" && grade > 8)
        {
            return null;
        }

        if (letter == "n" && grade > 8)
        {
            return nominal > 3 ? 0 : -above;
        }

        // The table has −9 µm there, and not what the rule gives.
        if (letter == "m" && grade == 6 && nominal is > 250 and <= 315)
        {
            return -0.009;
        }

        // K is raised from the k of its whole row.
        var from = letter == "k" ? Of(Above, "k", nominal)!.Value : above;
        var raised = nominal > 3 && grade <= (letter is "k" or "m" or "n" ? 8 : 7);
        return -from + (raised ? Width(nominal, grade) - Width(nominal, grade - 1) ?? 0 : 0);
    }

    private static double? Of(Dictionary<string, double[]> table, string letter, double nominal) =>
        table.TryGetValue(letter, out var values) && Row(values.Length == Ranges.Length ? Ranges : Finer, nominal) is { } row
            ? values[row] / 1000
            : null;

    private static int? Row(double[] ranges, double nominal) =>
        nominal > 0 && Array.FindIndex(ranges, r => nominal <= r) is var row and >= 0 ? row : null;

    /// <summary>Sums of table values have no more digits than they.</summary>
    private static double Rounded(double mm) => Math.Round(mm, 7);

    [GeneratedRegex("^([A-Za-z]{1,2}) ?([0-9]{1,2})$", RegexOptions.CultureInvariant)]
    private static partial Regex Form();
}
