using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>A limited area of a feature: all of its faces within a radius (mm) of a place of the nominal.</summary>
public sealed record TargetArea(double[] Point, double Radius)
{
    internal bool IsPossible => Point.Length == 3 && Point.All(double.IsFinite) && Radius > 0 && double.IsFinite(Radius);

    internal bool Holds(Vector3D p) => Vector3D.Distance(p, Vector3D.FromArray(Point)) <= Radius;

    /// <summary>How far its middle lies from faces, mm.</summary>
    internal double Off(IReadOnlyCollection<int> faces, NominalModel nominal)
    {
        var (at, least) = (Vector3D.FromArray(Point), double.PositiveInfinity);
        for (var t = 0; t < nominal.FaceOfTriangle.Length; t++)
        {
            if (faces.Contains(nominal.FaceOfTriangle[t]))
            {
                var (a, b, c) = nominal.Mesh.Triangle(t);
                least = Math.Min(least, Vector3D.Distance(at, TriangleDistance.ClosestPoint(at, a, b, c, out _)));
            }
        }

        return least;
    }
}
