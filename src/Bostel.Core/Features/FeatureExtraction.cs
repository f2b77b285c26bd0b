using Bostel.Core.Comparison;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>An aligned scan with its deviations: where features take their points from.</summary>
public sealed record AlignedScan(TriangleMesh Mesh, RigidTransform Transform, DeviationMap Deviations)
{
    /// <summary>What hangs together on its surface.</summary>
    public Neighbourhood Beside { get; } = new(Mesh);
}

/// <summary>Selects the points of a feature through the alignment and fits them.</summary>
public static class FeatureExtraction
{
    /// <summary>A face narrower than twice its margins is measured in the inner half of its width.</summary>
    internal const double NarrowShare = 0.5;

    /// <summary>Fewer points tell no feature.</summary>
    internal const int FewestPoints = 12;

    /// <summary>
    /// Points are scan vertices whose closest nominal point lies on the feature's faces, with agreeing normal, within the search distance
    /// or hanging together with such, and farther from the border of the faces than the margin. Isolated points far off are left out and
    /// told.
    /// </summary>
    /// <param name="leaveOut">False: isolated points far off stay in.</param>
    /// <exception cref="BadInputException">The faces cannot be fitted as one feature, or too few points lie on them.</exception>
    public static FeatureResult Measure(FeaturePlan plan, AlignedScan scan, NominalModel nominal, bool leaveOut = true)
    {
        if (plan.EdgeOf is not null)
        {
            return EdgeExtraction.Measure(plan, scan, nominal);
        }

        if (plan.Region is not null)
        {
            return RegionExtraction.Measure(plan, scan, leaveOut);
        }

        var face = Whole(plan, nominal);
        if (face.Shape is null)
        {
            throw new BadInputException($"{plan.Name}: the nominal face is freeform; it can be judged by profile, not fitted.");
        }

        var border = FaceBorder.Of(plan.Faces, nominal);
        var samples = new FaceSamples(plan.Faces, nominal, border, plan.Targets ?? []);
        var usual = Math.Max(0.5, 3 * scan.Mesh.MeanEdge());
        var margin = plan.EdgeMargin ?? Math.Min(usual, NarrowShare * samples.HalfWidth);
        var vertices = Select(plan, scan, nominal, border, margin);
        var found = Fitted(plan, face, scan, vertices, (margin, usual), leaveOut ? OnFace : null);
        var (coverage, missing) = samples.Covered(scan, found.Vertices, margin);
        return found with { Coverage = coverage, Missing = missing };

        bool OnFace(int v) => v < scan.Mesh.MeasuredVertexCount && scan.Deviations.Triangles[v] >= 0
            && plan.Faces.Contains(nominal.FaceOfTriangle[scan.Deviations.Triangles[v]]);
    }

    /// <summary>The feature through selected points of the scan; isolated ones far off are left out and told.</summary>
    /// <param name="margin">That was kept to the border, and the usual one, mm.</param>
    /// <param name="onFace">Whether a point lies on the feature, its margin included; null: none is left out.</param>
    /// <exception cref="BadInputException">Too few points are left.</exception>
    internal static FeatureResult Fitted(
        FeaturePlan plan, NominalFace face, AlignedScan scan, List<int> vertices, (double Used, double Usual) margin,
        Func<int, bool>? onFace)
    {
        if (vertices.Count < FewestPoints)
        {
            throw new BadInputException(
                $"{plan.Name}: only {vertices.Count} scan points lie on it{(plan.Targets is { Count: > 0 } ? " in its target areas" : "")} "
                + $"inside the edge margin of {margin.Used:0.###} mm; "
                + "it cannot be measured.");
        }

        var points = Coordinates(scan, vertices);
        var stray = onFace is null ? [] : IsolatedPoints.Find(points, vertices, face, scan, onFace);
        var left = LeftOut.Nothing;
        int[] leftOut = [.. stray.Select(i => vertices[i])];
        if (stray.Count > 0)
        {
            var residuals = stray.Select(i => face.Shape!.Distance(Vector3D.FromArray(points[(3 * i)..((3 * i) + 3)])));
            left = new(stray.Count, stray.Sum(i => scan.Beside.AreaOf(vertices[i])), residuals.MaxBy(Math.Abs));
            vertices = [.. vertices.Where((_, i) => !stray.Contains(i))];
            points = Coordinates(scan, vertices);
        }

        var known = new Known { Start = face.Shape, Outward = (face.Shape as Plane3D)?.Normal };
        var areas = vertices.Select(scan.Beside.AreaOf).ToArray();
        var fit = Association.Fit(face.Kind, plan.Criterion, points, known, plan.Criterion == Criterion.LeastSquares ? areas : null);
        return Describe(plan, face, fit, points, areas) with
        {
            LeftOut = left,
            Vertices = [.. vertices],
            EdgeMargin = margin.Used,
            MarginCutFrom = plan.EdgeMargin is null && margin.Used < margin.Usual ? margin.Usual : null,
            LeftOutVertices = leftOut,
        };
    }

    /// <summary>
    /// Scan vertices whose closest nominal point lies on one of the faces, within a distance or hanging together with such: what is loose
    /// and farther off is stray data, all else is the part. No margin, no fit: for profile. Ascending.
    /// </summary>
    public static List<int> VerticesOn(IReadOnlyCollection<int> faces, AlignedScan scan, NominalModel nominal, double searchDistance)
    {
        var wanted = new bool[nominal.Faces.Count];
        foreach (var f in faces)
        {
            wanted[nominal.Face(f).Id] = true;
        }

        var found = new List<int>();
        var far = new List<int>();
        var map = scan.Deviations;
        for (var v = 0; v < map.Values.Length; v++)
        {
            if (map.Triangles[v] >= 0 && wanted[nominal.FaceOfTriangle[map.Triangles[v]]])
            {
                (Math.Abs(map.Values[v]) <= searchDistance ? found : far).Add(v);
            }
        }

        if (far.Count > 0)
        {
            var near = new List<int>();
            var within = found.ToHashSet();
            found.AddRange(scan.Beside.Groups(far).Where(g => g.Any(v => Touches(v))).SelectMany(g => g));
            found.Sort();

            bool Touches(int v)
            {
                scan.Beside.Of(v, near);
                return near.Any(within.Contains);
            }
        }

        return found;
    }

    /// <summary>The feature's faces taken as one: all must lie on the first one's surface.</summary>
    /// <exception cref="BadInputException">They do not, or none is named.</exception>
    internal static NominalFace Whole(FeaturePlan plan, NominalModel nominal)
    {
        if (plan.Region is { } region)
        {
            return region.Face;
        }

        if (plan.Faces.Length == 0)
        {
            throw new BadInputException($"{plan.Name}: no faces are named.");
        }

        if (plan.EdgeOf is not null)
        {
            return EdgeNominal.Of(plan, nominal).Face;
        }

        var first = nominal.Face(plan.Faces[0]);
        if (plan.Faces.Length == 1)
        {
            return first;
        }

        var members = Enumerable.Range(0, nominal.Mesh.TriangleCount).Where(t => plan.Faces.Contains(nominal.FaceOfTriangle[t])).ToList();
        var limit = 1e-3 + (2 * nominal.ChordError);
        var off = first.Shape is null ? 0 : members.Max(t => Math.Abs(first.Shape.Distance(nominal.Mesh.Triangle(t).A)));
        return off > limit
            ? throw new BadInputException($"{plan.Name}: its faces do not lie on one surface.")
            : NominalFaceBuilder.Build(first.Id, first.Shape, nominal.Mesh, members);
    }

    private static List<int> Select(FeaturePlan plan, AlignedScan scan, NominalModel nominal, TriangleTree? border, double margin)
    {
        var candidates = VerticesOn(plan.Faces, scan, nominal, plan.SearchDistance);
        var targets = plan.Targets ?? [];
        if (border is null && targets.Count == 0)
        {
            return candidates;
        }

        // By the place a point belongs to: a defect that stands out far is no nearer to the middle for that.
        var feet = Feet(scan, candidates);
        var keep = new bool[candidates.Count];
        Parallel.For(0, (candidates.Count + 511) / 512, chunk =>
        {
            for (var i = chunk * 512; i < Math.Min(keep.Length, (chunk + 1) * 512); i++)
            {
                var foot = Vector3D.At(feet, i);
                keep[i] = (targets.Count == 0 || targets.Any(t => t.Holds(foot))) && border?.Closest(foot, margin).Found != true;
            }
        });
        return [.. candidates.Where((_, i) => keep[i])];
    }

    internal static double[] Coordinates(AlignedScan scan, IReadOnlyList<int> vertices)
    {
        var points = new double[3 * vertices.Count];
        for (var i = 0; i < vertices.Count; i++)
        {
            (points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]) = scan.Transform.Apply(scan.Mesh.Vertex(vertices[i]));
        }

        return points;
    }

    private static FeatureResult Describe(FeaturePlan plan, NominalFace face, FitResult fit, double[] points, double[] areas)
    {
        var extremal = fit.Covariance is null;
        var basis = extremal ? LeastSquares.Fit(face.Kind, points, new() { Start = face.Shape }, areas) : fit;
        var sure = FitUncertainty.Of(basis, points, areas)!;
        var shape = Oriented(fit.Shape, face.Shape!);

        // A plane that was turned over has its other side outside.
        var turned = shape is Plane3D plane && plane.Normal.Dot(((Plane3D)fit.Shape).Normal) < 0;
        var found = new FeatureResult(plan, face, shape, points, turned ? [.. fit.Residuals.Select(r => -r)] : fit.Residuals)
        {
            Scatter = basis.Scatter,
            Form = fit.Form,
            EffectivePoints = sure.EffectivePoints,
            Areas = areas,
            Freedom = sure.Freedom,
            RadiusSigma = sure.Radius,
            PositionSigma = sure.Position,
            DirectionSigma = sure.Direction,
            ErrorMotions = sure.Motions,
            Variations = [.. sure.Shapes.Select((s, k) => new Variation(
                plan.Id, k, Variation.Scatter(plan.Name), Oriented(s, face.Shape!), sure.Freedom))],
        };

        // Without neighbours that tell noise the least-squares feature's uncertainty has to serve.
        return extremal
            && ExtremalUncertainty.Of(face.Kind, fit, points, areas, new() { Outward = (face.Shape as Plane3D)?.Normal }) is { } own
            ? Freed(found, own)
            : found;
    }

    private static FeatureResult Freed(FeatureResult found, ExtremalUncertainty own)
    {
        var shape = own.Freed(found.Shape);
        var varied = own.Motions.Select(m => shape.Transformed(m.Times(1))).Append(Grown(shape, own.Radius));
        return found with
        {
            Shape = shape,
            NoiseTaken = own.TakenOff,
            RadiusSigma = own.Radius,
            PositionSigma = own.Position,
            DirectionSigma = own.Direction,
            ErrorMotions = own.Motions,
            Variations = [.. varied.Select((s, k) => new Variation(
                found.Plan.Id, k, Variation.Scatter(found.Plan.Name), s, found.Freedom))],
        };
    }

    private static Shape Grown(Shape shape, double by) => shape switch
    {
        Cylinder3D s => s with { Radius = s.Radius + by },
        Sphere3D s => s with { Radius = s.Radius + by },
        _ => shape,
    };

    /// <summary>Turns a normal or axis, which have no sense of their own, the same way as the nominal one.</summary>
    internal static Shape Oriented(Shape shape, Shape nominal) => (shape, nominal) switch
    {
        (Plane3D s, Plane3D n) when s.Normal.Dot(n.Normal) < 0 => s with { Normal = -s.Normal },
        (Cylinder3D s, Cylinder3D n) when s.Axis.Dot(n.Axis) < 0 => s with { Axis = -s.Axis },
        (Torus3D s, Torus3D n) when s.Axis.Dot(n.Axis) < 0 => s with { Axis = -s.Axis },
        (Line3D s, Line3D n) when s.Direction.Dot(n.Direction) < 0 => s with { Direction = -s.Direction },
        (Circle3D s, Circle3D n) when s.Normal.Dot(n.Normal) < 0 => s with { Normal = -s.Normal },
        (Slot3D s, Slot3D n) when s.Direction.Dot(n.Direction) < 0 => s with { Direction = -s.Direction },
        _ => shape,
    };

    /// <summary>Measured points taken back along their deviations, to about where they belong on the nominal.</summary>
    internal static double[] Feet(AlignedScan scan, IReadOnlyList<int> vertices)
    {
        var feet = Coordinates(scan, vertices);
        for (var i = 0; scan.Mesh.HasNormals && i < vertices.Count; i++)
        {
            var back = scan.Deviations.Values[vertices[i]] * scan.Transform.Rotate(scan.Mesh.Normal(vertices[i]));
            (feet[3 * i], feet[(3 * i) + 1], feet[(3 * i) + 2]) =
                (feet[3 * i] - back.X, feet[(3 * i) + 1] - back.Y, feet[(3 * i) + 2] - back.Z);
        }

        return feet;
    }
}
