using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>How far apart the points of a cloud lie.</summary>
public static class PointSpacing
{
    /// <summary>Points looked at: the median of so many distances scatters by less than 3 %.</summary>
    private const int Sample = 2000;

    /// <summary>Points in one place that are seen past, to the next one beside them.</summary>
    private const int Repeated = 8;

    /// <summary>
    /// Median distance of points to the nearest that is not in the same place, mm, over a sample; that of points spread evenly over the
    /// diagonal's square when there is none.
    /// </summary>
    /// <param name="coordinates">3·N doubles.</param>
    /// <param name="tree">The same points.</param>
    public static double Median(double[] coordinates, PointTree tree)
    {
        var n = coordinates.Length / 3;
        var distances = new List<double>();
        Span<int> found = stackalloc int[Repeated];
        Span<double> squares = stackalloc double[Repeated];
        for (var i = 0; i < n; i += Math.Max(1, n / Sample))
        {
            var count = tree.Nearest(Vector3D.At(coordinates, i), found, squares);
            var at = squares[..count].IndexOfAnyExcept(0.0);
            if (at >= 0)
            {
                distances.Add(Math.Sqrt(squares[at]));
            }
        }

        distances.Sort();
        return distances.Count > 0
            ? distances[distances.Count / 2]
            : Box3D.Of(Enumerable.Range(0, n).Select(i => Vector3D.At(coordinates, i))).Diagonal / Math.Sqrt(Math.Max(1, n));
    }
}
