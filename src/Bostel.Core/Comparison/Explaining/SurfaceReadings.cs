using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>One place of a surface.</summary>
/// <param name="Normal">Outward, of the nominal, of length 1.</param>
/// <param name="Face">Of the nominal.</param>
/// <param name="Value">How far it is off along the normal, mm.</param>
/// <param name="Weight">The area it stands for.</param>
/// <param name="Triangle">Of the nominal, at the place; −1: not known.</param>
public readonly record struct SurfaceReading(Vector3D Point, Vector3D Normal, int Face, double Value, double Weight, int Triangle = -1);

/// <summary>What a scan tells of the errors of a part's surface, place by place.</summary>
internal static class SurfaceReadings
{
    /// <summary>A scan rounds edges over about so many spacings of its points: there it tells of the edge and not of the faces.</summary>
    private const double EdgeSpacings = 1.5;

    /// <summary>Measured vertices with a counterpart, those beside the borders of faces left out.</summary>
    /// <param name="transform">Scan to nominal.</param>
    /// <param name="areas">Weights of the scan's vertices.</param>
    /// <param name="spacing">Of its points, mm.</param>
    public static List<SurfaceReading> Of(
        TriangleMesh scan, RigidTransform transform, DeviationMap deviations, double[] areas, double spacing, NominalModel nominal)
    {
        var border = FaceBorder.OfAll(nominal);
        var margin = EdgeSpacings * spacing;
        var found = new SurfaceReading[scan.VertexCount];
        Parallel.For(0, (found.Length + 4095) / 4096, chunk =>
        {
            for (var v = 4096 * chunk; v < Math.Min(found.Length, 4096 * (chunk + 1)); v++)
            {
                var triangle = deviations.Triangles[v];
                if (triangle < 0 || !double.IsFinite(deviations.Values[v]) || !(areas[v] > 0))
                {
                    continue;
                }

                var p = transform.Apply(scan.Vertex(v));
                if (border is null || !border.Closest(p, margin).Found)
                {
                    found[v] = new(
                        p, NormalAt(nominal, triangle, p), nominal.FaceOfTriangle[triangle], deviations.Values[v], areas[v], triangle);
                }
            }
        });
        return [.. found.Where(r => r.Weight > 0)];
    }

    /// <summary>
    /// Readings put back by what the whole part was moved, as far as that is known: what it moves along a round surface then reads across
    /// it no more, and terms of first order hold (a step of Gauss and Newton).
    /// </summary>
    /// <param name="displacement">Of the whole part at a place.</param>
    public static List<SurfaceReading> PutBack(
        IReadOnlyList<SurfaceReading> readings, NominalModel nominal, Func<Vector3D, Vector3D> displacement)
    {
        var back = new SurfaceReading[readings.Count];
        Parallel.For(0, (back.Length + 4095) / 4096, chunk =>
        {
            for (var i = 4096 * chunk; i < Math.Min(back.Length, 4096 * (chunk + 1)); i++)
            {
                var r = readings[i];
                var by = displacement(r.Point);
                var place = r.Point - by;
                if (r.Triangle >= 0 && Distance(nominal, r.Triangle, place) is { } distance)
                {
                    var normal = NormalAt(nominal, r.Triangle, place);
                    back[i] = r with { Point = place, Normal = normal, Value = distance + by.Dot(normal) };
                }
                else
                {
                    back[i] = r;
                }
            }
        });
        return [.. back];
    }

    /// <summary>Signed distance from the exact surface of a triangle's face, positive outward; null where none is known.</summary>
    public static double? Distance(NominalModel nominal, int triangle, Vector3D p) =>
        nominal.ExactFoot(triangle, p) is var (foot, normal) ? (p - foot).Dot(normal) : null;

    public static Vector3D NormalAt(NominalModel nominal, int triangle, Vector3D p)
    {
        if (nominal.ExactFoot(triangle, p) is { Normal: { LengthSquared: > 0.5 } exact })
        {
            return exact;
        }

        var (a, b, c) = nominal.Mesh.Triangle(triangle);
        return (b - a).Cross(c - a).Normalized();
    }
}
