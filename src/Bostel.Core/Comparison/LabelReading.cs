using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Comparison;

/// <summary>
/// What a label reads on one piece: the deviation of the measured scan vertex nearest to its place. Null: none lies near enough.
/// </summary>
/// <param name="Point">The label's place, nominal coordinates, mm.</param>
/// <param name="Value">Deviation, mm.</param>
/// <param name="At">The vertex it was read at, nominal coordinates, mm.</param>
public sealed record LabelReading(double[] Point, double? Value, double[]? At)
{
    /// <summary>Reads all labels in one pass over the scan.</summary>
    /// <param name="reach">Farthest the vertex may lie from the label's place, mm.</param>
    public static IReadOnlyList<LabelReading> Read(
        IReadOnlyList<double[]> places, TriangleMesh scan, RigidTransform transform, DeviationMap map, double reach)
    {
        var readings = new LabelReading[places.Count];
        var back = transform.Inverse();
        Parallel.For(0, places.Count, i =>
        {
            var place = back.Apply(Vector3D.FromArray(places[i]));
            var (nearest, square) = (-1, reach * reach);
            for (var v = 0; v < scan.MeasuredVertexCount; v++)
            {
                var distance = (scan.Vertex(v) - place).LengthSquared;
                if (distance < square && !double.IsNaN(map.Values[v]))
                {
                    (nearest, square) = (v, distance);
                }
            }

            readings[i] = nearest < 0
                ? new(places[i], null, null)
                : new(places[i], map.Values[nearest], transform.Apply(scan.Vertex(nearest)).ToArray());
        });
        return readings;
    }
}
