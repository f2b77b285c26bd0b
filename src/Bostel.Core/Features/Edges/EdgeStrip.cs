using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Features;

/// <summary>The points of a scan along one side of a sheet, beside an edge of it.</summary>
internal static class EdgeStrip
{
    /// <summary>Width of the strip: in spacings, and at least so many mm.</summary>
    private const double Spacings = 10, Least = 4;

    /// <summary>Points farther off the side's plane than so many standard deviations, and this share of a spacing, are a wall's.</summary>
    private const double OffPlane = 4, OffPlaneSpacings = 0.05;

    public static double Width(double spacing) => Math.Max(Least, Spacings * spacing);

    /// <summary>How far off its plane points of a side may lie, mm.</summary>
    public static double Off(double noise, double spacing) => Math.Max(OffPlane * noise, OffPlaneSpacings * spacing);

    /// <summary>The plane of a side through its points, freed of outliers; its normal turned as the ideal one's.</summary>
    public static (Plane3D Plane, FitResult Fit) Side(double[] points, Plane3D ideal)
    {
        var known = new Known { Start = ideal, Outward = ideal.Normal };
        var fit = RobustFit.Try("plane", points, known, null, new(RobustMethod.ThreeSigma)).OrThrow();
        return ((Plane3D)FeatureExtraction.Oriented(fit.Shape, ideal), fit);
    }

    /// <summary>A frame put onto a plane, its x axis kept as far as that allows.</summary>
    public static RigidTransform FrameOn(Plane3D plane, RigidTransform frame)
    {
        var x = frame.Rotate(Vector3D.UnitX);
        x = (x - (x.Dot(plane.Normal) * plane.Normal)).Normalized();
        return RigidTransform.FromAxes(x, plane.Normal.Cross(x), plane.Normal, plane.Project(frame.Translation));
    }

    /// <summary>
    /// Measured points near the plane of a frame, from a width in front of a curve (all of a hole or a slot) to a width behind it.
    /// </summary>
    /// <param name="into">From the scan into the frame.</param>
    /// <param name="off">How far off the plane they may lie, mm.</param>
    /// <returns>Vertices, and their places in the plane, 3·N with z = 0.</returns>
    public static (int[] Vertices, double[] Flat) Points(TriangleMesh mesh, RigidTransform into, EdgeCurve curve, double width, double off)
    {
        var count = mesh.MeasuredVertexCount;
        var chosen = new bool[count];
        var places = new Vector3D[count];
        var before = curve is StraightEdge ? -width : double.NegativeInfinity;
        Parallel.For(0, (count + 4095) / 4096, chunk =>
        {
            Span<double> slope = stackalloc double[EdgeCurve.MostParameters];
            for (var v = chunk * 4096; v < Math.Min(count, (chunk + 1) * 4096); v++)
            {
                var q = places[v] = into.Apply(mesh.Vertex(v));
                chosen[v] = Math.Abs(q.Z) <= off && curve.Beside(q.X, q.Y)
                    && curve.Depth(q.X, q.Y, slope) is var depth && depth >= before && depth <= width;
            }
        });
        int[] vertices = [.. Enumerable.Range(0, count).Where(v => chosen[v])];
        return (vertices, [.. vertices.SelectMany(v => new[] { places[v].X, places[v].Y, 0 })]);
    }
}
