using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>
/// Measures the edge of a sheet from the points on one side of it: the side's own plane beside the edge, the curve at which the points end
/// in it, and how far trial cuts show such a curve to be off.
/// </summary>
internal static class EdgeExtraction
{
    /// <summary>Width of the strip of the side that is looked at: in spacings, and at least so many mm.</summary>
    private const double StripSpacings = 10, LeastStrip = 4;

    /// <summary>Points farther off the side's plane than so many standard deviations, and this share of a spacing, are a wall's.</summary>
    private const double OffPlane = 4, OffPlaneSpacings = 0.05;

    /// <summary>Less of an edge than this is no edge.</summary>
    private const double LeastCoverage = 0.25;

    private const int FewestPoints = 24;

    /// <summary>Stands for what all edges of a scan share; no feature has such an id.</summary>
    private const string AllEdges = "";

    /// <summary>A point this many spacings before the edge is a stray, one this many behind it is not its first.</summary>
    private const double Before = 1.5, After = 3;

    /// <summary>
    /// Trial cuts share points: so many tell as much as this many independent ones (simulated sheets, see docs/methods.md).
    /// </summary>
    internal const double IndependentCuts = 12;

    /// <summary>
    /// Fusing rounds edges off: simulated fused scans end so many spacings before them, at any spacing. Other devices lose less or more:
    /// one standard deviation, where the plan does not say, and where it does.
    /// </summary>
    private const double UsualLoss = 0.22, UsualLossSigma = 0.1, GivenLossSigma = 0.05;

    /// <exception cref="BadInputException">There are too few points beside the edge, or it is not to be found in them.</exception>
    public static FeatureResult Measure(FeaturePlan plan, AlignedScan scan, NominalModel nominal)
    {
        var ideal = EdgeNominal.Of(plan, nominal);
        var start = Inner(ideal.Curve, plan, scan);
        var strip = Math.Max(LeastStrip, StripSpacings * scan.Beside.Spacing) + plan.SearchDistance;
        var (plane, sigma) = SidePlane(plan, scan, nominal, ideal, start, strip);
        var frame = FrameOn(plane.Plane, ideal.Frame);
        var (vertices, flat) = Strip(scan, frame, start, strip, Math.Max(OffPlane * sigma, OffPlaneSpacings * scan.Beside.Spacing));
        var fit = new EdgeFit(flat);
        var spacing = 1 / Math.Sqrt(fit.Density(start, scan.Beside.Spacing));
        if (!(double.IsFinite(spacing) && fit.Find(start, spacing, plan.SearchDistance) is { } found && found.Coverage >= LeastCoverage))
        {
            throw new BadInputException(
                $"{plan.Name}: the scan has no points along its edge on face {plan.EdgeOf}; it cannot be measured.");
        }

        var error = TrialCuts.Of(found, fit, flat, spacing, sigma) ?? throw new BadInputException(
            $"{plan.Name}: too little of face {plan.EdgeOf} lies beside its edge to tell where that is.");
        var edge = found.Curve.Step([.. error.Bias.Select(b => -b)]).Cut(-(plan.EdgeLoss ?? UsualLoss * spacing), 0, 0);
        var sigmaLoss = spacing * (plan.EdgeLoss is null ? UsualLossSigma : GivenLossSigma);
        return Describe(plan, ideal, scan, new(edge, frame, found, spacing, sigmaLoss), error, plane, vertices, flat);
    }

    /// <param name="LossSigma">Standard deviation of what the scan loses at its edges, mm.</param>
    private sealed record Placed(EdgeCurve Curve, RigidTransform Frame, FoundEdge Found, double Spacing, double LossSigma);

    /// <summary>A straight edge without its ends, where corners round it off.</summary>
    private static EdgeCurve Inner(EdgeCurve curve, FeaturePlan plan, AlignedScan scan)
    {
        if (curve is not StraightEdge line)
        {
            return curve;
        }

        var margin = Math.Min(plan.EdgeMargin ?? Math.Max(0.5, 3 * scan.Beside.Spacing), line.Length / 4);
        return line with { From = line.From + margin, To = line.To - margin };
    }

    /// <summary>The plane of the side beside the edge, with its independent errors, and the noise of its points.</summary>
    private static ((Plane3D Plane, IReadOnlyList<SmallMotion> Errors) Plane, double Noise) SidePlane(
        FeaturePlan plan, AlignedScan scan, NominalModel nominal, EdgeNominal ideal, EdgeCurve start, double strip)
    {
        var into = ideal.Frame.Inverse();
        Span<double> slope = stackalloc double[EdgeCurve.MostParameters];
        var beside = new List<double>();
        foreach (var v in FeatureExtraction.VerticesOn([plan.EdgeOf!.Value], scan, nominal, plan.SearchDistance))
        {
            var p = scan.Transform.Apply(scan.Mesh.Vertex(v));
            var q = into.Apply(p);
            if (start.Beside(q.X, q.Y) && start.Depth(q.X, q.Y, slope) is var depth && depth >= 0 && depth <= strip)
            {
                beside.AddRange([p.X, p.Y, p.Z]);
            }
        }

        double[] points = [.. beside];
        if (points.Length < 3 * FewestPoints)
        {
            throw new BadInputException(
                $"{plan.Name}: only {points.Length / 3} scan points lie beside its edge on face {plan.EdgeOf}; it cannot be measured.");
        }

        var known = new Known { Start = ideal.Side, Outward = ideal.Side.Normal };
        var fit = RobustFit.Try("plane", points, known, null, new(RobustMethod.ThreeSigma)).OrThrow();
        var plane = (Plane3D)FeatureExtraction.Oriented(fit.Shape, ideal.Side);
        return ((plane, FitUncertainty.Of(fit, points)!.Motions), fit.Scatter);
    }

    /// <summary>The nominal frame put onto the measured plane.</summary>
    private static RigidTransform FrameOn(Plane3D plane, RigidTransform frame)
    {
        var x = frame.Rotate(Vector3D.UnitX);
        x = (x - (x.Dot(plane.Normal) * plane.Normal)).Normalized();
        return RigidTransform.FromAxes(x, plane.Normal.Cross(x), plane.Normal, plane.Project(frame.Translation));
    }

    /// <summary>Measured points in the plane of the side: those around the edge, and all before it.</summary>
    private static (int[] Vertices, double[] Flat) Strip(AlignedScan scan, RigidTransform frame, EdgeCurve start, double strip, double off)
    {
        var into = frame.Inverse().After(scan.Transform);
        var count = scan.Mesh.MeasuredVertexCount;
        var chosen = new bool[count];
        var places = new Vector3D[count];
        Parallel.For(0, (count + 4095) / 4096, chunk =>
        {
            Span<double> slope = stackalloc double[EdgeCurve.MostParameters];
            for (var v = chunk * 4096; v < Math.Min(count, (chunk + 1) * 4096); v++)
            {
                var q = places[v] = into.Apply(scan.Mesh.Vertex(v));
                chosen[v] = Math.Abs(q.Z) <= off && start.Beside(q.X, q.Y) && start.Depth(q.X, q.Y, slope) <= strip
                    && (start is not StraightEdge || start.Depth(q.X, q.Y, slope) >= -strip);
            }
        });
        int[] vertices = [.. Enumerable.Range(0, count).Where(v => chosen[v])];
        return (vertices, [.. vertices.SelectMany(v => new[] { places[v].X, places[v].Y, 0 })]);
    }

    private static FeatureResult Describe(FeaturePlan plan, EdgeNominal ideal, AlignedScan scan, Placed edge, EdgeError error,
        (Plane3D Plane, IReadOnlyList<SmallMotion> Errors) side, int[] vertices, double[] flat)
    {
        var nominal = ideal.Face;
        var shape = FeatureExtraction.Oriented(edge.Curve.ToShape(edge.Frame), nominal.Shape!);
        var (first, depths) = FirstPoints(edge, flat);
        int[] used = [.. first.Select(i => vertices[i])];
        var points = FeatureExtraction.Coordinates(scan, used);
        var mean = depths.Average();
        double[] residuals = [.. depths.Select(d => d - mean)];
        var freedom = Math.Min(error.Cuts - 1, IndependentCuts);
        Shape As(EdgeCurve curve) => FeatureExtraction.Oriented(curve.ToShape(edge.Frame), nominal.Shape!);
        Shape[] own =
            [.. Roots(error).Select(step => As(edge.Curve.Step(step))), .. side.Errors.Select(m => shape.Transformed(m.Times(1)))];
        Variation[] varied =
        [
            .. own.Select((s, k) => new Variation(plan.Id, k, Variation.Scatter(plan.Name), s, freedom)),
            new(AllEdges, 0, "what the scan loses at edges", As(edge.Curve.Cut(edge.LossSigma, 0, 0)), null),
        ];
        var errors = new ErrorColumns(shape, [.. varied.Select(v => v.Shape)], nominal.Center);
        return new(plan, nominal, shape, points, residuals)
        {
            Scatter = Math.Sqrt(residuals.Sum(r => r * r) / Math.Max(1, residuals.Length - edge.Curve.Count)),
            Form = residuals.Max() - residuals.Min(),
            EffectivePoints = used.Length,
            Areas = [.. used.Select(scan.Beside.AreaOf)],
            Freedom = freedom,
            RadiusSigma = errors.Radius,
            PositionSigma = errors.Position,
            DirectionSigma = errors.Direction,
            ErrorMotions = errors.Motions,
            Variations = varied,
            Vertices = used,
            Coverage = edge.Found.Coverage,
            Missing = [.. edge.Found.Curve.Places(edge.Spacing).Where((_, i) => !edge.Found.Covered[i])
                .SelectMany(p => edge.Frame.Apply(new(p.X, p.Y, 0)).ToArray())],
        };
    }

    /// <summary>The points nearest to the edge, one for each place a spacing apart, with their depths behind it.</summary>
    private static (List<int> Points, List<double> Depths) FirstPoints(Placed edge, double[] flat)
    {
        var places = edge.Curve.Places(edge.Spacing).ToArray();
        var tree = new PointTree([.. places.SelectMany(p => new[] { p.X, p.Y, 0 })]);
        var first = new (int Point, double Depth)[places.Length];
        Array.Fill(first, (-1, double.PositiveInfinity));
        Span<double> slope = stackalloc double[EdgeCurve.MostParameters];
        for (var i = 0; i < flat.Length / 3; i++)
        {
            var depth = edge.Curve.Depth(flat[3 * i], flat[(3 * i) + 1], slope);
            if (depth > -Before * edge.Spacing && depth < After * edge.Spacing)
            {
                var at = tree.Nearest(Vector3D.At(flat, i));
                if (depth < first[at].Depth)
                {
                    first[at] = (i, depth);
                }
            }
        }

        var found = first.Where(f => f.Point >= 0).ToList();
        return ([.. found.Select(f => f.Point)], [.. found.Select(f => f.Depth)]);
    }

    /// <summary>Independent errors of one standard deviation each; the bias is known no better than its trials tell it.</summary>
    private static IEnumerable<double[]> Roots(EdgeError error)
    {
        var (values, vectors) = SymmetricEigen.Solve(error.Covariance);
        for (var e = 0; e < values.Length; e++)
        {
            var sigma = Math.Sqrt(Math.Max(0, values[e]) * (1 + (1 / IndependentCuts)));
            yield return [.. Enumerable.Range(0, values.Length).Select(r => sigma * vectors[r, e])];
        }
    }
}
