using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>
/// Fits plane, cylinder, cone, sphere and torus to triangles of a scan, from their smooth normals, and says which is the simplest that
/// holds them.
/// </summary>
/// <param name="most">Points of a fit, and triangles that are asked for their normals, at most.</param>
internal sealed class SurfaceFits(TriangleMesh mesh, int most)
{
    /// <summary>Share of the scatter of a simpler shape below which another is better.</summary>
    private const double Better = 0.9;

    /// <summary>The same for a torus, which has the most parameters.</summary>
    private const double TorusBetter = 0.75;

    private readonly float[] _normals = mesh.SmoothFaceNormals;

    /// <summary>
    /// The first of plane, cylinder, cone and sphere whose scatter is not more than a tenth above the least: of a narrow ring on parts that
    /// are made, a cone is likelier than a sphere. Null when none is determined.
    /// </summary>
    public FitResult? Best(ReadOnlySpan<int> triangles) => Best(Points(triangles), triangles, out _);

    private FitResult? Best(double[] points, ReadOnlySpan<int> triangles, out bool flat)
    {
        FitResult? best = null;
        flat = false;
        foreach (var kind in (string[])["plane", "cylinder", "cone", "sphere"])
        {
            // A more complicated shape that will not be so much better is given up early.
            var useful = Better * best?.Scatter ?? double.PositiveInfinity;
            best = Fit(kind, points, triangles, useful) is { } fit && fit.Scatter < useful ? fit : best;
            flat = kind == "plane" && best is { Shape: Plane3D plane } && IsFlat(points, triangles, plane, useful: Better * best.Scatter);
            if (flat)
            {
                break;
            }
        }

        return best;
    }

    /// <summary>The same, or a torus where that is much better.</summary>
    /// <param name="points">Of the triangles, see <see cref="Points"/>.</param>
    /// <param name="before">The shape so far: a torus is begun from it.</param>
    public FitResult? BestOfAll(double[] points, ReadOnlySpan<int> triangles, Shape? before = null)
    {
        var best = Best(points, triangles, out var flat);
        return best is null || flat ? best : Torus(points, triangles, TorusBetter * best.Scatter, before as Torus3D ?? best.Shape) ?? best;
    }

    /// <summary>A shape again, through points that have joined it; null when they do not determine it.</summary>
    public static FitResult? Again(Shape shape, double[] points) =>
        LeastSquares.Try(shape.Kind, points, new() { Start = shape }).Fit;

    /// <summary>
    /// Three times the median angle between a surface and the vertex normals of triangles on it, at least 0.05 rad and up to 25°: what
    /// turns more is turned by an edge, not by noise.
    /// </summary>
    public double Turning(ReadOnlySpan<int> triangles, Shape shape)
    {
        var angles = new double[triangles.Length];
        for (var i = 0; i < angles.Length; i++)
        {
            var v = mesh.Indices[3 * triangles[i]];
            angles[i] = shape.Gradient(mesh.Vertex(v)).LineAngleTo(mesh.Normal(v));
        }

        Array.Sort(angles);
        return Math.Clamp(3 * angles[angles.Length / 2], 0.05, Math.Acos(SurfaceGrowth.Agreeing));
    }

    /// <summary>
    /// Whether points have one height each over a plane, by the normals, and no curvature would bring their scatter below what is useful.
    /// </summary>
    private bool IsFlat(double[] points, ReadOnlySpan<int> triangles, Plane3D plane, double useful)
    {
        var (least, most) = (1.0, -1.0);
        foreach (var (_, normal) in Sample(triangles))
        {
            var cosine = plane.Normal.Dot(normal);
            (least, most) = (Math.Min(least, cosine), Math.Max(most, cosine));
        }

        return (least > SurfaceGrowth.Agreeing || most < -SurfaceGrowth.Agreeing) && SecondOrderSurface.Scatter(points, plane) > useful;
    }

    /// <summary>One kind through triangles; null when they do not determine it, or it is of no use.</summary>
    /// <param name="useful">Largest scatter at which it is of use, mm.</param>
    /// <param name="before">A torus near it, as its start, or a cylinder, to be bent.</param>
    public FitResult? Fit(string kind, ReadOnlySpan<int> triangles, double useful = double.PositiveInfinity, Shape? before = null) =>
        kind == "torus" ? Torus(Points(triangles), triangles, useful, before) : Fit(kind, Points(triangles), triangles, useful);

    /// <summary>
    /// Axes start from the normals: those of a cylinder lie in a plane through the origin, those of a cone in a plane, both across the axis
    /// (Gauss image, Benkő, Martin and Várady 2001).
    /// </summary>
    private FitResult? Fit(string kind, double[] points, ReadOnlySpan<int> triangles, double useful)
    {
        if (kind is not ("cylinder" or "cone"))
        {
            return LeastSquares.Try(kind, points, new() { Useful = useful }).Fit;
        }

        double[] normals = [.. Sample(triangles).SelectMany(s => (double[])[s.Normal.X, s.Normal.Y, s.Normal.Z])];
        var axis = PointSums.Scatter(normals, kind == "cone" ? PointSums.Centroid(normals) : Vector3D.Zero).Vectors[0];
        return LeastSquares.Try(kind, points, new() { Direction = axis }).Fit is { } held
            ? LeastSquares.Try(kind, points, new() { Start = held.Shape, Useful = useful }).Fit
            : null;
    }

    /// <summary>
    /// From a torus before; else from the axis that the normals meet or from the bend of a cylinder, whichever lies nearer to the points.
    /// </summary>
    private FitResult? Torus(double[] points, ReadOnlySpan<int> triangles, double useful, Shape? before)
    {
        var starts = new List<Torus3D>();
        if (before is Torus3D known)
        {
            starts.Add(known);
        }
        else
        {
            if (AxisOfRevolution.Of(Sample(triangles).Select(s => (s.Point, s.Normal, 1.0)), PointSums.Centroid(points)) is { } axis
                && AxisOfRevolution.Torus(points, axis) is { } turned)
            {
                starts.Add(turned);
            }

            if ((before as Cylinder3D ?? Fit("cylinder", points, triangles, double.PositiveInfinity)?.Shape) is Cylinder3D cylinder
                && BentCylinder.Torus(points, cylinder) is { } bent)
            {
                starts.Add(bent);
            }
        }

        var start = starts.MinBy(s => s.Distances(points).Sum(d => d * d));
        return start is not null && LeastSquares.Try("torus", points, new() { Start = start, Useful = useful }).Fit is { } fit
            && fit.Scatter < useful ? fit : null;
    }

    /// <summary>Centres and normals of triangles; of many triangles only some.</summary>
    private List<(Vector3D Point, Vector3D Normal)> Sample(ReadOnlySpan<int> triangles)
    {
        var step = Math.Max(1, triangles.Length / most);
        var sample = new List<(Vector3D, Vector3D)>((triangles.Length / step) + 1);
        for (var i = 0; i < triangles.Length; i += step)
        {
            var (a, b, c) = mesh.Triangle(triangles[i]);
            var n = 3 * triangles[i];
            sample.Add(((a + b + c) / 3, new(_normals[n], _normals[n + 1], _normals[n + 2])));
        }

        return sample;
    }

    /// <summary>Vertices of triangles, 3·N coordinates; of many triangles only some, so that N stays within bounds.</summary>
    /// <param name="within">Where they count; everywhere when null.</param>
    public double[] Points(ReadOnlySpan<int> triangles, SurfaceBand? within = null)
    {
        var step = Math.Max(1, triangles.Length / (2 * most));
        var corners = step == 1 ? 3 : 1;
        var vertices = new List<int>();
        for (var i = 0; i < triangles.Length; i += step)
        {
            vertices.AddRange(mesh.Indices.AsSpan(3 * triangles[i], corners));
        }

        vertices.Sort();
        var points = new List<double>();
        var last = -1;
        foreach (var v in vertices)
        {
            if (v != last && within?.Holds(mesh, v) != false)
            {
                points.AddRange(mesh.Coordinates.AsSpan(3 * v, 3));
                last = v;
            }
        }

        return PointSums.Thin([.. points], most);
    }
}
