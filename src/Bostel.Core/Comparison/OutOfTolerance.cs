using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Comparison;

/// <summary>A connected area of a scan whose deviations all lie beyond one limit.</summary>
/// <param name="High">Above the upper limit; below the lower otherwise.</param>
/// <param name="Area">Measured area of its vertices, mm².</param>
/// <param name="Extreme">The deviation farthest beyond, mm.</param>
/// <param name="At">Where that is, in the scan's coordinates.</param>
/// <param name="Vertices">Its vertices, ascending.</param>
public sealed record DeviatingArea(bool High, double Area, double Extreme, Vector3D At, int[] Vertices);

/// <summary>Finds where a scan is out of tolerance as areas, not as a cloud of single points.</summary>
public static class OutOfTolerance
{
    /// <summary>Areas of vertices beyond a limit that hang together over edges of the scan, largest first.</summary>
    /// <param name="values">Deviations, one a vertex, NaN for no data.</param>
    /// <param name="smallest">Areas below this (mm²) are left out: single noisy points.</param>
    public static IReadOnlyList<DeviatingArea> Areas(TriangleMesh scan, double[] values, double lower, double upper, double smallest = 0)
    {
        var side = new sbyte[values.Length];
        for (var v = 0; v < values.Length; v++)
        {
            side[v] = (sbyte)(values[v] > upper ? 1 : values[v] < lower ? -1 : 0);
        }

        var found = new List<DeviatingArea>();
        var seen = new bool[values.Length];
        var queue = new Queue<int>();
        for (var seed = 0; seed < values.Length; seed++)
        {
            if (side[seed] == 0 || seen[seed])
            {
                continue;
            }

            var members = new List<int>();
            seen[seed] = true;
            queue.Enqueue(seed);
            while (queue.TryDequeue(out var v))
            {
                members.Add(v);
                foreach (var corner in scan.Rings.Of(v))
                {
                    var next = MeshTopology.Next(corner);
                    foreach (var n in (ReadOnlySpan<int>)[scan.Indices[next], scan.Indices[MeshTopology.Next(next)]])
                    {
                        if (!seen[n] && side[n] == side[seed])
                        {
                            seen[n] = true;
                            queue.Enqueue(n);
                        }
                    }
                }
            }

            var area = members.Sum(v => scan.VertexAreas[v]);
            if (area >= smallest)
            {
                members.Sort();
                var worst = side[seed] > 0 ? members.MaxBy(v => values[v]) : members.MinBy(v => values[v]);
                found.Add(new(side[seed] > 0, area, values[worst], scan.Vertex(worst), [.. members]));
            }
        }

        return [.. found.OrderByDescending(a => a.Area).ThenBy(a => a.Vertices[0])];
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
