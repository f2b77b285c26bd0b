namespace Bostel.Core.Geometry;

/// <summary>
/// A proper rigid motion p ↦ R p + t. Rows of R are stored in order; the 4×4 form is row-major with the translation in the last column.
/// </summary>
public readonly record struct RigidTransform(
    double R00, double R01, double R02, double R10, double R11, double R12, double R20, double R21, double R22, Vector3D Translation)
{
    public static readonly RigidTransform Identity = new(1, 0, 0, 0, 1, 0, 0, 0, 1, Vector3D.Zero);

    public Vector3D Rotate(Vector3D v) => new(
        (R00 * v.X) + (R01 * v.Y) + (R02 * v.Z),
        (R10 * v.X) + (R11 * v.Y) + (R12 * v.Z),
        (R20 * v.X) + (R21 * v.Y) + (R22 * v.Z));

    public Vector3D Apply(Vector3D p) => Rotate(p) + Translation;

    /// <summary>Points as 3·N coordinates, moved; the given ones stay.</summary>
    public double[] ApplyAll(double[] points)
    {
        var moved = new double[points.Length];
        for (var i = 0; i < points.Length; i += 3)
        {
            (moved[i], moved[i + 1], moved[i + 2]) = Apply(new Vector3D(points[i], points[i + 1], points[i + 2]));
        }

        return moved;
    }

    /// <summary>this ∘ first: applies <paramref name="first"/>, then this.</summary>
    public RigidTransform After(RigidTransform first)
    {
        var c0 = Rotate(new(first.R00, first.R10, first.R20));
        var c1 = Rotate(new(first.R01, first.R11, first.R21));
        var c2 = Rotate(new(first.R02, first.R12, first.R22));
        return new(c0.X, c1.X, c2.X, c0.Y, c1.Y, c2.Y, c0.Z, c1.Z, c2.Z, Apply(first.Translation));
    }

    public RigidTransform Inverse()
    {
        var r = new RigidTransform(R00, R10, R20, R01, R11, R21, R02, R12, R22, Vector3D.Zero);
        return r with { Translation = -r.Rotate(Translation) };
    }

    /// <summary>Angle of the rotation part, in radians (well conditioned for small angles).</summary>
    public double RotationAngle()
    {
        var axis = new Vector3D(R21 - R12, R02 - R20, R10 - R01);
        return Math.Atan2(axis.Length, R00 + R11 + R22 - 1);
    }

    /// <summary>Axis times angle of the rotation part, rad, for angles below π.</summary>
    public Vector3D RotationVector()
    {
        var axis = new Vector3D(R21 - R12, R02 - R20, R10 - R01);
        var length = axis.Length;
        return length == 0 ? Vector3D.Zero : RotationAngle() / length * axis;
    }

    public static RigidTransform FromTranslation(Vector3D t) => Identity with { Translation = t };

    /// <summary>Rotation by an angle (radians) about an axis through the origin (Rodrigues).</summary>
    public static RigidTransform FromAxisAngle(Vector3D axis, double angle)
    {
        var (x, y, z) = axis.Normalized();
        var (s, c) = Math.SinCos(angle);
        var k = 1 - c;
        return new(
            c + (x * x * k), (x * y * k) - (z * s), (x * z * k) + (y * s),
            (y * x * k) + (z * s), c + (y * y * k), (y * z * k) - (x * s),
            (z * x * k) - (y * s), (z * y * k) + (x * s), c + (z * z * k), Vector3D.Zero);
    }

    /// <summary>Rotation by a rotation vector about a point (used by Gauss–Newton updates), then a translation.</summary>
    public static RigidTransform FromTwist(Vector3D rotation, Vector3D translation, Vector3D about)
    {
        var angle = rotation.Length;
        var r = angle > 0 ? FromAxisAngle(rotation, angle) : Identity;
        return r with { Translation = about - r.Rotate(about) + translation };
    }

    /// <summary>The rotation whose columns are the given orthonormal axes.</summary>
    public static RigidTransform FromAxes(Vector3D x, Vector3D y, Vector3D z, Vector3D origin) =>
        new(x.X, y.X, z.X, x.Y, y.Y, z.Y, x.Z, y.Z, z.Z, origin);

    /// <summary>The smallest rotation that turns unit vector a into unit vector b.</summary>
    public static RigidTransform Between(Vector3D a, Vector3D b)
    {
        var axis = a.Cross(b);
        var length = axis.Length;
        return length < 1e-14
            ? (a.Dot(b) > 0 ? Identity : FromAxisAngle(a.Perpendicular(), Math.PI))
            : FromAxisAngle(axis, Math.Atan2(length, a.Dot(b)));
    }

    /// <summary>Removes drift from many compositions: Gram–Schmidt on the rows.</summary>
    public RigidTransform Orthonormalized()
    {
        var x = new Vector3D(R00, R01, R02).Normalized();
        var y = new Vector3D(R10, R11, R12);
        y = (y - (x.Dot(y) * x)).Normalized();
        var z = x.Cross(y);
        return new(x.X, x.Y, x.Z, y.X, y.Y, y.Z, z.X, z.Y, z.Z, Translation);
    }

    public double[] ToArray() =>
        [R00, R01, R02, Translation.X, R10, R11, R12, Translation.Y, R20, R21, R22, Translation.Z, 0, 0, 0, 1];

    /// <summary>Reads 16 row-major numbers.</summary>
    /// <exception cref="BadInputException">Not 16 numbers, or not a proper rigid motion.</exception>
    public static RigidTransform FromArray(IReadOnlyList<double> m)
    {
        if (m.Count != 16 || m.Any(v => !double.IsFinite(v)))
        {
            throw new BadInputException("transform: expected 16 finite numbers, row-major.");
        }

        var t = new RigidTransform(m[0], m[1], m[2], m[4], m[5], m[6], m[8], m[9], m[10], new(m[3], m[7], m[11]));
        var x = new Vector3D(t.R00, t.R01, t.R02);
        var y = new Vector3D(t.R10, t.R11, t.R12);
        var z = new Vector3D(t.R20, t.R21, t.R22);
        var determinant = x.Cross(y).Dot(z);
        var skew = Math.Max(Math.Abs(x.Dot(y)), Math.Max(Math.Abs(y.Dot(z)), Math.Abs(z.Dot(x))));
        return Math.Abs(determinant - 1) > 1e-6 || skew > 1e-6 || Math.Abs(x.LengthSquared - 1) > 1e-6
            ? throw new BadInputException("transform: the 3×3 part is not a rotation (scale, shear or mirror found).")
            : t.Orthonormalized();
    }
}
