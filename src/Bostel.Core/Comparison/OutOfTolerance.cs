using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>A connected area of a scan whose deviations all lie beyond one limit.</summary>
/// <param name="High">Above the upper limit; below the lower otherwise.</param>
/// <param name="Area">Measured area of its vertices, mm²; of a cloud that which its points stand for.</param>
/// <param name="Extreme">The deviation farthest beyond, mm.</param>
/// <param name="At">The vertex where that is.</param>
/// <param name="Vertices">Its vertices, ascending.</param>
public sealed record DeviatingArea(bool High, double Area, double Extreme, int At, int[] Vertices);

/// <summary>Finds where a scan is out of tolerance as areas, not as a cloud of single points.</summary>
public static class OutOfTolerance
{
    /// <summary>Areas of points beyond a limit that hang together over the scan, largest first.</summary>
    /// <param name="beside">Which points of the scan lie beside each other.</param>
    /// <param name="values">Deviations, one a vertex, NaN for no data.</param>
    /// <param name="smallest">Areas below this (mm²) are left out: single noisy points.</param>
    public static IReadOnlyList<DeviatingArea> Areas(
        Neighbourhood beside, double[] values, double lower, double upper, double smallest = 0)
    {
        var found = Of(high: true, v => v > upper).Concat(Of(high: false, v => v < lower));
        return [.. found.OrderByDescending(a => a.Area).ThenBy(a => a.Vertices[0])];

        IEnumerable<DeviatingArea> Of(bool high, Func<double, bool> beyond)
        {
            foreach (var group in beside.Groups(Enumerable.Range(0, values.Length).Where(v => beyond(values[v]))))
            {
                var area = group.Sum(beside.AreaOf);
                if (area >= smallest)
                {
                    var worst = high ? group.MaxBy(v => values[v]) : group.MinBy(v => values[v]);
                    yield return new(high, area, values[worst], worst, [.. group]);
                }
            }
        }
    }

    /// <summary>The share of the area within each of several bands at once; no data counts as in none.</summary>
    public static IReadOnlyList<double> Shares(double[] values, double[] areas, IReadOnlyList<(double Lower, double Upper)> bands)
    {
        double total = 0;
        var within = new double[bands.Count];
        for (var v = 0; v < values.Length; v++)
        {
            total += areas[v];
            for (var k = 0; k < within.Length; k++)
            {
                within[k] += values[v] >= bands[k].Lower && values[v] <= bands[k].Upper ? areas[v] : 0;
            }
        }

        return [.. within.Select(w => total > 0 ? w / total : 0)];
    }
}
