using System.Runtime.CompilerServices;
using System.Text.Json.Serialization;

namespace Bostel.Core.Geometry;

/// <summary>A point or direction in space, double precision. Lengths are millimetres.</summary>
public readonly record struct Vector3D(double X, double Y, double Z)
{
    public static readonly Vector3D Zero = new(0, 0, 0);
    public static readonly Vector3D UnitX = new(1, 0, 0);
    public static readonly Vector3D UnitY = new(0, 1, 0);
    public static readonly Vector3D UnitZ = new(0, 0, 1);

    [JsonIgnore]
    public double LengthSquared => (X * X) + (Y * Y) + (Z * Z);

    [JsonIgnore]
    public double Length => Math.Sqrt(LengthSquared);
    public double this[int i] => i switch { 0 => X, 1 => Y, _ => Z };

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector3D operator +(Vector3D a, Vector3D b) => new(a.X + b.X, a.Y + b.Y, a.Z + b.Z);

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector3D operator -(Vector3D a, Vector3D b) => new(a.X - b.X, a.Y - b.Y, a.Z - b.Z);

    public static Vector3D operator -(Vector3D a) => new(-a.X, -a.Y, -a.Z);

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector3D operator *(double s, Vector3D a) => new(s * a.X, s * a.Y, s * a.Z);

    public static Vector3D operator *(Vector3D a, double s) => s * a;

    public static Vector3D operator /(Vector3D a, double s) => new(a.X / s, a.Y / s, a.Z / s);

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static double Dot(Vector3D a, Vector3D b) => (a.X * b.X) + (a.Y * b.Y) + (a.Z * b.Z);

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector3D Cross(Vector3D a, Vector3D b) =>
        new((a.Y * b.Z) - (a.Z * b.Y), (a.Z * b.X) - (a.X * b.Z), (a.X * b.Y) - (a.Y * b.X));

    public double Dot(Vector3D b) => Dot(this, b);
    public Vector3D Cross(Vector3D b) => Cross(this, b);

    public static double Distance(Vector3D a, Vector3D b) => (a - b).Length;

    /// <summary>The unit vector; the zero vector stays zero.</summary>
    public Vector3D Normalized()
    {
        var length = Length;
        return length > 0 ? this / length : Zero;
    }

    /// <summary>Any unit vector perpendicular to this one, chosen stably (Hughes and Möller 1999).</summary>
    public Vector3D Perpendicular()
    {
        var ax = Math.Abs(X);
        var ay = Math.Abs(Y);
        var az = Math.Abs(Z);
        var helper = ax <= ay && ax <= az ? UnitX : ay <= az ? UnitY : UnitZ;
        return Cross(helper).Normalized();
    }

    /// <summary>Angle to another vector in radians, accurate for small and large angles (Kahan).</summary>
    public double AngleTo(Vector3D other)
    {
        var a = Normalized();
        var b = other.Normalized();
        return 2 * Math.Atan2((a - b).Length, (a + b).Length);
    }

    /// <summary>Angle between two undirected lines, 0 to π/2.</summary>
    public double LineAngleTo(Vector3D other)
    {
        var angle = AngleTo(other);
        return Math.Min(angle, Math.PI - angle);
    }

    public double[] ToArray() => [X, Y, Z];

    /// <summary>One of points kept as 3·N coordinates.</summary>
    public static Vector3D At(double[] points, int i) => new(points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]);

    /// <summary>One of directions kept as 3·N coordinates in single precision.</summary>
    public static Vector3D At(float[] directions, int i) => new(directions[3 * i], directions[(3 * i) + 1], directions[(3 * i) + 2]);

    public static Vector3D FromArray(IReadOnlyList<double> v) => new(v[0], v[1], v[2]);
}
