using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>A line of a surface along its axis: heights, and how far it lies off the associated surface there; mm.</summary>
internal sealed record SurfaceLine(double[] Heights, double[] Off)
{
    /// <summary>Width between the two nearest parallel lines that hold it.</summary>
    public double Zone() => ExtremalFit.LineInPlane(Flat(), Criterion.MinimumZone, InPlane).Form;

    /// <summary>What it is about the straight line that fits it best.</summary>
    public double[] Straightened() => LeastSquares.Fit("line", Flat(), InPlane).Residuals;

    private static Known InPlane => new() { Normal = Vector3D.UnitZ };

    private double[] Flat() => [.. Heights.SelectMany((h, i) => new[] { h, Off[i], 0 })];
}

/// <summary>Lines of a round surface along its axis; of a scan the points in narrow sectors round it.</summary>
internal static class SurfaceLines
{
    private const int PointsOfLine = 40, Most = 36, Fewest = 8;

    /// <param name="points">3·N coordinates.</param>
    /// <param name="off">Distance of each from the associated surface.</param>
    /// <exception cref="BadInputException">The points are too few for a line.</exception>
    public static IReadOnlyList<SurfaceLine> Of(double[] points, double[] off, Line3D axis)
    {
        var (u, v) = (axis.Direction.Perpendicular(), axis.Direction.Cross(axis.Direction.Perpendicular()));
        var count = Math.Clamp(off.Length / PointsOfLine, 1, Most);
        var lines = Enumerable.Range(0, off.Length).Select(i => (I: i, D: Vector3D.At(points, i) - axis.Point))
            .GroupBy(p => Math.Min(count - 1, (int)(count * (Math.Atan2(p.D.Dot(v), p.D.Dot(u)) + Math.PI) / (2 * Math.PI))))
            .OrderBy(g => g.Key).Where(g => g.Count() >= Fewest)
            .Select(g => new SurfaceLine([.. g.Select(p => p.D.Dot(axis.Direction))], [.. g.Select(p => off[p.I])])).ToList();
        return lines.Count > 0 ? lines : throw new BadInputException("Its points are too few to tell lines along its axis.");
    }
}
