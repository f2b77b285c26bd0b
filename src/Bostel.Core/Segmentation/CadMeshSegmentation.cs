using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>
/// Recognises planes, cylinders, cones and spheres in a mesh exported from CAD, whose vertices lie on the exact surfaces and whose triangles are
/// large and orderly. From each unassigned seed (largest first) every kind is tried on its smooth neighbourhood and grown over all connected
/// triangles whose corners lie on it; the kind that covers the most area wins. What is left is grouped across smooth edges as freeform.
/// </summary>
public static class CadMeshSegmentation
{
    private const int Neighbourhood = 60;
    private const double SmoothAngle = 40 * Math.PI / 180;

    /// <summary>Segments a closed or open mesh (mm).</summary>
    public static NominalModel Recognise(TriangleMesh mesh, IReadOnlyList<string>? remarks = null, CancellationToken cancel = default)
    {
        var work = new Work(mesh);
        foreach (var seed in Enumerable.Range(0, mesh.TriangleCount).OrderByDescending(mesh.TriangleArea).ThenBy(t => t))
        {
            cancel.ThrowIfCancellationRequested();
            if (work.Label[seed] < 0)
            {
                work.Claim(seed);
            }
        }

        work.GroupFreeform();
        var members = new List<int>[work.Shapes.Count];
        for (var i = 0; i < members.Length; i++)
        {
            members[i] = [];
        }

        for (var t = 0; t < mesh.TriangleCount; t++)
        {
            members[work.Label[t]].Add(t);
        }

        var faces = members.Select((m, id) => NominalFaceBuilder.Build(id, work.Shapes[id], mesh, m)).ToList();
        return new(mesh, work.Label, faces, work.Edges(), 0, remarks ?? []);
    }

    private sealed class Work
    {
        private readonly TriangleMesh _mesh;
        private readonly MeshTopology _topology;
        private readonly Vector3D[] _normals;
        private readonly double _tolerance;
        private readonly bool[] _tried;

        public Work(TriangleMesh mesh)
        {
            _mesh = mesh;
            _topology = mesh.Topology;
            _normals = new Vector3D[mesh.TriangleCount];
            for (var t = 0; t < _normals.Length; t++)
            {
                var (a, b, c) = mesh.Triangle(t);
                _normals[t] = (b - a).Cross(c - a).Normalized();
            }

            // STL keeps seven digits: corners of an exact surface are off by this much at most.
            _tolerance = Math.Max(2e-4, 1e-5 * mesh.Bounds.Diagonal);
            Label = new int[mesh.TriangleCount];
            Array.Fill(Label, -1);
            _tried = new bool[mesh.TriangleCount];
        }

        public int[] Label { get; }
        public List<Shape?> Shapes { get; } = [];

        public void Claim(int seed)
        {
            if (_tried[seed])
            {
                return;
            }

            var near = Smooth(seed, Neighbourhood);
            var candidates = new List<(Shape Shape, List<int> Region, double Area)>();
            Offer(candidates, PlaneAt(seed), seed);
            if (near.Count > 3)
            {
                foreach (var axis in CylinderAxes(seed, near))
                {
                    Offer(candidates, CylinderAlong(axis, near), seed);
                }

                foreach (var cone in ConesFrom(near))
                {
                    Offer(candidates, cone, seed);
                }

                Offer(candidates, SphereFrom(near), seed);
            }

            if (candidates.Count == 0)
            {
                _tried[seed] = true;
                return;
            }

            // A curved surface must beat the plane clearly: a strip of a cylinder is also two coplanar triangles.
            var best = candidates[0];
            foreach (var c in candidates.Skip(1))
            {
                best = c.Area > best.Area * 1.2 ? c : best;
            }

            // A lone facet inside a smooth surface is not a plane of the part, unless it is far larger than the facets around it.
            var around = best.Region.SelectMany(SmoothNeighbours).Except(best.Region).Select(_mesh.TriangleArea).DefaultIfEmpty(0).Max();
            if (best.Shape is Plane3D && best.Region.Count <= 2 && near.Count > best.Region.Count + 2 && best.Area < 4 * best.Region.Count * around)
            {
                _tried[seed] = true;
                return;
            }

            foreach (var t in best.Region)
            {
                Label[t] = Shapes.Count;
            }

            Shapes.Add(best.Shape);
        }

        public void GroupFreeform()
        {
            for (var seed = 0; seed < Label.Length; seed++)
            {
                if (Label[seed] >= 0)
                {
                    continue;
                }

                foreach (var t in Smooth(seed, int.MaxValue))
                {
                    Label[t] = Shapes.Count;
                }

                Shapes.Add(null);
            }
        }

        public List<NominalEdge> Edges()
        {
            var edges = new List<NominalEdge>();
            for (var h = 0; h < _topology.Neighbours.Length; h++)
            {
                var other = _topology.Neighbours[h];
                var t = h / 3;
                if (other < 0 || (other > t && Label[other] != Label[t] && _normals[t].AngleTo(_normals[other]) > 0.2))
                {
                    var a = _mesh.Vertex(_mesh.Indices[h]);
                    var b = _mesh.Vertex(_mesh.Indices[MeshTopology.Next(h)]);
                    edges.Add(new([a.X, a.Y, a.Z, b.X, b.Y, b.Z], other < 0 ? [Label[t]] : [Label[t], Label[other]]));
                }
            }

            return edges;
        }

        /// <summary>Unassigned triangles reached from the seed across smooth edges, breadth first.</summary>
        private List<int> Smooth(int seed, int most)
        {
            var found = new List<int> { seed };
            var seen = new HashSet<int> { seed };
            for (var i = 0; i < found.Count && found.Count < most; i++)
            {
                for (var k = 0; k < 3; k++)
                {
                    var n = _topology.Neighbours[(3 * found[i]) + k];
                    if (n >= 0 && Label[n] < 0 && _normals[n].AngleTo(_normals[found[i]]) < SmoothAngle && seen.Add(n))
                    {
                        found.Add(n);
                    }
                }
            }

            return found;
        }

        private void Offer(List<(Shape, List<int>, double)> candidates, Shape? shape, int seed)
        {
            if (shape is null || !Fits(shape, seed))
            {
                return;
            }

            var region = new List<int> { seed };
            var seen = new HashSet<int> { seed };
            for (var i = 0; i < region.Count; i++)
            {
                for (var k = 0; k < 3; k++)
                {
                    var n = _topology.Neighbours[(3 * region[i]) + k];
                    if (n >= 0 && Label[n] < 0 && !seen.Contains(n) && Fits(shape, n) && (shape is Plane3D || _normals[n].AngleTo(_normals[region[i]]) < SmoothAngle))
                    {
                        seen.Add(n);
                        region.Add(n);
                    }
                }
            }

            if (shape is not Plane3D && region.Select(t => _normals[t]).DistinctBy(n => (Math.Round(n.X, 2), Math.Round(n.Y, 2), Math.Round(n.Z, 2))).Count() < 3)
            {
                return;
            }

            candidates.Add((shape, region, region.Sum(_mesh.TriangleArea)));
        }

        private bool Fits(Shape shape, int t)
        {
            var (a, b, c) = _mesh.Triangle(t);
            if (Math.Abs(shape.Distance(a)) > _tolerance || Math.Abs(shape.Distance(b)) > _tolerance || Math.Abs(shape.Distance(c)) > _tolerance)
            {
                return false;
            }

            var along = Math.Abs(NominalFaceBuilder.Gradient(shape, (a + b + c) / 3).Dot(_normals[t]));
            return along > (shape is Plane3D ? 0.9998 : 0.8);
        }

        private Plane3D PlaneAt(int seed) => new(_mesh.Triangle(seed).A, _normals[seed]);

        private double[] Corners(List<int> triangles) =>
            [.. triangles.SelectMany(t => new[] { _mesh.Indices[3 * t], _mesh.Indices[(3 * t) + 1], _mesh.Indices[(3 * t) + 2] }).Distinct()
                .SelectMany(v => _mesh.Vertex(v).ToArray())];

        /// <summary>The direction in which the normals vary least about their mean (cone) or about zero (cylinder).</summary>
        private Vector3D NormalAxis(List<int> near, bool aboutMean)
        {
            var mean = aboutMean ? near.Aggregate(Vector3D.Zero, (s, t) => s + _normals[t]) / near.Count : Vector3D.Zero;
            double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
            foreach (var t in near)
            {
                var n = _normals[t] - mean;
                (xx, xy, xz) = (xx + (n.X * n.X), xy + (n.X * n.Y), xz + (n.X * n.Z));
                (yy, yz, zz) = (yy + (n.Y * n.Y), yz + (n.Y * n.Z), zz + (n.Z * n.Z));
            }

            return SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz).Vectors[0];
        }

        /// <summary>
        /// Axes a cylinder through the seed may have: the direction that the normals around avoid, and those square to the seed's normal and a
        /// neighbour's (exact where other smooth surfaces, a cone or a fillet, border on the cylinder).
        /// </summary>
        private IEnumerable<Vector3D> CylinderAxes(int seed, List<int> near)
        {
            yield return NormalAxis(near, aboutMean: false);
            foreach (var n in SmoothNeighbours(seed).OrderByDescending(_mesh.TriangleArea))
            {
                var cross = _normals[seed].Cross(_normals[n]);
                if (cross.Length > 1e-3)
                {
                    yield return cross.Normalized();
                }
            }
        }

        private IEnumerable<int> SmoothNeighbours(int t)
        {
            for (var k = 0; k < 3; k++)
            {
                var n = _topology.Neighbours[(3 * t) + k];
                if (n >= 0 && Label[n] < 0 && _normals[n].AngleTo(_normals[t]) < SmoothAngle)
                {
                    yield return n;
                }
            }
        }

        private Shape? CylinderAlong(Vector3D axis, List<int> near)
        {
            var best = near.Where(t => Math.Abs(_normals[t].Dot(axis)) < 0.005).ToList();
            return Attempt(() =>
            {
                var circle = (Circle3D)LeastSquares.Circle(Corners(best), new() { Normal = axis }).Shape;
                return new Cylinder3D(circle.Center, axis, circle.Radius);
            }, best);
        }

        /// <summary>
        /// Outward normals of a cone lean against its opening direction by the half angle; inside it is the other way round, so both are tried.
        /// </summary>
        private IEnumerable<Shape?> ConesFrom(List<int> near)
        {
            var axis = NormalAxis(near, aboutMean: true);
            var slope = near.Average(t => _normals[t].Dot(axis));
            if (Math.Abs(slope) is < 0.02 or > 0.999)
            {
                yield break;
            }

            var corners = Corners(near);
            var c = PointSums.Centroid(corners);
            var reach = corners.Chunk(3).Max(p => (Vector3D.FromArray(p) - c).Length);
            var half = Math.Asin(Math.Min(1, Math.Abs(slope)));
            foreach (var direction in (Vector3D[])[axis, -axis])
            {
                yield return Attempt(() => LeastSquares.Cone(corners, new() { Start = new Cone3D(c - (reach / Math.Tan(half) * direction), direction, half) }).Shape, near);
            }
        }

        private Shape? SphereFrom(List<int> near) => Attempt(() => LeastSquares.Sphere(Corners(near)).Shape, near);

        private static Shape? Attempt(Func<Shape> fit, List<int> from)
        {
            if (from.Count < 4)
            {
                return null;
            }

            try
            {
                return fit();
            }
            catch (BadInputException)
            {
                return null;
            }
        }
    }
}
