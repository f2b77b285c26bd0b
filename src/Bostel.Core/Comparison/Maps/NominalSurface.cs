using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Comparison;

/// <summary>
/// The surface of a nominal in triangles of one size, to carry a map: its triangulation has large ones wherever it is flat, and narrow
/// strips wherever it is round. No vertex belongs to two faces, so that each has one normal.
/// </summary>
/// <param name="Mesh">Its vertices lie on the exact surface where that is known.</param>
/// <param name="Normals">Outward, one a vertex, of length 1.</param>
/// <param name="FaceOfVertex">Ids of faces.</param>
/// <param name="Sharp">Vertices where two faces meet and turn by more than 30°.</param>
public sealed record NominalSurface(TriangleMesh Mesh, Vector3D[] Normals, int[] FaceOfVertex, Vector3D[] Sharp)
{
    /// <summary>Triangles aimed at: a map of a part on a screen shows no more.</summary>
    private const int Aim = 200_000;

    /// <summary>Halving leaves triangles of about so many squares of the longest edge, by trial on the demo parts.</summary>
    private const double MeanArea = 0.08;

    /// <summary>Vertices nearer to each other than this share of the longest edge become one.</summary>
    private const double Near = 0.5;

    /// <summary>Points no farther apart than about this share of the longest edge are the same.</summary>
    private const double SamePlace = 1e-4;

    /// <summary>Cosine of 30°.</summary>
    private const double Smooth = 0.87;

    public static NominalSurface Of(NominalModel nominal)
    {
        var longest = Math.Sqrt(nominal.Mesh.Area() / Aim / MeanArea);
        var split = new Splitting(nominal, longest, Joined(nominal, Near * longest));
        foreach (var face in Enumerable.Range(0, nominal.FaceOfTriangle.Length).GroupBy(t => nominal.FaceOfTriangle[t]))
        {
            split.Face(face.Key, face);
        }

        return split.Made();
    }

    /// <summary>
    /// For each vertex the one that stands for all in its cell of a grid that bound the same faces: so strips become wider, and no border
    /// falls together with another, however narrow the face between them.
    /// </summary>
    private static int[] Joined(NominalModel nominal, double cell)
    {
        var mesh = nominal.Mesh;
        var first = new Dictionary<(string Faces, long X, long Y, long Z), int>();
        var joined = new int[mesh.VertexCount];
        var rings = mesh.Rings;
        for (var v = 0; v < joined.Length; v++)
        {
            var faces = new SortedSet<int>();
            foreach (var corner in rings.Of(v))
            {
                faces.Add(nominal.FaceOfTriangle[corner / 3]);
            }

            var p = (mesh.Vertex(v) - mesh.Bounds.Min) / cell;
            var key = (string.Join(',', faces), (long)Math.Floor(p.X), (long)Math.Floor(p.Y), (long)Math.Floor(p.Z));
            joined[v] = faces.Count > 2 ? v : first.TryGetValue(key, out var at) ? at : first[key] = v;
        }

        return joined;
    }

    /// <summary>
    /// Halves every edge that is longer than the longest, as often as needed, always in its middle: so triangles on both sides of it, and
    /// faces, meet.
    /// </summary>
    private sealed class Splitting(NominalModel nominal, double longest, int[] joined)
    {
        private readonly List<Vector3D> _points = [], _normals = [];
        private readonly List<int> _indices = [], _faceOf = [];

        /// <summary>Normals of the faces that meet at each of the nominal's own vertices, and at each middle between two.</summary>
        private readonly Dictionary<(double, double, double), (Vector3D At, List<Vector3D> Normals)> _meeting = [];

        public void Face(int face, IEnumerable<int> triangles)
        {
            var known = new Dictionary<int, int>();
            var middles = new Dictionary<(int, int), int>();
            var waiting = new Stack<(int A, int B, int C)>();
            foreach (var t in triangles)
            {
                var corners = nominal.Mesh.Indices.AsSpan(3 * t, 3);
                var (a, b, c) = (joined[corners[0]], joined[corners[1]], joined[corners[2]]);
                if (a == b || b == c || c == a)
                {
                    continue;
                }

                waiting.Push((At(a), At(b), At(c)));
                while (waiting.TryPop(out var now))
                {
                    // The longest edge first: so triangles stay compact (Rivara 1984).
                    var (p, q, r) = (Square(now.A, now.B), Square(now.B, now.C), Square(now.C, now.A));
                    var (from, to, across) = p >= q && p >= r ? (now.A, now.B, now.C)
                        : q >= r ? (now.B, now.C, now.A) : (now.C, now.A, now.B);
                    if (Math.Max(p, Math.Max(q, r)) <= longest * longest)
                    {
                        _indices.AddRange([now.A, now.B, now.C]);
                        continue;
                    }

                    var middle = Middle(from, to);
                    waiting.Push((from, middle, across));
                    waiting.Push((middle, to, across));
                }

                int At(int vertex) => known.TryGetValue(vertex, out var at) ? at
                    : known[vertex] = Put(nominal.Mesh.Vertex(vertex), t, face);

                double Square(int from, int to) => (_points[from] - _points[to]).LengthSquared;

                int Middle(int from, int to)
                {
                    var key = (Math.Min(from, to), Math.Max(from, to));
                    return middles.TryGetValue(key, out var at) ? at
                        : middles[key] = Put(0.5 * (_points[key.Item1] + _points[key.Item2]), t, face);
                }
            }
        }

        public NominalSurface Made()
        {
            var sharp = _meeting.Values.Where(m => m.Normals.Exists(n => n.Dot(m.Normals[0]) < Smooth)).Select(m => m.At);
            return new(new([.. _points.SelectMany(p => p.ToArray())], [.. _indices]), [.. _normals], [.. _faceOf], [.. sharp]);
        }

        /// <summary>A point of a triangle, moved onto the exact surface where that is known and near.</summary>
        private int Put(Vector3D p, int triangle, int face)
        {
            var (a, b, c) = nominal.Mesh.Triangle(triangle);
            var (place, normal) = (p, (b - a).Cross(c - a).Normalized());
            if (nominal.ChordError > 0 && nominal.ExactFoot(triangle, p) is var (foot, exact) && (foot - p).Length <= longest / 2)
            {
                (place, normal) = (foot, exact);
            }

            _points.Add(place);
            _normals.Add(normal);
            _faceOf.Add(face);
            // Feet on two exact surfaces differ by rounding.
            var cell = SamePlace * longest;
            var key = (Math.Round(p.X / cell), Math.Round(p.Y / cell), Math.Round(p.Z / cell));
            if (!_meeting.TryGetValue(key, out var meeting))
            {
                _meeting[key] = meeting = (p, []);
            }

            meeting.Normals.Add(normal);
            return _points.Count - 1;
        }
    }
}
