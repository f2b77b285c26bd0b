using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>What is known before a fit: a start, the plane of a flat feature, and the parts of the feature that are held fixed.</summary>
public sealed record Known
{
    public static readonly Known Nothing = new();

    /// <summary>A feature near the sought one; saves the search for a start.</summary>
    public Shape? Start { get; init; }

    /// <summary>Normal of the known plane of a circle, slot or line; the points are projected along it.</summary>
    public Vector3D? Normal { get; init; }

    /// <summary>Out of the material, for tangent planes and lines.</summary>
    public Vector3D? Outward { get; init; }

    /// <summary>Outer tangent: the sum of the distances is least; otherwise the greatest distance.</summary>
    public bool LeastSum { get; init; } = true;

    /// <summary>Held: the normal of a plane, the direction of a line, axis or slot.</summary>
    public Vector3D? Direction { get; init; }

    /// <summary>Held: the radius of a circle, sphere or cylinder, the tube radius of a torus, half the width of a slot. mm.</summary>
    public double? Radius { get; init; }

    /// <summary>Held: the angle between axis and generator of a cone, rad.</summary>
    public double? HalfAngle { get; init; }

    /// <summary>
    /// Held: the axis of a cylinder, cone or torus is this line; the centre of a sphere lies on it, that of a circle where it meets the
    /// plane.
    /// </summary>
    public Line3D? On { get; init => field = value is null ? null : value with { Direction = value.Direction.Normalized() }; }

    /// <summary>Largest root mean square distance at which a fit is of use, mm: one that will not come down to it is given up.</summary>
    internal double Useful { get; init; } = double.PositiveInfinity;

    /// <summary>The direction of the axis, whether held itself or as that of the line.</summary>
    internal Vector3D? AxisDirection => On?.Direction ?? Direction?.Normalized();

    /// <exception cref="BadInputException">Something held does not exist for the kind, or is no number.</exception>
    internal void Check(string kind)
    {
        Refuse(Direction is not null && kind is ("circle" or "sphere"), "direction", kind);
        Refuse(Radius is not null && kind is ("plane" or "line" or "cone"), "radius", kind);
        Refuse(HalfAngle is not null && kind != "cone", "half angle", kind);
        Refuse(On is not null && kind is ("plane" or "line" or "slot"), "axis to lie on", kind);
        if (Radius is { } r && !(double.IsFinite(r) && r > 0))
        {
            throw new BadInputException("radius: a held radius must be greater than 0.");
        }

        if (HalfAngle is { } a && !(a > 0 && a < Math.PI / 2))
        {
            throw new BadInputException("half angle: a held half angle must lie between 0 and 90°.");
        }

        foreach (var (name, v) in ((string, Vector3D?)[])[("normal", Normal), ("direction", Direction), ("outward", Outward),
            ("axis", On?.Direction)])
        {
            if (v is { } given && !(given.LengthSquared > 0 && double.IsFinite(given.LengthSquared)))
            {
                throw new BadInputException($"{name}: is not a direction.");
            }
        }

        static void Refuse(bool when, string what, string kind)
        {
            if (when)
            {
                throw new BadInputException($"{what}: cannot be held for a {kind}.");
            }
        }
    }
}
