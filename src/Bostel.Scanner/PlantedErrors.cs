using Bostel.Core;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Scanner;

/// <summary>Where a point of the nominal lies on the part as made.</summary>
internal static class PlantedErrors
{
    /// <exception cref="BadInputException">The kind is not known, or lacks its vector.</exception>
    public static Vector3D Deform(Vector3D p, Vector3D normal, NominalFace face, IReadOnlyList<PlantedError> errors, Box3D box)
    {
        var q = p;
        foreach (var error in errors)
        {
            if (error.Faces.Length > 0 && !error.Faces.Contains(face.Id))
            {
                continue;
            }

            q += error.Kind switch
            {
                "offset" => error.Value * normal,
                "radius" => (face.Internal ? -error.Value : error.Value) * normal,
                "shift" => Needed(error),
                "tilt" => RigidTransform.FromAxisAngle(Needed(error), error.Value * Math.PI / 180)
                    .Rotate(p - face.Center) - (p - face.Center),
                "bow" => error.Value * Math.Max(0, 1 - ((p - face.Center).LengthSquared * Math.PI / Math.Max(1e-9, 1.5 * face.Area)))
                    * normal,
                "worn" => -error.Value * (0.5 + (0.5 * Math.Sin(0.35 * p.X) * Math.Sin((0.29 * p.Y) + (0.31 * p.Z)))) * normal,
                "warp" => Warp(p, box, error.Value),
                "twist" => Twist(p, box, error.Value),
                "shrunk" => Shrunk(p - box.Center, error),
                "missing" => Vector3D.Zero,
                _ => throw new BadInputException($"errors: the kind '{error.Kind}' is not known."),
            };
        }

        return q;
    }

    /// <summary>A parabola along the longest side: nothing in the middle, the value at both ends, across the shortest side.</summary>
    private static Vector3D Warp(Vector3D p, Box3D box, double value)
    {
        var sizes = box.Size.ToArray();
        var (along, across) = (Array.IndexOf(sizes, sizes.Max()), Array.LastIndexOf(sizes, sizes.Min()));
        var t = 2 * (p[along] - box.Center[along]) / sizes[along];
        var lift = value * t * t;
        return new(across == 0 ? lift : 0, across == 1 ? lift : 0, across == 2 ? lift : 0);
    }

    /// <summary>Turned about the longest side, from nothing in the middle to half the angle (degrees) at either end.</summary>
    private static Vector3D Twist(Vector3D p, Box3D box, double degrees)
    {
        var sizes = box.Size.ToArray();
        var along = Array.IndexOf(sizes, sizes.Max());
        var axis = along == 0 ? Vector3D.UnitX : along == 1 ? Vector3D.UnitY : Vector3D.UnitZ;
        var r = p - box.Center;
        var angle = degrees * Math.PI / 180 * r[along] / sizes[along];
        return RigidTransform.FromAxisAngle(axis, angle).Rotate(r) - r;
    }

    private static Vector3D Shrunk(Vector3D r, PlantedError error) => error.Vector is { Length: 3 } v
        ? -error.Value / 100 * new Vector3D(v[0] * r.X, v[1] * r.Y, v[2] * r.Z)
        : -error.Value / 100 * r;

    private static Vector3D Needed(PlantedError error) =>
        error.Vector is { Length: 3 } v
            ? Vector3D.FromArray(v)
            : throw new BadInputException($"errors: '{error.Kind}' needs a vector of three numbers.");
}
