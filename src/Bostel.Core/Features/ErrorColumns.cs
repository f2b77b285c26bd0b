using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>
/// Independent errors of a feature, given as the shapes it would have with each: as motions, and as standard deviations of its place,
/// direction and radius in the worst direction.
/// </summary>
/// <param name="shape">As measured.</param>
/// <param name="varied">Off by one standard deviation of each error.</param>
/// <param name="near">About where it lies.</param>
internal sealed class ErrorColumns(Shape shape, IReadOnlyList<Shape> varied, Vector3D near)
{
    /// <summary>The point of the shape nearest to where it lies.</summary>
    public Vector3D At { get; } = On(shape, near);

    public IReadOnlyList<SmallMotion> Motions { get; } = [.. varied.Select(v => Between(shape, v, On(shape, near)))];

    public double Position => Largest(Motions.Select(m => m.Shift));

    public double Direction => Largest(Motions.Select(m => m.Turn));

    public double Radius => FeatureResult.RadiusOf(shape) is { } r
        ? Math.Sqrt(varied.Sum(v => Math.Pow(FeatureResult.RadiusOf(v)!.Value - r, 2)))
        : 0;

    /// <summary>The point of a shape nearest to a place, or the one point that it has.</summary>
    public static Vector3D On(Shape shape, Vector3D p) => shape switch
    {
        Plane3D s => s.Project(p),
        Line3D s => s.Project(p),
        Circle3D s => s.Center,
        Slot3D s => s.Center,
        Sphere3D s => s.Center,
        _ => p,
    };

    /// <summary>The small motion that takes a shape to another near it.</summary>
    private static SmallMotion Between(Shape from, Shape to, Vector3D at)
    {
        var turn = (NominalFaceBuilder.DirectionOf(from), NominalFaceBuilder.DirectionOf(to)) is ({ } a, { } b)
            ? a.Cross(b)
            : Vector3D.Zero;
        return new(turn, On(to, at) - On(from, at), at);
    }

    /// <summary>Standard deviation in the worst direction of independent displacements.</summary>
    private static double Largest(IEnumerable<Vector3D> columns)
    {
        var spread = new double[3, 3];
        foreach (var c in columns)
        {
            for (var i = 0; i < 3; i++)
            {
                for (var j = 0; j < 3; j++)
                {
                    spread[i, j] += c[i] * c[j];
                }
            }
        }

        return Math.Sqrt(Math.Max(0, SymmetricEigen.Solve(spread).Values[^1]));
    }
}
