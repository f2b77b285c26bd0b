namespace Bostel.Core.Geometry;

/// <summary>A small motion of a body: it turns about a centre (rad) and shifts (mm) by so much a step.</summary>
public sealed record SmallMotion(Vector3D Turn, Vector3D Shift, Vector3D Center)
{
    /// <summary>A transform that moves and turns little.</summary>
    public static SmallMotion Of(RigidTransform transform, Vector3D center) =>
        new(transform.RotationVector(), transform.Apply(center) - center, center);

    /// <summary>How far a point goes, to first order.</summary>
    public Vector3D Of(Vector3D p) => Shift + Turn.Cross(p - Center);

    /// <summary>The motion of the body put elsewhere.</summary>
    public SmallMotion At(RigidTransform pose) => new(pose.Rotate(Turn), pose.Rotate(Shift), pose.Apply(Center));

    /// <summary>So many steps of it.</summary>
    public RigidTransform Times(double steps) => RigidTransform.FromTwist(steps * Turn, steps * Shift, Center);
}
