using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Segmentation;

/// <summary>
/// Recognises planes, cylinders, cones, spheres and tori in a scan: small unordered triangles, noise, and edges that are rounded by the
/// device. Seeds are taken where the surface is calmest; around each a patch is fitted and grown over all connected triangles within the
/// noise of it (region growing by surface fitting, Besl and Jain 1988). Pieces of one surface that adjoin are joined; what is left between
/// surfaces goes to the nearest one it touches, or stays freeform.
/// </summary>
public static class ScanSegmentation
{
    /// <summary>
    /// Seeds of one pass: the least agreement of a seed's normal with its neighbours', how far the surface may turn from one triangle of
    /// its patch to the next (cosines), triangles of a patch and the fewest of a surface. Small radii are few triangles that turn much:
    /// they come after all that is calm.
    /// </summary>
    /// <param name="Drifting">Whether a patch counts that only drifts out of the band: a large calm one does; small ones would cover a
    /// freeform surface.</param>
    private readonly record struct Pass(float Calm, float Gentle, int Patch, int Fewest, bool Drifting = false);

    private static readonly Pass[] _passes =
        [new(0.995f, SurfaceGrowth.Gentle, 500, 150, Drifting: true), new(0.97f, 0.96f, 250, 100), new(0.9f, 0.88f, 120, 60)];

    private const int Sliver = 60;

    /// <summary>Layers of triangles outside a surface at which it is looked at how it ends.</summary>
    private const int Layers = 4;

    /// <summary>
    /// A surface ends where its surroundings turn away this much faster than a smooth one would; and bounds of that angle, rad.
    /// </summary>
    private const double Safe = 2, Flattest = 0.03, Steepest = 0.15;

    /// <param name="scan">Triangles, mm.</param>
    /// <param name="sensitivity">0.5 to 2: higher tells surfaces apart that lie nearer together, lower bears more noise and form
    /// error.</param>
    /// <exception cref="BadInputException">A cloud, or a sensitivity out of range.</exception>
    public static NominalModel Recognise(TriangleMesh scan, double sensitivity = 1, CancellationToken cancel = default)
    {
        if (scan.TriangleCount == 0)
        {
            throw new BadInputException("The scan has no triangles: surfaces are recognised in a mesh.");
        }

        if (!(sensitivity is >= 0.5 and <= 2))
        {
            throw new BadInputException("sensitivity: must lie between 0.5 and 2.");
        }

        var growth = new SurfaceGrowth(scan);
        var edge = scan.MeanEdge();
        var noise = Math.Max(1e-4 * edge, scan.Noise);
        var label = new int[scan.TriangleCount];
        Array.Fill(label, -1);
        var shapes = new List<FitResult>();
        foreach (var pass in _passes)
        {
            var tried = new bool[label.Length];
            foreach (var seed in Seeds(scan, pass.Calm))
            {
                cancel.ThrowIfCancellationRequested();
                if (label[seed] >= 0 || tried[seed])
                {
                    continue;
                }

                var (surface, looked) = Surface(growth, seed, pass, noise, sensitivity, edge, t => label[t] < 0);
                foreach (var t in surface?.Triangles ?? looked)
                {
                    (label[t], tried[t]) = (surface is null ? label[t] : shapes.Count, true);
                }

                if (surface is not null)
                {
                    shapes.Add(surface.Fit);
                }
            }
        }

        Join(scan, growth, label, shapes, noise);
        Absorb(scan, label, shapes, noise / sensitivity);
        return Model(scan, label, shapes);
    }

    /// <summary>Calm triangles, the calmest first.</summary>
    private static IEnumerable<int> Seeds(TriangleMesh scan, float least)
    {
        var neighbours = scan.Topology.Neighbours;
        var normals = scan.SmoothFaceNormals;
        var calm = new float[scan.TriangleCount];
        for (var t = 0; t < calm.Length; t++)
        {
            var lowest = 1f;
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                lowest = neighbours[h] < 0 ? 0 : Math.Min(lowest, SurfaceGrowth.Agreement(normals, t, neighbours[h]));
            }

            calm[t] = lowest;
        }

        return Enumerable.Range(0, calm.Length).Where(t => calm[t] > least).OrderByDescending(t => MathF.Round(calm[t] * 2000))
            .ThenBy(t => t);
    }

    /// <summary>
    /// A surface counts when its scatter is that of the noise; the band about it is four times the noise, narrower for a higher
    /// sensitivity. A small one also has to end where something else begins. What no simpler kind holds may be a torus.
    /// </summary>
    /// <returns>The surface, or null and the triangles for which another try in this pass is pointless.</returns>
    private static (GrownSurface? Surface, int[] Looked) Surface(
        SurfaceGrowth growth, int seed, Pass pass, double noise, double sensitivity, double edge, Func<int, bool> free)
    {
        var (band, most) = (4 * noise / sensitivity, 2.5 * noise / sensitivity);
        var patch = growth.Patch(seed, pass.Patch, free, pass.Gentle);
        var looked = patch[..Math.Min(patch.Length, pass.Patch / (pass.Drifting ? 4 : 2))];
        if (patch.Length < pass.Fewest / 2)
        {
            return (null, looked);
        }

        var first = growth.Fits.Best(patch);
        if (first is null || first.Scatter > most)
        {
            first = growth.Fits.Fit("torus", patch, most);
        }

        if (first is null || first.Scatter > most || Grown(first) is not { } grown || grown.Triangles.Length < pass.Fewest
            || Radius(grown.Fit.Shape) < edge)
        {
            return (null, looked);
        }

        return pass.Drifting || !Drifts(grown) ? (grown, grown.Triangles) : (null, grown.Triangles);

        GrownSurface? Grown(FitResult start)
        {
            var now = new GrownSurface(patch, start);
            var turning = growth.Fits.Turning(patch, start.Shape);
            for (var round = 0; round < 3; round++)
            {
                // What an edge turns lies on the surface but does not tell its shape.
                var triangles = growth.Near(seed, now.Fit.Shape, band, free);
                var points = growth.Fits.Points(triangles, new(now.Fit.Shape, band, Math.Cos(turning)));

                // A patch seen as one kind may turn out to be another once it has grown.
                if (growth.Fits.BestOfAll(points, triangles, now.Fit.Shape) is not { } fit || fit.Scatter > most)
                {
                    return round > 0 && now.Triangles.Length >= pass.Fewest ? now : null;
                }

                var settled = triangles.Length == now.Triangles.Length;
                now = new(triangles, fit);
                if (settled)
                {
                    break;
                }
            }

            return now;
        }

        // A patch of a smooth surface leaves the band by its third derivative: at an angle of three bands over its reach, and steeper
        // farther out.
        bool Drifts(GrownSurface surface)
        {
            var reach = growth.Reach(surface.Triangles);
            var beyond = 1 + (0.6 * Layers * edge / reach);
            return growth.ExitAngle(surface.Triangles, surface.Fit.Shape, Layers) < Math.Clamp(
                Safe * 3 * band / reach * beyond * beyond, Flattest, Steepest);
        }
    }

    /// <summary>Of a tube or ball, mm: what is rounder than the triangles are long is an edge as the device rounds it.</summary>
    private static double Radius(Shape shape) => shape switch
    {
        Cylinder3D c => c.Radius,
        Sphere3D s => s.Radius,
        Torus3D t => t.MinorRadius,
        _ => double.PositiveInfinity,
    };

    /// <summary>Adjoining surfaces that one shape fits as well as two are one.</summary>
    private static void Join(TriangleMesh scan, SurfaceGrowth growth, int[] label, List<FitResult> shapes, double noise)
    {
        var members = Members(label, shapes.Count);
        var parent = new Dictionary<int, int>();
        foreach (var (a, b) in Touching(scan, label))
        {
            var (i, j) = (Root(a), Root(b));
            if (i == j || shapes[i].Shape.Kind != shapes[j].Shape.Kind)
            {
                continue;
            }

            int[] both = [.. members[i], .. members[j]];
            var inner = growth.Inner(both, 3);
            if (growth.Fits.Fit(shapes[i].Shape.Kind, inner, before: shapes[members[i].Length < members[j].Length ? j : i].Shape) is { } fit
                && fit.Scatter < Math.Max(1.15 * Math.Max(shapes[i].Scatter, shapes[j].Scatter), 0.8 * noise))
            {
                members[i] = both;
                members[j] = [];
                shapes[i] = fit;
                parent[j] = i;
            }
        }

        for (var t = 0; t < label.Length; t++)
        {
            label[t] = label[t] < 0 ? -1 : Root(label[t]);
        }

        int Root(int f) => parent.TryGetValue(f, out var p) ? Root(p) : f;
    }

    /// <summary>Unlabelled triangles join a surface they touch when they lie within a wider band about it, layer by layer.</summary>
    private static void Absorb(TriangleMesh scan, int[] label, List<FitResult> shapes, double noise)
    {
        var neighbours = scan.Topology.Neighbours;
        for (var layer = 0; layer < 4; layer++)
        {
            var joins = new List<(int Triangle, int Label)>();
            for (var t = 0; t < label.Length; t++)
            {
                if (label[t] >= 0)
                {
                    continue;
                }

                var (a, b, c) = scan.Triangle(t);
                var center = (a + b + c) / 3;
                var best = -1;
                var nearest = 6 * noise;
                for (var h = 3 * t; h < (3 * t) + 3; h++)
                {
                    if (neighbours[h] >= 0 && label[neighbours[h]] is var l and >= 0 && Math.Abs(shapes[l].Shape.Distance(center)) is var d
                        && d < nearest)
                    {
                        (best, nearest) = (l, d);
                    }
                }

                if (best >= 0)
                {
                    joins.Add((t, best));
                }
            }

            foreach (var (t, l) in joins)
            {
                label[t] = l;
            }
        }
    }

    private static NominalModel Model(TriangleMesh scan, int[] label, List<FitResult> shapes)
    {
        // What is left is freeform, one face a connected piece; then faces are numbered by size.
        var flood = new MeshFlood(scan);
        var next = shapes.Count;
        var all = shapes.Select(s => (Shape?)s.Shape).ToList();
        for (var t = 0; t < label.Length; t++)
        {
            if (label[t] < 0)
            {
                var piece = flood.Spread(t, int.MaxValue, (_, to) => label[to] < 0).ToArray();

                // Slivers between surfaces are no face: they go to the one they touch most.
                var owner = piece.Length < Sliver ? Surroundings(scan, label, piece) : -1;
                foreach (var member in piece)
                {
                    label[member] = owner < 0 ? next : owner;
                }

                if (owner < 0)
                {
                    all.Add(null);
                    next++;
                }
            }
        }

        var members = Members(label, all.Count);
        var order = Enumerable.Range(0, all.Count).Where(f => members[f].Length > 0)
            .OrderByDescending(f => members[f].Sum(scan.TriangleArea)).ThenBy(f => f).ToArray();
        var number = new int[all.Count];
        for (var i = 0; i < order.Length; i++)
        {
            number[order[i]] = i;
        }

        var faces = order.Select((f, i) => NominalFaceBuilder.Build(i, all[f], scan, members[f])).ToList();
        return new(scan, [.. label.Select(l => number[l])], faces, [], 0, []);
    }

    /// <summary>The face that a piece shares most edges with; −1 when it touches none.</summary>
    private static int Surroundings(TriangleMesh scan, int[] label, int[] piece)
    {
        var counts = new SortedDictionary<int, int>();
        foreach (var t in piece)
        {
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                if (scan.Topology.Neighbours[h] is var n and >= 0 && label[n] >= 0)
                {
                    counts[label[n]] = counts.GetValueOrDefault(label[n]) + 1;
                }
            }
        }

        return counts.Count == 0 ? -1 : counts.MaxBy(c => c.Value).Key;
    }

    private static int[][] Members(int[] label, int count)
    {
        var members = new List<int>[count];
        for (var i = 0; i < count; i++)
        {
            members[i] = [];
        }

        for (var t = 0; t < label.Length; t++)
        {
            if (label[t] >= 0)
            {
                members[label[t]].Add(t);
            }
        }

        return [.. members.Select(m => m.ToArray())];
    }

    /// <summary>Pairs of labels that share an edge, or are parted by one unlabelled triangle.</summary>
    private static IEnumerable<(int A, int B)> Touching(TriangleMesh scan, int[] label)
    {
        var neighbours = scan.Topology.Neighbours;
        var pairs = new SortedSet<(int, int)>();
        void Add(int a, int b)
        {
            if (a >= 0 && b >= 0 && a != b)
            {
                pairs.Add((Math.Min(a, b), Math.Max(a, b)));
            }
        }

        for (var t = 0; t < label.Length; t++)
        {
            int Beside(int k) => neighbours[(3 * t) + k] is var n and >= 0 ? label[n] : -1;
            for (var k = 0; k < 3; k++)
            {
                Add(label[t], Beside(k));
                if (label[t] < 0)
                {
                    Add(Beside(k), Beside((k + 1) % 3));
                }
            }
        }

        return pairs;
    }
}
