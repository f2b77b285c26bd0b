using Bostel.Core.Geometry;

namespace Bostel.Core.Meshes;

/// <summary>
/// An immutable indexed triangle mesh. <see cref="Coordinates"/> holds 3·V doubles (mm), <see cref="Indices"/> 3·T vertex numbers.
/// A mesh without triangles is a point cloud. Arrays are shared, never written after construction.
/// <para>Patches that fill holes were not measured: their triangles stand after all measured ones, and vertices that only they use after
/// all measured vertices, so that "measured" is everything below <see cref="MeasuredVertexCount"/> and
/// <see cref="MeasuredTriangleCount"/>.</para>
/// </summary>
public sealed class TriangleMesh
{
    private readonly Lazy<(float[] Normals, float[] Agreement)> _normals;
    private readonly Lazy<double[]> _areas;
    private readonly Lazy<MeshTopology> _topology;
    private readonly Lazy<VertexRings> _rings;
    private readonly Lazy<double> _noise;
    private readonly Lazy<float[]> _faceNormals;
    private readonly Lazy<ushort[]> _turns;
    private readonly Lazy<double> _longest;

    /// <param name="coordinates">3·V doubles.</param>
    /// <param name="indices">3·T vertex numbers.</param>
    /// <param name="measuredVertices">How many of the first vertices were measured; all unless given.</param>
    /// <param name="measuredTriangles">How many of the first triangles were measured; all unless given.</param>
    /// <param name="pointNormals">3·V unit normals of a cloud, where its file has them.</param>
    public TriangleMesh(
        double[] coordinates, int[] indices, int? measuredVertices = null, int? measuredTriangles = null, float[]? pointNormals = null)
        : this(coordinates, indices, measuredVertices, measuredTriangles, pointNormals, null)
    {
    }

    /// <param name="like">A mesh of the same triangles, whose adjacency is taken over.</param>
    /// <param name="turned">Whether the vertices differ from its vertices by more than a shift; if not, normals and areas are taken over
    /// too.</param>
    private TriangleMesh(double[] coordinates, int[] indices, int? measuredVertices, int? measuredTriangles, float[]? pointNormals,
        TriangleMesh? like, bool turned = true)
    {
        ArgumentNullException.ThrowIfNull(coordinates);
        ArgumentNullException.ThrowIfNull(indices);
        Coordinates = coordinates;
        Indices = indices;
        MeasuredVertexCount = measuredVertices ?? coordinates.Length / 3;
        MeasuredTriangleCount = measuredTriangles ?? indices.Length / 3;
        Bounds = MeasureBounds(coordinates);
        PointNormals = pointNormals;
        var same = turned ? null : like;
        _normals = same?._normals
            ?? new(() => pointNormals is null
            ? MeshNormals.VertexNormals(this)
            : (pointNormals, [.. Enumerable.Repeat(1f, coordinates.Length / 3)]));
        _areas = same?._areas ?? new(() => MeshNormals.VertexAreas(this));
        _faceNormals = same?._faceNormals ?? new(() => MeshNormals.SmoothFaceNormals(this));
        _turns = same?._turns ?? new(() => MeshNormals.EdgeTurns(this));
        _longest = same?._longest ?? new(() => MeasureLongestEdge());
        _topology = like?._topology ?? new(() => MeshTopology.Build(this));
        _rings = like?._rings ?? new(() => VertexRings.Build(this));
        _noise = same?._noise ?? new(() => TriangleCount == 0 ? 0 : Roughness.Of(this, Rings).Noise);
    }

    public double[] Coordinates { get; }
    public int[] Indices { get; }
    public Box3D Bounds { get; }
    public int VertexCount => Coordinates.Length / 3;
    public int TriangleCount => Indices.Length / 3;
    public int MeasuredVertexCount { get; }
    public int MeasuredTriangleCount { get; }

    /// <summary>Normals a cloud came with; null for meshes and bare clouds.</summary>
    public float[]? PointNormals { get; }

    /// <summary>Whether the vertices have normals: those of a mesh, or of a cloud that came with them.</summary>
    public bool HasNormals => TriangleCount > 0 || PointNormals is not null;

    /// <summary>Angle-weighted unit normals, 3·V floats; zero where no triangle meets the vertex.</summary>
    public float[] VertexNormals => _normals.Value.Normals;

    /// <summary>How well the triangle normals around each vertex agree: 1 on a flat area, less at an edge.</summary>
    public float[] NormalAgreement => _normals.Value.Agreement;

    /// <summary>A third of the area of the measured triangles around each vertex, in mm².</summary>
    public double[] VertexAreas => _areas.Value;

    /// <summary>
    /// Unit mean of the vertex normals of each triangle, 3·T floats: takes the noise of a scan out and leaves its edges in. Made once.
    /// </summary>
    public float[] SmoothFaceNormals => _faceNormals.Value;

    /// <summary>How far those turn across each edge, see <see cref="MeshNormals.EdgeTurns"/>. Made once.</summary>
    public ushort[] EdgeTurns => _turns.Value;

    /// <summary>Which triangles share an edge; made once.</summary>
    public MeshTopology Topology => _topology.Value;

    /// <summary>The triangles around each vertex; made once.</summary>
    public VertexRings Rings => _rings.Value;

    /// <summary>Standard deviation of the noise along the normal, mm; 0 of a cloud. See <see cref="Roughness.Noise"/>.</summary>
    public double Noise => _noise.Value;

    public Vector3D Vertex(int i) => Vector3D.At(Coordinates, i);

    public Vector3D Normal(int i) => Vector3D.At(VertexNormals, i);

    public (Vector3D A, Vector3D B, Vector3D C) Triangle(int t) =>
        (Vertex(Indices[3 * t]), Vertex(Indices[(3 * t) + 1]), Vertex(Indices[(3 * t) + 2]));

    public double TriangleArea(int t)
    {
        var (a, b, c) = Triangle(t);
        return 0.5 * (b - a).Cross(c - a).Length;
    }

    public double Area()
    {
        double sum = 0;
        for (var t = 0; t < TriangleCount; t++)
        {
            sum += TriangleArea(t);
        }

        return sum;
    }

    /// <summary>Length of the longest edge, mm; 0 for a cloud. Made once.</summary>
    public double LongestEdge => _longest.Value;

    /// <summary>Mean edge length over a sample of triangles; 0 for a cloud.</summary>
    public double MeanEdge()
    {
        if (TriangleCount == 0)
        {
            return 0;
        }

        var step = Math.Max(1, TriangleCount / 20000);
        double sum = 0;
        var n = 0;
        for (var t = 0; t < TriangleCount; t += step)
        {
            var (a, b, c) = Triangle(t);
            sum += (b - a).Length + (c - b).Length + (a - c).Length;
            n += 3;
        }

        return sum / n;
    }

    private double MeasureLongestEdge()
    {
        double most = 0;
        for (var t = 0; t < TriangleCount; t++)
        {
            var (a, b, c) = Triangle(t);
            most = Math.Max(most, Math.Max((b - a).LengthSquared, Math.Max((c - b).LengthSquared, (a - c).LengthSquared)));
        }

        return Math.Sqrt(most);
    }

    /// <summary>The same mesh scaled about the origin (unit conversion).</summary>
    public TriangleMesh Scaled(double factor) => factor == 1 ? this : WithCoordinates(Array.ConvertAll(Coordinates, c => c * factor));

    /// <summary>The same triangles over moved vertices.</summary>
    public TriangleMesh WithCoordinates(double[] coordinates) =>
        new(coordinates, Indices, MeasuredVertexCount, MeasuredTriangleCount, PointNormals, like: this);

    /// <summary>The same mesh moved without a turn: normals, areas and adjacency are those of this one and not made again.</summary>
    public TriangleMesh Shifted(Vector3D by)
    {
        var moved = new double[Coordinates.Length];
        for (var i = 0; i < moved.Length; i += 3)
        {
            (moved[i], moved[i + 1], moved[i + 2]) = (Coordinates[i] + by.X, Coordinates[i + 1] + by.Y, Coordinates[i + 2] + by.Z);
        }

        return new(moved, Indices, MeasuredVertexCount, MeasuredTriangleCount, PointNormals, like: this, turned: false);
    }

    public TriangleMesh Transformed(RigidTransform transform)
    {
        var moved = new double[Coordinates.Length];
        Parallel.For(0, (VertexCount + 65535) / 65536, chunk =>
        {
            for (var i = chunk * 65536; i < Math.Min(VertexCount, (chunk + 1) * 65536); i++)
            {
                var p = transform.Apply(Vertex(i));
                moved[3 * i] = p.X;
                moved[(3 * i) + 1] = p.Y;
                moved[(3 * i) + 2] = p.Z;
            }
        });
        if (PointNormals is null)
        {
            return WithCoordinates(moved);
        }

        var turned = new float[PointNormals.Length];
        for (var i = 0; i < VertexCount; i++)
        {
            var n = transform.Rotate(Normal(i));
            (turned[3 * i], turned[(3 * i) + 1], turned[(3 * i) + 2]) = ((float)n.X, (float)n.Y, (float)n.Z);
        }

        return new(moved, Indices, pointNormals: turned);
    }

    /// <summary>Only the triangles that pass, with unused vertices dropped. Keeps the order of both.</summary>
    public TriangleMesh KeepTriangles(Func<int, bool> keep)
    {
        var map = new int[VertexCount];
        var kept = new int[Indices.Length];
        var (next, measuredTriangles) = (0, 0);
        for (var t = 0; t < TriangleCount; t++)
        {
            if (keep(t))
            {
                measuredTriangles += t < MeasuredTriangleCount ? 1 : 0;
                for (var h = 3 * t; h < (3 * t) + 3; h++)
                {
                    map[Indices[h]] = 1;
                    kept[next++] = Indices[h];
                }
            }
        }

        var (vertices, measuredVertices) = (0, 0);
        var coordinates = new double[Coordinates.Length];
        for (var v = 0; v < map.Length; v++)
        {
            if (map[v] == 1)
            {
                Coordinates.AsSpan(3 * v, 3).CopyTo(coordinates.AsSpan(3 * vertices));
                measuredVertices += v < MeasuredVertexCount ? 1 : 0;
                map[v] = vertices++;
            }
        }

        Array.Resize(ref kept, next);
        Array.Resize(ref coordinates, 3 * vertices);
        for (var i = 0; i < kept.Length; i++)
        {
            kept[i] = map[kept[i]];
        }

        return new(coordinates, kept, measuredVertices, measuredTriangles);
    }

    /// <summary>Only the points of a cloud that pass, in order.</summary>
    public TriangleMesh KeepPoints(Func<int, bool> keep)
    {
        var kept = Enumerable.Range(0, VertexCount).Where(keep).ToArray();
        T[] Take<T>(T[] all) => [.. kept.SelectMany(v => new[] { all[3 * v], all[(3 * v) + 1], all[(3 * v) + 2] })];
        return new(Take(Coordinates), [], pointNormals: PointNormals is null ? null : Take(PointNormals));
    }

    /// <summary>The same mesh with what counts as measured moved to the front; the order within both groups is kept.</summary>
    public TriangleMesh Reordered(Func<int, bool> triangleMeasured, Func<int, bool> vertexMeasured)
    {
        var vertices = Enumerable.Range(0, VertexCount).OrderBy(v => !vertexMeasured(v)).ToArray();
        var triangles = Enumerable.Range(0, TriangleCount).OrderBy(t => !triangleMeasured(t)).ToArray();
        var place = new int[VertexCount];
        var coordinates = new double[Coordinates.Length];
        for (var i = 0; i < vertices.Length; i++)
        {
            place[vertices[i]] = i;
            Coordinates.AsSpan(3 * vertices[i], 3).CopyTo(coordinates.AsSpan(3 * i));
        }

        var indices = new int[Indices.Length];
        for (var i = 0; i < indices.Length; i++)
        {
            indices[i] = place[Indices[(3 * triangles[i / 3]) + (i % 3)]];
        }

        return new(coordinates, indices, vertices.Count(vertexMeasured), triangles.Count(triangleMeasured));
    }

    private static Box3D MeasureBounds(double[] c)
    {
        double x0 = double.PositiveInfinity, y0 = x0, z0 = x0, x1 = double.NegativeInfinity, y1 = x1, z1 = x1;
        for (var i = 0; i + 2 < c.Length; i += 3)
        {
            x0 = Math.Min(x0, c[i]);
            x1 = Math.Max(x1, c[i]);
            y0 = Math.Min(y0, c[i + 1]);
            y1 = Math.Max(y1, c[i + 1]);
            z0 = Math.Min(z0, c[i + 2]);
            z1 = Math.Max(z1, c[i + 2]);
        }

        return c.Length == 0 ? Box3D.Empty : new(new(x0, y0, z0), new(x1, y1, z1));
    }
}
