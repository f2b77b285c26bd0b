using System.Runtime.CompilerServices;
using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>Where on a triangle the closest point lies: on its face, on edge k (corner k to k+1), or at corner k.</summary>
public enum TrianglePart : byte
{
    Face,
    Edge0,
    Edge1,
    Edge2,
    Corner0,
    Corner1,
    Corner2,
}

/// <summary>Closest point of a triangle by Voronoi regions (Ericson, Real-Time Collision Detection, 5.1.5), in double precision.</summary>
public static class TriangleDistance
{
    /// <summary>The point of triangle abc closest to p, and the part it lies on.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public static Vector3D ClosestPoint(Vector3D p, Vector3D a, Vector3D b, Vector3D c, out TrianglePart part)
    {
        var ab = b - a;
        var ac = c - a;
        var ap = p - a;
        var d1 = ab.Dot(ap);
        var d2 = ac.Dot(ap);
        if (d1 <= 0 && d2 <= 0)
        {
            part = TrianglePart.Corner0;
            return a;
        }

        var bp = p - b;
        var d3 = ab.Dot(bp);
        var d4 = ac.Dot(bp);
        if (d3 >= 0 && d4 <= d3)
        {
            part = TrianglePart.Corner1;
            return b;
        }

        var vc = (d1 * d4) - (d3 * d2);
        if (vc <= 0 && d1 >= 0 && d3 <= 0)
        {
            part = TrianglePart.Edge0;
            return a + (d1 / (d1 - d3) * ab);
        }

        var cp = p - c;
        var d5 = ab.Dot(cp);
        var d6 = ac.Dot(cp);
        if (d6 >= 0 && d5 <= d6)
        {
            part = TrianglePart.Corner2;
            return c;
        }

        var vb = (d5 * d2) - (d1 * d6);
        if (vb <= 0 && d2 >= 0 && d6 <= 0)
        {
            part = TrianglePart.Edge2;
            return a + (d2 / (d2 - d6) * ac);
        }

        var va = (d3 * d6) - (d5 * d4);
        if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0)
        {
            part = TrianglePart.Edge1;
            return b + ((d4 - d3) / (d4 - d3 + (d5 - d6)) * (c - b));
        }

        part = TrianglePart.Face;
        var scale = 1 / (va + vb + vc);
        return a + (vb * scale * ab) + (vc * scale * ac);
    }
}
