using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Alignment;

/// <summary>
/// A coordinate system built on geometry: an origin, one axis exactly along a direction, a second one as near as possible to another.
/// </summary>
public static class AxisSystem
{
    /// <param name="origin">Becomes the origin.</param>
    /// <param name="first">Becomes the axis named by <paramref name="firstAxis"/>.</param>
    /// <param name="second">Lies in the half plane of the first axis and the one named by <paramref name="secondAxis"/>.</param>
    /// <param name="firstAxis">x, y or z, with - before it for the opposite sense.</param>
    /// <param name="secondAxis">Another of them.</param>
    /// <returns>From the geometry's coordinates to those of the system.</returns>
    /// <exception cref="BadInputException">The directions are parallel, or the axes the same.</exception>
    public static RigidTransform From(Vector3D origin, Vector3D first, Vector3D second, string firstAxis, string secondAxis)
    {
        var (i, a) = Axis(firstAxis, first);
        var (j, b) = Axis(secondAxis, second);
        if (i == j)
        {
            throw new BadInputException($"axes: {firstAxis} and {secondAxis} are the same axis.");
        }

        b -= b.Dot(a) * a;
        if (!(b.Length > 1e-6))
        {
            throw new UndeterminedException("axes: the two directions are parallel: the turn about them stays free.");
        }

        var axes = new Vector3D[3];
        (axes[i], axes[j]) = (a, b.Normalized());
        axes[3 - i - j] = (j == (i + 1) % 3 ? 1 : -1) * a.Cross(axes[j]);
        return RigidTransform.FromAxes(axes[0], axes[1], axes[2], origin).Inverse();
    }

    /// <summary>
    /// Laid through shapes: the first axis along one, the second towards another, the origin on up to three. What no shape decides stays as
    /// it is: directions as the geometry has them, and the origin at a given place.
    /// </summary>
    /// <param name="first">Its direction, a plane's normal or an axis, becomes the first axis.</param>
    /// <param name="second">Its direction; where that lies along the first, its place as seen from the origin.</param>
    /// <param name="origin">Planes, axes and points that the origin lies on; by least squares where they contradict.</param>
    /// <param name="near">What of the origin they leave open is as here.</param>
    /// <returns>From the geometry's coordinates to those of the system.</returns>
    /// <exception cref="BadInputException">A shape has neither direction nor place, or the axes are the same.</exception>
    public static RigidTransform Through(
        Shape? first, string firstAxis, Shape? second, string secondAxis, IReadOnlyList<Shape> origin, Vector3D near)
    {
        var at = Meeting(origin, near);
        var a = first is null ? Own(firstAxis) : NominalFaceBuilder.DirectionOf(first)
            ?? throw new BadInputException($"axes: a {first.Kind} has no direction for the first axis.");
        if (second is not null)
        {
            return From(at, a, Towards(second, a, at), firstAxis, secondAxis);
        }

        // The turn about the first axis stays: as near as can be to what the axes are now.
        var kept = Own(secondAxis);
        var (i, _) = Axis(firstAxis, a);
        var (j, _) = Axis(secondAxis, kept);
        return i != j && a.Cross(kept).Length < 0.1
            ? From(at, a, Own("xyz"[3 - i - j].ToString()), firstAxis, "xyz"[3 - i - j].ToString())
            : From(at, a, kept, firstAxis, secondAxis);

        static Vector3D Own(string axis)
        {
            var (k, unit) = Axis(axis, Vector3D.UnitX);
            return unit.X * (k == 0 ? Vector3D.UnitX : k == 1 ? Vector3D.UnitY : Vector3D.UnitZ);
        }
    }

    /// <summary>Motions along the axes of which an origin on some shapes leaves a share free.</summary>
    internal static IEnumerable<Motion> FreeShifts(IReadOnlyList<Shape> origin)
    {
        var free = Principal(origin, Vector3D.Zero).Where(p => !p.Held).Select(p => p.Direction.ToArray()).ToList();
        return Enum.GetValues<Motion>().Where(m =>
            m >= Motion.ShiftX && free.Any(d => Math.Abs(d[m - Motion.ShiftX]) > FreeMotions.Leaning));
    }

    /// <summary>The point on all of some planes, axes and points: of those that are, the one nearest to a place (least norm).</summary>
    private static Vector3D Meeting(IReadOnlyList<Shape> shapes, Vector3D near) => Principal(shapes, near).Where(p => p.Held)
        .Aggregate(near, (at, p) => at + (p.Off * p.Direction));

    /// <summary>Three directions at right angles, how far along each a place lies from shapes, and whether they hold it there.</summary>
    private static IEnumerable<(Vector3D Direction, double Off, bool Held)> Principal(IReadOnlyList<Shape> shapes, Vector3D from)
    {
        var (normal, right) = (new double[3, 3], Vector3D.Zero);
        foreach (var (n, place) in shapes.SelectMany(Constraints))
        {
            var row = n.ToArray();
            right += n.Dot(place - from) * n;
            for (var i = 0; i < 9; i++)
            {
                normal[i / 3, i % 3] += row[i / 3] * row[i % 3];
            }
        }

        var (values, vectors) = SymmetricEigen.Solve(normal);
        return Enumerable.Range(0, 3).Select(k =>
        {
            var direction = new Vector3D(vectors[0, k], vectors[1, k], vectors[2, k]);
            return (direction, direction.Dot(right) / values[k], values[k] > FreeMotions.Negligible);
        });
    }

    private static IEnumerable<(Vector3D Normal, Vector3D Place)> Constraints(Shape shape)
    {
        if (shape is Plane3D plane)
        {
            return [(plane.Normal, plane.Point)];
        }

        if (PointOf(shape) is { } point)
        {
            return [(Vector3D.UnitX, point), (Vector3D.UnitY, point), (Vector3D.UnitZ, point)];
        }

        if (NominalFaceBuilder.AxisOf(shape) is not { } axis)
        {
            throw new BadInputException($"axes: a {shape.Kind} has no place for the origin.");
        }

        var across = axis.Direction.Perpendicular();
        return [(across, axis.Point), (axis.Direction.Cross(across), axis.Point)];
    }

    private static Vector3D Towards(Shape second, Vector3D first, Vector3D origin)
    {
        if (NominalFaceBuilder.DirectionOf(second) is { } direction
            && direction.Normalized().Cross(first.Normalized()).LengthSquared > FreeMotions.Negligible)
        {
            return direction;
        }

        return PointOf(second) is { } point ? point - origin
            : NominalFaceBuilder.AxisOf(second) is { } axis ? axis.Project(origin) - origin
            : second is Plane3D
                ? throw new UndeterminedException("axes: the two directions are parallel: the turn about them stays free.")
                : throw new BadInputException($"axes: a {second.Kind} has neither direction nor place for the second axis.");
    }

    /// <summary>The one point that a shape singles out.</summary>
    private static Vector3D? PointOf(Shape shape) => shape switch
    {
        Sphere3D s => s.Center,
        Circle3D s => s.Center,
        Slot3D s => s.Center,
        _ => null,
    };

    private static (int Index, Vector3D Direction) Axis(string name, Vector3D direction)
    {
        if (!(direction.LengthSquared > 0))
        {
            throw new BadInputException("axes: a direction has no length.");
        }

        var index = "xyz".IndexOf(name.TrimStart('-'), StringComparison.Ordinal);
        return name.TrimStart('-').Length == 1 && index >= 0
            ? (index, (name[0] == '-' ? -1 : 1) * direction.Normalized())
            : throw new BadInputException($"axes: '{name}' is not x, y or z.");
    }
}
