using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>The closest point found on a mesh. <see cref="Triangle"/> is −1 when nothing lay within the limit.</summary>
public readonly record struct ClosestHit(int Triangle, TrianglePart Part, Vector3D Point, double DistanceSquared)
{
    public bool Found => Triangle >= 0;
}

/// <summary>
/// Index over the triangles of a mesh for exact closest points, signed distances and rays. Boxes are tested eight at a time in single
/// precision, rounded outward; triangles in double precision about a local origin. Safe for concurrent reading.
/// </summary>
public sealed class TriangleTree
{
    private readonly double[] _corners;
    private readonly int[] _triangle;
    private readonly int[] _place;
    private readonly float[] _boxes;
    private readonly int[] _children;
    private readonly byte[] _counts;
    private readonly Vector3D _origin;
    private readonly Lazy<Pseudonormals> _pseudonormals;

    public TriangleTree(TriangleMesh mesh)
    {
        if (mesh.TriangleCount == 0)
        {
            throw new BadInputException("The reference has no triangles to measure against.");
        }

        Mesh = mesh;
        _origin = mesh.Bounds.Center;
        var corners = new double[9 * mesh.TriangleCount];
        for (var i = 0; i < mesh.Indices.Length; i++)
        {
            var p = mesh.Vertex(mesh.Indices[i]) - _origin;
            corners[3 * i] = p.X;
            corners[(3 * i) + 1] = p.Y;
            corners[(3 * i) + 2] = p.Z;
        }

        // The query point is rounded to single precision too; half an ulp of the extent covers it inside the box.
        var builder = new TriangleTreeBuilder(corners, (float)(mesh.Bounds.Diagonal * 2.5e-7));
        (_boxes, _children, _counts) = builder.Build();
        _triangle = builder.Order;
        _place = new int[_triangle.Length];
        _corners = new double[corners.Length];
        for (var i = 0; i < _triangle.Length; i++)
        {
            _place[_triangle[i]] = i;
            corners.AsSpan(9 * _triangle[i], 9).CopyTo(_corners.AsSpan(9 * i));
        }

        _pseudonormals = new(() => new Pseudonormals(mesh));
    }

    public TriangleMesh Mesh { get; }

    /// <summary>The unit normal of a triangle, in the sense of its corners.</summary>
    public Vector3D FaceNormal(int triangle) => _pseudonormals.Value.Face(triangle);

    /// <summary>
    /// Closest point within a distance. With a direction, only triangles whose normal makes a cosine of at least
    /// <paramref name="minimumCosine"/> with it count. <paramref name="seed"/> is a triangle likely to be close (or −1).
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public ClosestHit Closest(Vector3D point, double maxDistance = double.PositiveInfinity, int seed = -1, Vector3D direction = default, double minimumCosine = -2)
    {
        var p = point - _origin;
        var filtered = minimumCosine > -1;
        var best = new ClosestHit(-1, TrianglePart.Face, default, maxDistance * maxDistance);
        if (seed >= 0)
        {
            Test(_place[seed], p, filtered, direction, minimumCosine, ref best);
        }

        var px = Vector256.Create((float)p.X);
        var py = Vector256.Create((float)p.Y);
        var pz = Vector256.Create((float)p.Z);
        Span<int> stackNode = stackalloc int[256];
        Span<float> stackDistance = stackalloc float[256];
        Span<float> lanes = stackalloc float[8];
        var top = 0;
        stackNode[top] = 0;
        stackDistance[top++] = 0;
        ref var boxes = ref MemoryMarshal.GetArrayDataReference(_boxes);
        while (top > 0)
        {
            top--;
            var limit = BoxLimit(best.DistanceSquared);
            if (stackDistance[top] > limit)
            {
                continue;
            }

            var code = stackNode[top];
            if (code < 0)
            {
                var slot = ~code;
                var start = _children[slot];
                for (var i = start; i < start + _counts[slot]; i++)
                {
                    Test(i, p, filtered, direction, minimumCosine, ref best);
                }

                continue;
            }

            ref var box = ref Unsafe.Add(ref boxes, 48 * code);
            var dx = Vector256.Max(Vector256.Max(Vector256.LoadUnsafe(ref box) - px, px - Vector256.LoadUnsafe(ref box, 24)), Vector256<float>.Zero);
            var dy = Vector256.Max(Vector256.Max(Vector256.LoadUnsafe(ref box, 8) - py, py - Vector256.LoadUnsafe(ref box, 32)), Vector256<float>.Zero);
            var dz = Vector256.Max(Vector256.Max(Vector256.LoadUnsafe(ref box, 16) - pz, pz - Vector256.LoadUnsafe(ref box, 40)), Vector256<float>.Zero);
            var d2 = (dx * dx) + (dy * dy) + (dz * dz);
            var mask = Vector256.LessThanOrEqual(d2, Vector256.Create(limit)).ExtractMostSignificantBits();
            d2.CopyTo(lanes);
            var floor = top;
            while (mask != 0)
            {
                var k = System.Numerics.BitOperations.TrailingZeroCount(mask);
                mask &= mask - 1;
                var slot = (8 * code) + k;
                if (_children[slot] < 0)
                {
                    continue;
                }

                // Insertion keeps the nearest child on top of the stack.
                var at = top++;
                var distance = lanes[k];
                while (at > floor && stackDistance[at - 1] < distance)
                {
                    stackDistance[at] = stackDistance[at - 1];
                    stackNode[at] = stackNode[at - 1];
                    at--;
                }

                stackDistance[at] = distance;
                stackNode[at] = _counts[slot] > 0 ? ~slot : _children[slot];
            }
        }

        return best.Found ? best with { Point = best.Point + _origin } : best;
    }

    /// <summary>
    /// Signed distance from the mesh: positive out of the material. The sign comes from the angle-weighted pseudonormal of the closest
    /// face, edge or corner (Bærentzen and Aanæs 2005).
    /// </summary>
    public double SignedDistance(Vector3D point, in ClosestHit hit)
    {
        var offset = point - hit.Point;
        var distance = Math.Sqrt(hit.DistanceSquared);
        return offset.Dot(_pseudonormals.Value.At(hit.Triangle, hit.Part)) < 0 ? -distance : distance;
    }

    /// <summary>Distance along a ray to the first triangle beyond <paramref name="from"/>, and that triangle; −1 when it meets none.</summary>
    public int FirstHit(Vector3D start, Vector3D direction, double from, double to, out double distance)
    {
        var rays = new RayWalk(this, start - _origin, direction);
        distance = to;
        return rays.First(from, ref distance);
    }

    /// <summary>All crossings along a ray, in order: distance, triangle.</summary>
    public void AllHits(Vector3D start, Vector3D direction, List<(double Distance, int Triangle)> hits)
    {
        hits.Clear();
        new RayWalk(this, start - _origin, direction).All(hits);
        hits.Sort();
    }

    private static float BoxLimit(double distanceSquared) =>
        distanceSquared > 1e37 ? float.PositiveInfinity : (float)(distanceSquared * 1.000004) + 1e-30f;

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private void Test(int place, Vector3D p, bool filtered, Vector3D direction, double minimumCosine, ref ClosestHit best)
    {
        ref var c = ref _corners[9 * place];
        var a = new Vector3D(c, Unsafe.Add(ref c, 1), Unsafe.Add(ref c, 2));
        var b = new Vector3D(Unsafe.Add(ref c, 3), Unsafe.Add(ref c, 4), Unsafe.Add(ref c, 5));
        var d = new Vector3D(Unsafe.Add(ref c, 6), Unsafe.Add(ref c, 7), Unsafe.Add(ref c, 8));
        var q = TriangleDistance.ClosestPoint(p, a, b, d, out var part);
        var d2 = (p - q).LengthSquared;
        if (d2 > best.DistanceSquared || (filtered && FaceNormal(_triangle[place]).Dot(direction) < minimumCosine))
        {
            return;
        }

        // Equal distances (shared edges) go to the lower number, so that the result does not depend on the walk.
        if (d2 < best.DistanceSquared || best.Triangle < 0 || _triangle[place] < best.Triangle)
        {
            best = new(_triangle[place], part, q, d2);
        }
    }

    private readonly struct RayWalk(TriangleTree tree, Vector3D start, Vector3D direction)
    {
        public int First(double from, ref double to)
        {
            var found = -1;
            Walk(null, from, ref to, ref found);
            return found;
        }

        public void All(List<(double, int)> hits)
        {
            var to = double.PositiveInfinity;
            var found = -1;
            Walk(hits, double.NegativeInfinity, ref to, ref found);
        }

        private void Walk(List<(double, int)>? all, double from, ref double to, ref int found)
        {
            Span<int> stack = stackalloc int[256];
            var top = 0;
            stack[top++] = 0;
            while (top > 0)
            {
                var node = stack[--top];
                for (var k = 0; k < 8; k++)
                {
                    var slot = (8 * node) + k;
                    if (tree._children[slot] < 0 || !Meets(node, k, from, to))
                    {
                        continue;
                    }

                    if (tree._counts[slot] == 0)
                    {
                        stack[top++] = tree._children[slot];
                        continue;
                    }

                    for (var i = tree._children[slot]; i < tree._children[slot] + tree._counts[slot]; i++)
                    {
                        if (Intersect(i, out var t) && t > from && t < to)
                        {
                            if (all is null)
                            {
                                to = t;
                                found = tree._triangle[i];
                            }
                            else
                            {
                                all.Add((t, tree._triangle[i]));
                            }
                        }
                    }
                }
            }
        }

        private bool Meets(int node, int k, double from, double to)
        {
            for (var axis = 0; axis < 3; axis++)
            {
                var lo = tree._boxes[(48 * node) + (8 * axis) + k];
                var hi = tree._boxes[(48 * node) + 24 + (8 * axis) + k];
                var d = direction[axis];
                var s = start[axis];
                if (Math.Abs(d) < 1e-300)
                {
                    if (s < lo || s > hi)
                    {
                        return false;
                    }

                    continue;
                }

                var t0 = (lo - s) / d;
                var t1 = (hi - s) / d;
                from = Math.Max(from, Math.Min(t0, t1));
                to = Math.Min(to, Math.Max(t0, t1));
            }

            return from <= to;
        }

        /// <summary>Möller and Trumbore 1997, both sides.</summary>
        private bool Intersect(int place, out double t)
        {
            var c = tree._corners.AsSpan(9 * place, 9);
            var a = new Vector3D(c[0], c[1], c[2]);
            var e1 = new Vector3D(c[3], c[4], c[5]) - a;
            var e2 = new Vector3D(c[6], c[7], c[8]) - a;
            var h = direction.Cross(e2);
            var det = e1.Dot(h);
            t = 0;
            if (det == 0)
            {
                return false;
            }

            var s = start - a;
            var u = s.Dot(h) / det;
            var q = s.Cross(e1);
            var v = direction.Dot(q) / det;
            t = e2.Dot(q) / det;
            return u >= 0 && v >= 0 && u + v <= 1;
        }
    }
}
