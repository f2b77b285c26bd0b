using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>
/// Proposes the surfaces that a few neighbouring triangles of a CAD mesh may lie on. Whether they do is for others to decide.
/// </summary>
internal sealed class ExactShapes(TriangleMesh mesh, Vector3D[] normals, double tolerance)
{
    private const int Most = 2000;

    /// <summary>Cosine of the angle up to which an edge counts as a ruling.</summary>
    private const double AlongRuling = 0.97;

    /// <summary>Half angle from which a cone of rulings that are nearly parallel is sought, rad.</summary>
    private const double Slim = 0.02;

    private readonly int[] _neighbours = mesh.Topology.Neighbours;
    private readonly int[] _stamps = new int[mesh.VertexCount];
    private int _stamp;

    public Plane3D PlaneAt(int triangle) => new(mesh.Triangle(triangle).A, normals[triangle]);

    /// <summary>Curved surfaces, simplest kind first.</summary>
    /// <param name="around">Triangles about the seed across smooth edges, the seed first.</param>
    /// <param name="count">How many of them to propose from.</param>
    /// <param name="tori">Whether tori are proposed too: one bends like any smooth surface, so they are the dearest to try.</param>
    public IEnumerable<Shape> Curved(List<int> around, int count, bool tori)
    {
        var near = around[..Math.Min(count, around.Count)];
        if (near.Count < 4)
        {
            return [];
        }

        var corners = Corners(near);
        var c = PointSums.Centroid(corners);

        // A start that misses the corners by much of what they bend will not become a surface that holds them.
        var plane = PlaneAt(near[0]);
        var bend = PointSums.Range([.. Enumerable.Range(0, corners.Length / 3).Select(i => plane.Distance(Vector3D.At(corners, i)))]);
        var limit = 0.1 * (bend.High - bend.Low);
        return Cylinders(around, near, count).Append(Cone(near, corners, c, limit)).Append(Sphere(corners, limit))
            .Append(tori ? Torus(near, corners, c, limit) : null).OfType<Shape>();
    }

    /// <summary>The same kind fitted anew to all corners of a region; null when they do not determine it.</summary>
    public Shape? Refit(Shape shape, List<int> region) =>
        LeastSquares.Try(shape.Kind, PointSums.Thin(Corners(region), Most), shape is Plane3D ? null : From(shape)).Fit?.Shape;

    /// <summary>
    /// The axis is the direction that the normals around avoid, or runs along an edge of the seed: then the cylinder is that of the strip
    /// of facets reached across such edges, which keeps to it where other smooth surfaces border on it.
    /// </summary>
    private IEnumerable<Shape?> Cylinders(List<int> around, List<int> near, int count)
    {
        yield return CylinderAlong(NormalAxis(near, aboutMean: false), near);
        var seed = around[0];
        var within = around.ToHashSet();
        for (var h = 3 * seed; h < (3 * seed) + 3; h++)
        {
            if (_neighbours[h] < 0 || !within.Contains(_neighbours[h]) || Edge(h) is not { LengthSquared: > 0.5 } axis)
            {
                continue;
            }

            var strip = Strip(seed, axis, within, count);
            if (strip.Count < 4 || CylinderAlong(axis, strip) is not Cylinder3D start)
            {
                continue;
            }

            var corners = Corners(strip);
            yield return LeastSquares.Cylinder(corners, From(start)).Fit?.Shape;
            if (strip.Count > 6)
            {
                var slim = new Cone3D(start.Point - (start.Radius / Math.Tan(Slim) * start.Axis), start.Axis, Slim);
                yield return Opening(LeastSquares.Cone(corners, From(slim)));
            }
        }
    }

    private Vector3D Edge(int h) => (mesh.Vertex(mesh.Indices[MeshTopology.Next(h)]) - mesh.Vertex(mesh.Indices[h])).Normalized();

    private List<int> Strip(int seed, Vector3D axis, HashSet<int> within, int count)
    {
        var strip = new List<int> { seed };
        for (var i = 0; i < strip.Count && strip.Count < count; i++)
        {
            for (var h = 3 * strip[i]; h < (3 * strip[i]) + 3; h++)
            {
                var n = _neighbours[h];
                if (n >= 0 && within.Contains(n) && !strip.Contains(n) && Math.Abs(Edge(h).Dot(axis)) > AlongRuling)
                {
                    strip.Add(n);
                }
            }
        }

        return strip;
    }

    private Shape? CylinderAlong(Vector3D axis, List<int> near)
    {
        var across = near.Where(t => Math.Abs(normals[t].Dot(axis)) < 0.05).ToList();
        return across.Count >= 3 && LeastSquares.Circle(Corners(across), new() { Normal = axis }).Fit?.Shape is Circle3D circle
            ? new Cylinder3D(circle.Center, axis, circle.Radius)
            : null;
    }

    /// <summary>
    /// Normals of a cone all lean alike against its axis: they vary least about their mean along it, and tell the half angle. With both
    /// known, the apex follows from the linear equation x² + y² − t²h² = 2ux + 2vy − 2t²wh + d of corners on it, t the tangent of
    /// the half angle, (u, v, w) the apex.
    /// </summary>
    private Shape? Cone(List<int> near, double[] corners, Vector3D c, double limit)
    {
        var axis = NormalAxis(near, aboutMean: true);
        var slope = Math.Abs(near.Average(t => normals[t].Dot(axis)));
        if (slope is < 0.002 or > 0.999)
        {
            return null;
        }

        var frame = Frames.Along(c, axis);
        var tangent = Math.Tan(Math.Asin(slope));
        var equations = new LinearEquations();
        for (var i = 0; i < corners.Length / 3; i++)
        {
            var p = frame.Inverse().Apply(Vector3D.At(corners, i));
            equations.Add([2 * p.X, 2 * p.Y, -2 * tangent * tangent * p.Z, 1], (p.X * p.X) + (p.Y * p.Y) - (tangent * tangent * p.Z * p.Z));
        }

        if (equations.Solve() is not { } x)
        {
            return null;
        }

        // The corners' centroid lies at height 0: the cone opens toward it.
        var start = new Cone3D(frame.Apply(new(x[0], x[1], x[2])), x[2] < 0 ? axis : -axis, Math.Asin(slope));
        return Misses(start, corners) > 5 * limit ? null : Opening(LeastSquares.Cone(corners, From(start)));
    }

    /// <summary>A cone that opens so little is a cylinder.</summary>
    private static Shape? Opening(FitAttempt attempt) => attempt.Fit?.Shape is Cone3D { HalfAngle: > 1e-3 } cone ? cone : null;

    /// <summary>The sphere through corners by the linear equation 2p·m + d = p², sharpened where it nearly holds them.</summary>
    private Shape? Sphere(double[] corners, double limit)
    {
        var origin = Vector3D.At(corners, 0);
        var equations = new LinearEquations();
        for (var i = 0; i < corners.Length / 3; i++)
        {
            var p = Vector3D.At(corners, i) - origin;
            equations.Add([2 * p.X, 2 * p.Y, 2 * p.Z, 1], p.LengthSquared);
        }

        if (equations.Solve() is not { } x)
        {
            return null;
        }

        var m = new Vector3D(x[0], x[1], x[2]);
        var square = x[3] + m.LengthSquared;
        var start = new Sphere3D(origin + m, Math.Sqrt(Math.Max(0, square)));
        return !(square > 0) || Misses(start, corners) > limit ? null : LeastSquares.Sphere(corners, From(start)).Fit?.Shape;
    }

    private Shape? Torus(List<int> near, double[] corners, Vector3D c, double limit)
    {
        if (corners.Length < 3 * 12 || AxisOfRevolution.Of(near.Select(t => (Middle(t), normals[t], 1.0)), c) is not { } axis)
        {
            return null;
        }

        return AxisOfRevolution.Torus(corners, axis) is { } start && Misses(start, corners) <= 5 * limit
            ? LeastSquares.Torus(corners, From(start)).Fit?.Shape
            : null;
    }

    /// <summary>Normal equations in four unknowns.</summary>
    private sealed class LinearEquations
    {
        private const int Unknowns = 4;
        private readonly double[] _matrix = new double[Unknowns * Unknowns];
        private readonly double[] _right = new double[Unknowns];

        public void Add(ReadOnlySpan<double> row, double value)
        {
            for (var r = 0; r < Unknowns; r++)
            {
                _right[r] += row[r] * value;
                for (var k = 0; k < Unknowns; k++)
                {
                    _matrix[(r * Unknowns) + k] += row[r] * row[k];
                }
            }
        }

        public double[]? Solve() => LinearSolve.Gauss(_matrix, _right) ? _right : null;
    }

    private static double Misses(Shape shape, double[] corners)
    {
        var most = 0.0;
        for (var i = 0; i < corners.Length / 3; i++)
        {
            most = Math.Max(most, Math.Abs(shape.Distance(Vector3D.At(corners, i))));
        }

        return most;
    }

    private Vector3D Middle(int t)
    {
        var (p, q, r) = mesh.Triangle(t);
        return (p + q + r) / 3;
    }

    /// <summary>The direction in which the normals vary least about their mean (cone) or about zero (cylinder).</summary>
    private Vector3D NormalAxis(List<int> near, bool aboutMean)
    {
        double[] all = [.. near.SelectMany(t => normals[t].ToArray())];
        return PointSums.Scatter(all, aboutMean ? PointSums.Centroid(all) : Vector3D.Zero).Vectors[0];
    }

    /// <summary>Corners of triangles, each once.</summary>
    private double[] Corners(List<int> triangles)
    {
        _stamp++;
        var corners = new List<double>(3 * triangles.Count);
        foreach (var t in triangles)
        {
            foreach (var v in mesh.Indices.AsSpan(3 * t, 3))
            {
                if (_stamps[v] != _stamp)
                {
                    _stamps[v] = _stamp;
                    corners.AddRange(mesh.Coordinates.AsSpan(3 * v, 3));
                }
            }
        }

        return [.. corners];
    }

    /// <summary>Only a fit that holds the corners is of use.</summary>
    private Known From(Shape start) => new() { Start = start, Useful = tolerance };
}
