using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// Points sorted by the axis their normal lies nearest to, either way, so that one can ask for a point on one side of a sheet although one
/// of its other side lies nearer. Opposite normals never share an axis.
/// </summary>
internal sealed class SidedPoints
{
    /// <summary>
    /// A direction looks among the points of every axis it makes at most 72° with: those of its own direction make at most 55°.
    /// </summary>
    private const double LeastCosine = 0.3;

    private static readonly Vector3D[] Axes =
        [Vector3D.UnitX, -Vector3D.UnitX, Vector3D.UnitY, -Vector3D.UnitY, Vector3D.UnitZ, -Vector3D.UnitZ];
    private readonly PointTree?[] _trees;
    private readonly bool _sided;

    /// <param name="points">3·N coordinates.</param>
    /// <param name="normalOf">Normal of a point; null: none is known, and all sides are one.</param>
    public SidedPoints(double[] points, Func<int, Vector3D>? normalOf)
    {
        _sided = normalOf is not null;
        if (normalOf is null)
        {
            _trees = [new(points)];
            return;
        }

        var parts = Axes.Select(_ => new List<double>()).ToArray();
        for (var i = 0; i < points.Length / 3; i++)
        {
            var n = normalOf(i);
            var axis = Enumerable.Range(0, Axes.Length).MaxBy(a => n.Dot(Axes[a]));
            parts[axis].AddRange(points.AsSpan(3 * i, 3));
        }

        _trees = [.. parts.Select(p => p.Count == 0 ? null : new PointTree([.. p]))];
    }

    /// <summary>Whether a point lies within reach whose normal agrees with a direction.</summary>
    public bool Any(Vector3D place, Vector3D direction, double reach)
    {
        for (var axis = 0; axis < _trees.Length; axis++)
        {
            if (_trees[axis] is { } tree && (!_sided || direction.Dot(Axes[axis]) >= LeastCosine) && tree.Nearest(place, reach) >= 0)
            {
                return true;
            }
        }

        return false;
    }
}
