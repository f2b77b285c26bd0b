using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>What a construction takes: a shape, and where along or on it it was measured.</summary>
internal sealed record Situated(string Name, Shape Shape, Vector3D At)
{
    /// <summary>Directions nearer than this count as parallel, rad: what follows from them would be more error than place.</summary>
    public const double Parallel = 0.02;

    /// <summary>Cosine of 84°: less is taken for square, however the measured faces lean.</summary>
    private const double NearlySquare = 0.1;

    public Plane3D? Plane => Shape as Plane3D;

    public Line3D? Axis => NominalFaceBuilder.AxisOf(Shape);

    /// <summary>The one point that the shape singles out.</summary>
    public Vector3D? Place => Shape switch
    {
        Sphere3D s => s.Center,
        Circle3D s => s.Center,
        Slot3D s => s.Center,
        Torus3D s => s.Center,
        Cone3D s => s.Apex,
        _ => null,
    };

    /// <summary>A point; it is a sphere without size.</summary>
    public static Sphere3D Point(Vector3D at) => new(at, 0);

    public static string Word(Shape shape) => shape switch
    {
        Sphere3D { Radius: 0 } => "point",
        Line3D => "axis",
        _ => shape.Kind,
    };

    /// <summary>
    /// The places of all; of axes, when one plane is among them, where they pierce it. Null when something has no place.
    /// </summary>
    public static Vector3D[]? Places(IReadOnlyList<Situated> from)
    {
        var planes = from.Where(f => f.Plane is not null).ToList();
        if (planes.Count > 1)
        {
            return null;
        }

        var places = from.Where(f => f.Plane is null).Select(f => planes.Count == 1 ? f.Axis?.Meet(planes[0].Plane!) : f.Place).ToArray();
        return places.All(p => p is not null) ? [.. places.Select(p => p!.Value)] : null;
    }

    /// <summary>
    /// Directions turned to the side of the first one. One square to it is turned away, so that two faces of a corner are bisected into
    /// the material: at 90° itself, where most faces stand, the least noise would decide.
    /// </summary>
    public static IEnumerable<Vector3D> Alike(IReadOnlyList<Vector3D> directions) =>
        directions.Select(d => d.Dot(directions[0]) < NearlySquare * d.Length * directions[0].Length ? -d : d);
}
