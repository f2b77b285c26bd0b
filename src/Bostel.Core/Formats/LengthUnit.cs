namespace Bostel.Core.Formats;

/// <summary>Units in which a file without units may have been written, and the guess which one it was.</summary>
public static class LengthUnit
{
    public static readonly IReadOnlyDictionary<string, double> MillimetresPer =
        new Dictionary<string, double> { ["mm"] = 1, ["cm"] = 10, ["m"] = 1000, ["inch"] = 25.4 };

    /// <summary>Millimetres in one unit.</summary>
    /// <exception cref="BadInputException">The unit is not mm, cm, m or inch.</exception>
    public static double Factor(string unit) => MillimetresPer.TryGetValue(unit, out var f)
        ? f
        : throw new BadInputException($"unit: '{unit}' is not one of mm, cm, m, inch.");

    /// <summary>
    /// The unit under which the scan's diagonal is nearest to the nominal's. A scan holds strays and misses areas, so a size within
    /// a factor of 1.8 of the nominal counts as agreeing, and the unit now in use is kept while it agrees.
    /// </summary>
    public static (string Unit, bool Agrees) Guess(double rawDiagonal, double nominalDiagonal, string current)
    {
        static double Gap(double a, double b) => Math.Abs(Math.Log(a / b));
        var limit = Math.Log(1.8);
        if (Gap(rawDiagonal * Factor(current), nominalDiagonal) < limit)
        {
            return (current, true);
        }

        var best = MillimetresPer.MinBy(u => Gap(rawDiagonal * u.Value, nominalDiagonal));
        return Gap(rawDiagonal * best.Value, nominalDiagonal) < limit ? (best.Key, false) : (current, false);
    }
}
