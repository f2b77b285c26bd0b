using Bostel.Core.Geometry;

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
