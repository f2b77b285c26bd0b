using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>
/// An edge of a sheet part: its points in order, mm, whether it closes on itself, and the circle or slot that it makes, if any (a trim
/// line makes none).
/// </summary>
/// <param name="Scatter">Of the points about that shape as they are, mm.</param>
/// <param name="Sigma">
/// Standard deviation of the radius, or of half the width, mm; null: too little material lies beside the edge to tell where it is, and
/// the shape is that of the points, which end up to a spacing inside the material.
/// </param>
public sealed record SheetEdge(double[] Points, bool Closed, Shape? Shape = null, double Scatter = 0, double? Sigma = null)
{
    public int Count => Points.Length / 3;
}

/// <summary>Boundary edges of sheet parts, from meshes and clouds without a nominal, and the features they make.</summary>
public static class SheetEdges
{
    /// <summary>A gap in the directions to the neighbours wider than this makes a point of a cloud a border point.</summary>
    private const double WideGap = 2 * Math.PI / 3;

    /// <summary>Scatter of a fitted circle or slot up to this many spacings is a fit.</summary>
    private const double Scatter = 0.6;

    /// <summary>Edges of a mesh with triangles from its border loops, of a cloud from the angle criterion; longest first.</summary>
    /// <param name="fewest">Edges of fewer points are left out.</param>
    public static IReadOnlyList<SheetEdge> Find(TriangleMesh scan, int fewest = 12)
    {
        var spacing = scan.TriangleCount > 0 ? scan.MeanEdge() : PointSpacing.Median(scan.Coordinates, new(scan.Coordinates));
        var loops = scan.TriangleCount > 0
            ? BoundaryLoops.Find(scan).Select(l => (Points: l.Vertices.SelectMany(v => scan.Vertex(v).ToArray()).ToArray(), Closed: true))
            : OfCloud(scan, spacing);
        return [.. loops.Where(l => l.Points.Length >= 3 * fewest).OrderByDescending(l => l.Points.Length)
            .Select(l => l.Closed && Feature(l.Points, spacing) is { } fit
                ? Placed(l.Points, fit, scan, spacing)
                : new(l.Points, l.Closed))];
    }

    /// <summary>The edge with its shape freed of the spacing of the points, where the material beside it allows.</summary>
    private static SheetEdge Placed(double[] points, FitResult fit, TriangleMesh scan, double spacing)
    {
        var (frame, outline) = Outline(fit.Shape);
        var width = EdgeStrip.Width(spacing);
        var asFound = new SheetEdge(points, true, fit.Shape, fit.Scatter);

        // On one side of the edge is the sheet, on the other nothing.
        EdgeCurve[] sides = [outline(true), outline(false)];
        var around = sides.Select(c => EdgeStrip.Points(scan, frame.Inverse(), c, width, spacing)).ToArray();
        var density = sides.Select((c, i) => around[i].Flat.Length == 0 ? 0 : new EdgeFit(around[i].Flat).Density(c, spacing)).ToArray();
        var (curve, near) = density[0] >= density[1] ? (sides[0], around[0]) : (sides[1], around[1]);
        if (near.Vertices.Length < 3)
        {
            return asFound;
        }

        double[] beside = [.. near.Vertices.SelectMany(v => scan.Vertex(v).ToArray())];
        var (plane, side) = EdgeStrip.Side(beside, new(frame.Translation, frame.Rotate(Vector3D.UnitZ)));
        frame = EdgeStrip.FrameOn(plane, frame);
        var (_, flat) = EdgeStrip.Points(scan, frame.Inverse(), curve, width, EdgeStrip.Off(side.Scatter, spacing));
        return SoughtEdge.Seek(flat, curve, spacing, spacing, side.Scatter, null).Edge is { } edge
            ? asFound with { Shape = edge.Curve.ToShape(frame), Sigma = SigmaOf(edge) }
            : asFound;
    }

    private static (RigidTransform Frame, Func<bool, EdgeCurve> Curve) Outline(Shape shape) => shape is Circle3D c
        ? (FrameAt(c.Center, c.Normal.Perpendicular(), c.Normal), hole => new RoundEdge(0, 0, c.Radius, hole))
        : shape is Slot3D s
            ? (FrameAt(s.Center, s.Direction, s.Normal), hole => new SlotEdge(0, 0, 0, s.Length, s.Width, hole))
            : throw new ArgumentException($"no outline of a {shape.Kind}", nameof(shape));

    private static RigidTransform FrameAt(Vector3D origin, Vector3D x, Vector3D normal) =>
        RigidTransform.FromAxes(x, normal.Cross(x), normal, origin);

    private static double SigmaOf(SoughtEdge edge)
    {
        static double Size(EdgeCurve curve) => curve is RoundEdge c ? c.Radius : ((SlotEdge)curve).Width / 2;
        return Math.Sqrt(edge.Varied.Append(edge.Lossy).Sum(v => Math.Pow(Size(v) - Size(edge.Curve), 2)));
    }

    /// <summary>The circle or slot that fits the edge within the jaggedness of a scan's border; null when neither does.</summary>
    private static FitResult? Feature(double[] points, double spacing)
    {
        FitResult? best = null;
        foreach (var kind in (string[])["circle", "slot"])
        {
            if (RobustFit.Try(kind, points, Known.Nothing, null, new(RobustMethod.ThreeSigma)).Fit is { } fit
                && fit.Scatter < Scatter * spacing && IsFlat(points, fit.Shape, spacing)
                && (best is null || fit.Scatter < 0.8 * best.Scatter))
            {
                best = fit;
            }
        }

        return best;
    }

    private static bool IsFlat(double[] points, Shape shape, double spacing)
    {
        var (center, normal) = shape is Circle3D c ? (c.Center, c.Normal) : (((Slot3D)shape).Center, ((Slot3D)shape).Normal);
        var off = new Plane3D(center, normal).Distances(points);
        return Math.Sqrt(off.Sum(d => d * d) / off.Length) < spacing;
    }

    /// <summary>
    /// The angle criterion: seen along its normal, the neighbours of an inner point lie all round it; at a border there is a wide gap
    /// (Bendels, Schnabel and Klein, Detecting holes in point set surfaces, 2006). Border points are then strung to their nearest.
    /// </summary>
    private static IEnumerable<(double[] Points, bool Closed)> OfCloud(TriangleMesh cloud, double spacing)
    {
        var reach = 2.6 * spacing;
        var tree = new PointTree(cloud.Coordinates);
        var border = new bool[cloud.VertexCount];
        Parallel.For(0, (cloud.VertexCount + 1023) / 1024, () => new List<int>(), (chunk, _, near) =>
        {
            for (var v = chunk * 1024; v < Math.Min(border.Length, (chunk + 1) * 1024); v++)
            {
                tree.Within(cloud.Vertex(v), reach, near);
                border[v] = near.Count >= 5 && Gap(cloud, v, near) > WideGap;
            }

            return near;
        }, _ => { });
        var chosen = Enumerable.Range(0, border.Length).Where(v => border[v]).ToArray();
        return Strings(cloud, chosen, reach);
    }

    private static double Gap(TriangleMesh cloud, int v, List<int> near)
    {
        double[] points = [.. near.SelectMany(i => cloud.Vertex(i).ToArray())];
        var normal = PointSums.Scatter(points, PointSums.Centroid(points)).Vectors[0];
        var (x, y) = (normal.Perpendicular(), normal.Cross(normal.Perpendicular()));
        var angles = near.Where(i => i != v).Select(i => cloud.Vertex(i) - cloud.Vertex(v)).Select(d => Math.Atan2(d.Dot(y), d.Dot(x)))
            .Order().ToArray();
        var widest = (2 * Math.PI) - (angles[^1] - angles[0]);
        for (var i = 1; i < angles.Length; i++)
        {
            widest = Math.Max(widest, angles[i] - angles[i - 1]);
        }

        return widest;
    }

    /// <summary>Strings points from each to its nearest not yet taken, from both ends of the first.</summary>
    private static IEnumerable<(double[] Points, bool Closed)> Strings(TriangleMesh cloud, int[] chosen, double reach)
    {
        double[] coordinates = [.. chosen.SelectMany(v => cloud.Vertex(v).ToArray())];
        if (chosen.Length == 0)
        {
            yield break;
        }

        var tree = new PointTree(coordinates);
        var taken = new bool[chosen.Length];
        var near = new List<int>();
        int Next(int i)
        {
            tree.Within(cloud.Vertex(chosen[i]), reach, near);
            return near.Where(j => !taken[j]).DefaultIfEmpty(-1)
                .MinBy(j => j < 0 ? double.PositiveInfinity : Vector3D.Distance(cloud.Vertex(chosen[i]), cloud.Vertex(chosen[j])));
        }

        var runs = new List<List<Vector3D>>();
        for (var seed = 0; seed < chosen.Length; seed++)
        {
            if (taken[seed])
            {
                continue;
            }

            var run = new LinkedList<int>();
            taken[seed] = true;
            run.AddFirst(seed);
            for (var i = Next(seed); i >= 0; i = Next(i))
            {
                taken[i] = true;
                run.AddLast(i);
            }

            for (var i = Next(seed); i >= 0; i = Next(i))
            {
                taken[i] = true;
                run.AddFirst(i);
            }

            runs.Add([.. run.Select(i => cloud.Vertex(chosen[i]))]);
        }

        foreach (var run in Joined(runs, 1.5 * reach))
        {
            double[] points = [.. run.SelectMany(p => p.ToArray())];
            yield return (points, GoesRound(points));
        }
    }

    /// <summary>Runs whose ends lie near each other are pieces of one edge.</summary>
    private static List<List<Vector3D>> Joined(List<List<Vector3D>> runs, double reach)
    {
        for (var joined = true; joined;)
        {
            joined = false;
            for (var a = 0; a < runs.Count && !joined; a++)
            {
                for (var b = a + 1; b < runs.Count && !joined; b++)
                {
                    foreach (var (turnA, turnB) in ((bool, bool)[])[(false, false), (false, true), (true, false), (true, true)])
                    {
                        var (end, start) = (turnA ? runs[a][0] : runs[a][^1], turnB ? runs[b][^1] : runs[b][0]);
                        if (Vector3D.Distance(end, start) <= reach)
                        {
                            runs[a] = [.. turnA ? runs[a].AsEnumerable().Reverse() : runs[a],
                                .. turnB ? runs[b].AsEnumerable().Reverse() : runs[b]];
                            runs.RemoveAt(b);
                            joined = true;
                            break;
                        }
                    }
                }
            }
        }

        return runs;
    }

    /// <summary>Whether points lie all round their middle: borders of clouds are ragged, so that their ends need not meet.</summary>
    private static bool GoesRound(double[] points)
    {
        const int Sectors = 36;
        if (points.Length < Sectors)
        {
            return false;
        }

        var center = PointSums.Centroid(points);
        var normal = PointSums.Scatter(points, center).Vectors[0];
        var (x, y) = (normal.Perpendicular(), normal.Cross(normal.Perpendicular()));
        var seen = points.Chunk(3).Select(p => Vector3D.FromArray(p) - center)
            .Select(d => (int)((Math.Atan2(d.Dot(y), d.Dot(x)) + Math.PI) / (2 * Math.PI) * Sectors) % Sectors).Distinct().Count();
        return seen >= Sectors - 2;
    }
}
