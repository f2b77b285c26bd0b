using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>What a local parameter of a shape moves.</summary>
internal enum Parameter
{
    ShiftX,
    ShiftY,
    ShiftZ,
    Tilt,

    /// <summary>Turn about the normal of a flat feature.</summary>
    Turn,

    /// <summary>Opening angle.</summary>
    Angle,

    /// <summary>A size that moves only a part of the surface along its normals.</summary>
    Extent,

    /// <summary>What moves the whole surface along its normals: a radius, or a plane's displacement.</summary>
    Offset,
}

/// <summary>
/// A shape in its own local frame (axis along z, reference at the origin), linearised as in Forbes (NPL DITC 140/89): the distances of four
/// local points at once and their derivatives by the local parameters at zero.
/// </summary>
internal interface IShapeModel<TSelf>
    where TSelf : struct, IShapeModel<TSelf>
{
    static abstract ReadOnlySpan<Parameter> Parameters { get; }

    /// <summary>From local to world coordinates.</summary>
    RigidTransform Frame { get; }

    Vector256<double> Distance(Vector256<double> x, Vector256<double> y, Vector256<double> z, Span<Vector256<double>> gradient);

    /// <summary>The shape after a small change of its local parameters.</summary>
    TSelf Step(ReadOnlySpan<double> s);

    /// <summary>The surface moved along its normals.</summary>
    TSelf Grown(double by);

    Shape ToShape();
}

/// <summary>Local frames and their first-order motion.</summary>
internal static class Frames
{
    public static RigidTransform Along(Vector3D origin, Vector3D axis)
    {
        var z = axis.Normalized();
        var x = z.Perpendicular();
        return RigidTransform.FromAxes(x, z.Cross(x), z, origin);
    }

    /// <summary>Moves the frame by a local displacement and turns its z axis toward local (a, b, 1).</summary>
    public static RigidTransform Tilted(RigidTransform frame, double a, double b, Vector3D move)
    {
        var origin = frame.Apply(move);
        if (a == 0 && b == 0)
        {
            return frame with { Translation = origin };
        }

        var tilt = RigidTransform.Between(Vector3D.UnitZ, new Vector3D(a, b, 1).Normalized());
        return frame.After(tilt) with { Translation = origin };
    }
}
