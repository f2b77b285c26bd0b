using System.Globalization;
using Bostel.Core.Comparison;

namespace Bostel.Core.Plans;

/// <summary>How an outcome was made, in words for screen, report, log and command line; from the data kept with the outcome.</summary>
public static class MethodWords
{
    public static string Of(AlignPlan how)
    {
        var words = how.Method switch
        {
            "faces" => $"best fit to {Counted(how.Faces.Length, "chosen face")} ({Listed(how.Faces)})",
            "datums" => $"set from datums {string.Join(" | ", how.Datums)}",
            "reference-points" => $"set from {Counted(how.Points.Count, "reference point")}",
            "point-pairs" => $"set from {Counted(how.Pairs.Count, "point pair")}",
            "as-given" => "a given transform, taken as it is",
            _ => "best fit to all surfaces",
        };
        if (how.Balance)
        {
            words += ", balanced within the tolerance bands";
        }

        var leftOut = how.Weights.Where(w => w.Weight == 0).Select(w => w.Face).ToArray();
        if (leftOut.Length > 0)
        {
            words += $", without {Counted(leftOut.Length, "face")} ({Listed(leftOut)})";
        }

        if (how.Weights.Any(w => w.Weight is not (0 or 1)))
        {
            words += ", faces weighted";
        }

        if (how.Locked.Length > 0)
        {
            words += $", {string.Join(", ", how.Locked)} kept";
        }

        if (how.Start is not null && how.Method is not ("as-given" or "point-pairs"))
        {
            words += ", from a given start";
        }

        return how.Prefer is null ? words : words + ", the pose nearest to the chosen one";
    }

    public static string Of(DeviationOptions how) =>
        string.Create(CultureInfo.InvariantCulture,
            $"counterparts within {how.MaxDistance:0.###} mm whose normal agrees within {how.MaxAngleDegrees:0.#}°");

    private static string Counted(int n, string what) => n == 1 ? $"1 {what}" : $"{n} {what}s";

    private static string Listed(int[] numbers) => string.Join(", ", numbers);
}
