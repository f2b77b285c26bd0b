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
    private const int FewestPoints = 24;

    /// <summary>Stands for what all edges of a scan share; no feature has such an id.</summary>
    private const string AllEdges = "";

    /// <summary>A point this many spacings before the edge is a stray, one this many behind it is not its first.</summary>
    private const double Before = 1.5, After = 3;

    /// <exception cref="BadInputException">There are too few points beside the edge, or it is not to be found in them.</exception>
    public static FeatureResult Measure(FeaturePlan plan, AlignedScan scan, NominalModel nominal)
    {
        var ideal = EdgeNominal.Of(plan, nominal);
        var start = Inner(ideal.Curve, plan, scan);
        var width = EdgeStrip.Width(scan.Beside.Spacing) + plan.SearchDistance;
        var beside = Beside(plan, scan, nominal, ideal, start, width);
        var (plane, side) = EdgeStrip.Side(beside, ideal.Side);
        var frame = EdgeStrip.FrameOn(plane, ideal.Frame);
        var off = EdgeStrip.Off(side.Scatter, scan.Beside.Spacing);
        var (vertices, flat) = EdgeStrip.Points(scan.Mesh, frame.Inverse().After(scan.Transform), start, width, off);
        var (edge, why) = SoughtEdge.Seek(flat, start, scan.Beside.Spacing, plan.SearchDistance, side.Scatter, plan.EdgeLoss);
        return edge is null
            ? throw new BadInputException($"{plan.Name}: {why} (edge of face {plan.EdgeOf}); it cannot be measured.")
            : Describe(plan, ideal, scan, edge, frame, FitUncertainty.Of(side, beside)!.Motions, vertices, flat);
    }

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

    /// <summary>Points whose counterpart lies on the side, beside the nominal edge; 3·N coordinates.</summary>
    private static double[] Beside(
        FeaturePlan plan, AlignedScan scan, NominalModel nominal, EdgeNominal ideal, EdgeCurve start, double width)
    {
        var into = ideal.Frame.Inverse();
        Span<double> slope = stackalloc double[EdgeCurve.MostParameters];
        var beside = new List<double>();
        foreach (var v in FeatureExtraction.VerticesOn([plan.EdgeOf!.Value], scan, nominal, plan.SearchDistance))
        {
            var p = scan.Transform.Apply(scan.Mesh.Vertex(v));
            var q = into.Apply(p);
            if (start.Beside(q.X, q.Y) && start.Depth(q.X, q.Y, slope) is var depth && depth >= 0 && depth <= width)
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

        return points;
    }

    private static FeatureResult Describe(FeaturePlan plan, EdgeNominal ideal, AlignedScan scan, SoughtEdge edge, RigidTransform frame,
        IReadOnlyList<SmallMotion> planeErrors, int[] vertices, double[] flat)
    {
        var nominal = ideal.Face;
        Shape As(EdgeCurve curve) => FeatureExtraction.Oriented(curve.ToShape(frame), nominal.Shape!);
        var shape = As(edge.Curve);
        var (first, depths, stray) = Sorted(edge, flat, plan.SearchDistance);
        int[] used = [.. first.Select(i => vertices[i])];
        var points = FeatureExtraction.Coordinates(scan, used);
        var mean = depths.Average();
        double[] residuals = [.. depths.Select(d => d - mean)];
        Shape[] own = [.. edge.Varied.Select(As), .. planeErrors.Select(m => shape.Transformed(m.Times(1)))];
        Variation[] varied =
        [
            .. own.Select((s, k) => new Variation(plan.Id, k, Variation.Scatter(plan.Name), s, edge.Freedom)),
            new(AllEdges, 0, "what the scan loses at edges", As(edge.Lossy), null),
        ];
        var errors = new ErrorColumns(shape, [.. varied.Select(v => v.Shape)], nominal.Center);
        return new(plan, nominal, shape, points, residuals)
        {
            Scatter = Math.Sqrt(residuals.Sum(r => r * r) / Math.Max(1, residuals.Length - edge.Curve.Count)),
            Form = residuals.Max() - residuals.Min(),
            EffectivePoints = used.Length,
            Areas = [.. used.Select(scan.Beside.AreaOf)],
            Freedom = edge.Freedom,
            RadiusSigma = errors.Radius,
            PositionSigma = errors.Position,
            DirectionSigma = errors.Direction,
            ErrorMotions = errors.Motions,
            Variations = varied,
            Vertices = used,
            LeftOut = stray.Count == 0
                ? LeftOut.Nothing
                : new(stray.Count, stray.Sum(p => scan.Beside.AreaOf(vertices[p.Point])), stray.Min(p => p.Depth)),
            LeftOutVertices = [.. stray.Select(p => vertices[p.Point])],
            Coverage = edge.Found.Coverage,
            Missing = [.. edge.Found.Curve.Places(edge.Spacing).Where((_, i) => !edge.Found.Covered[i])
                .SelectMany(p => frame.Apply(new(p.X, p.Y, 0)).ToArray())],
        };
    }

    /// <summary>
    /// The points nearest to the edge, one for each place a spacing apart, with their depths behind it; and those that stand before it
    /// within the search distance, where there should be none.
    /// </summary>
    private static (List<int> First, List<double> Depths, List<(int Point, double Depth)> Stray) Sorted(
        SoughtEdge edge, double[] flat, double searchDistance)
    {
        var places = edge.Curve.Places(edge.Spacing).ToArray();
        var tree = new PointTree([.. places.SelectMany(p => new[] { p.X, p.Y, 0 })]);
        var first = new (int Point, double Depth)[places.Length];
        Array.Fill(first, (-1, double.PositiveInfinity));
        var stray = new List<(int, double)>();
        Span<double> slope = stackalloc double[EdgeCurve.MostParameters];
        for (var i = 0; i < flat.Length / 3; i++)
        {
            var depth = edge.Curve.Depth(flat[3 * i], flat[(3 * i) + 1], slope);
            if (depth <= -Before * edge.Spacing)
            {
                stray.AddRange(depth >= -searchDistance ? [(i, depth)] : []);
            }
            else if (depth < After * edge.Spacing)
            {
                var at = tree.Nearest(Vector3D.At(flat, i));
                if (depth < first[at].Depth)
                {
                    first[at] = (i, depth);
                }
            }
        }

        var found = first.Where(f => f.Point >= 0).ToList();
        return ([.. found.Select(f => f.Point)], [.. found.Select(f => f.Depth)], stray);
    }
}
