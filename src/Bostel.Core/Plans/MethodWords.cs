using System.Globalization;
using Bostel.Core.Comparison;

namespace Bostel.Core.Plans;

/// <summary>How an outcome was made, in words for screen, report, log and command line; from the data kept with the outcome.</summary>
public static class MethodWords
{
    public static string Of(DeviationOptions how) =>
        string.Create(CultureInfo.InvariantCulture,
            $"counterparts within {how.MaxDistance:0.###} mm whose normal agrees within {how.MaxAngleDegrees:0.#}°");
}
