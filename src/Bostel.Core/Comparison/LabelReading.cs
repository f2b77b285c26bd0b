using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Comparison;

/// <summary>
/// What a label reads on one piece: the value of the map at the measured vertex nearest to its place, or the mean around it. Null: none
/// lies near enough.
/// </summary>
/// <param name="Point">The label's place, nominal coordinates, mm.</param>
/// <param name="Value">Deviation, mm; of another map in its unit.</param>
/// <param name="At">The vertex nearest to the place, nominal coordinates, mm.</param>
/// <param name="Points">How many vertices it is the mean of.</param>
public sealed record LabelReading(double[] Point, double? Value, double[]? At, int Points)
{
    /// <summary>Reads all labels, each in one pass over the map.</summary>
    /// <param name="places">With the distance within which each reads the mean; null: the nearest vertex alone.</param>
    /// <param name="mesh">What the map lies on, and by which motion that lies on the nominal.</param>
    /// <param name="values">Of the map, one a vertex; what is not finite is not read.</param>
    /// <param name="areas">Weights of the vertices.</param>
    /// <param name="reach">Farthest the nearest vertex may lie from the label's place, mm.</param>
    public static IReadOnlyList<LabelReading> Read(
        IReadOnlyList<(double[] Point, double? Radius)> places, TriangleMesh mesh, RigidTransform transform, double[] values,
        double[] areas, double reach)
    {
        var readings = new LabelReading[places.Count];
        var back = transform.Inverse();
        Parallel.For(0, places.Count, i =>
        {
            var (point, radius) = places[i];
            var place = back.Apply(Vector3D.FromArray(point));
            var (nearest, square, within) = (-1, reach * reach, radius * radius ?? -1);
            var (sum, weight, count) = (0.0, 0.0, 0);
            for (var v = 0; v < mesh.MeasuredVertexCount; v++)
            {
                var distance = (mesh.Vertex(v) - place).LengthSquared;
                if (!double.IsFinite(values[v]))
                {
                    continue;
                }

                if (distance < square)
                {
                    (nearest, square) = (v, distance);
                }

                if (distance <= within)
                {
                    (sum, weight, count) = (sum + (areas[v] * values[v]), weight + areas[v], count + 1);
                }
            }

            readings[i] = nearest < 0 ? new(point, null, null, 0)
                : new(point, weight > 0 ? sum / weight : values[nearest], transform.Apply(mesh.Vertex(nearest)).ToArray(),
                    Math.Max(1, count));
        });
        return readings;
    }
}
