namespace Bostel.Core.Geometry;

/// <summary>An axis-aligned box; the empty box has Min above Max.</summary>
public readonly record struct Box3D(Vector3D Min, Vector3D Max)
{
    public static readonly Box3D Empty = new(
        new(double.PositiveInfinity, double.PositiveInfinity, double.PositiveInfinity),
        new(double.NegativeInfinity, double.NegativeInfinity, double.NegativeInfinity));

    public bool IsEmpty => Min.X > Max.X;
    public Vector3D Size => IsEmpty ? Vector3D.Zero : Max - Min;
    public Vector3D Center => 0.5 * (Min + Max);
    public double Diagonal => Size.Length;

    public IEnumerable<Vector3D> Corners
    {
        get
        {
            for (var i = 0; i < 8; i++)
            {
                yield return new((i & 1) == 0 ? Min.X : Max.X, (i & 2) == 0 ? Min.Y : Max.Y, (i & 4) == 0 ? Min.Z : Max.Z);
            }
        }
    }

    public Box3D Include(Vector3D p) => new(
        new(Math.Min(Min.X, p.X), Math.Min(Min.Y, p.Y), Math.Min(Min.Z, p.Z)),
        new(Math.Max(Max.X, p.X), Math.Max(Max.Y, p.Y), Math.Max(Max.Z, p.Z)));

    public static Box3D Of(IEnumerable<Vector3D> points)
    {
        var box = Empty;
        foreach (var p in points)
        {
            box = box.Include(p);
        }

        return box;
    }
}
