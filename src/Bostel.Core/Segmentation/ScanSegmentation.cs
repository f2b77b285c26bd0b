using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;

namespace Bostel.Core.Segmentation;

/// <summary>
/// Recognises planes, cylinders, cones and spheres in a scan: small unordered triangles, noise, and edges that are rounded by the device. Seeds are taken
/// where the surface is calmest; around each a patch is fitted and grown over all connected triangles within the noise of it (region growing by surface
/// fitting, Besl and Jain 1988). Pieces of one surface that adjoin are joined; what is left between surfaces goes to the nearest one it touches, or
/// stays freeform.
/// </summary>
public static class ScanSegmentation
{
    private const int Patch = 500;
    private const int Fewest = 150;
    private const int Sliver = 60;

    /// <summary>Triangles whose normals differ by more than this over their surroundings are edges, no seeds.</summary>
    private const double CalmCosine = 0.995;

    /// <param name="scan">Triangles, mm.</param>
    /// <param name="sensitivity">0.5 to 2: higher tells surfaces apart that lie nearer together, lower bears more noise and form error.</param>
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
        var noise = Math.Max(1e-4 * scan.MeanEdge(), Roughness.Of(scan, scan.Rings).Noise);
        var label = new int[scan.TriangleCount];
        Array.Fill(label, -1);
        var tried = new bool[label.Length];
        var shapes = new List<FitResult>();
        foreach (var seed in Seeds(scan))
        {
            cancel.ThrowIfCancellationRequested();
            if (label[seed] >= 0 || tried[seed])
            {
                continue;
            }

            if (Surface(growth, seed, noise, sensitivity, t => label[t] < 0) is not { } surface || surface.Triangles.Length < Fewest)
            {
                foreach (var t in growth.Patch(seed, Patch / 4, t => label[t] < 0))
                {
                    tried[t] = true;
                }

                continue;
            }

            foreach (var t in surface.Triangles)
            {
                label[t] = shapes.Count;
            }

            shapes.Add(surface.Fit);
        }

        Join(scan, growth, label, shapes, noise);
        Absorb(scan, label, shapes, noise / sensitivity);
        return Model(scan, label, shapes);
    }

    /// <summary>Calm triangles, the calmest first.</summary>
    private static IEnumerable<int> Seeds(TriangleMesh scan)
    {
        var neighbours = scan.Topology.Neighbours;
        var normals = scan.SmoothFaceNormals;
        var calm = new float[scan.TriangleCount];
        for (var t = 0; t < calm.Length; t++)
        {
            var least = 1f;
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                least = neighbours[h] < 0 ? 0 : Math.Min(least, SurfaceGrowth.Agreement(normals, t, neighbours[h]));
            }

            calm[t] = least;
        }

        return Enumerable.Range(0, calm.Length).Where(t => calm[t] > CalmCosine).OrderByDescending(t => MathF.Round(calm[t] * 2000)).ThenBy(t => t);
    }

    /// <summary>A surface counts when its scatter is that of the noise; the band about it is four times the noise, narrower for a higher sensitivity.</summary>
    private static GrownSurface? Surface(SurfaceGrowth growth, int seed, double noise, double sensitivity, Func<int, bool> free)
    {
        var band = 4 * noise / sensitivity;
        var patch = growth.Patch(seed, Patch, free);
        if (patch.Length < Patch / 8 || growth.Best(patch) is not { } first || first.Scatter > 2.5 * noise / sensitivity)
        {
            return null;
        }

        var grown = new GrownSurface(patch, first);
        for (var round = 0; round < 3; round++)
        {
            var triangles = growth.Near(seed, grown.Fit.Shape, band, free);

            // A patch seen as one kind may turn out to be another once it has grown.
            if (growth.Best(growth.Inner(triangles, 3)) is not { } fit || fit.Scatter > 2.5 * noise / sensitivity)
            {
                return grown.Triangles.Length >= Fewest ? grown : null;
            }

            var settled = triangles.Length == grown.Triangles.Length;
            grown = new(triangles, fit);
            if (settled)
            {
                break;
            }
        }

        return grown;
    }

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
            if (growth.Fit(shapes[i].Shape.Kind, growth.Points(inner), inner) is { } fit && fit.Scatter < Math.Max(1.15 * Math.Max(shapes[i].Scatter, shapes[j].Scatter), 0.8 * noise))
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
                    if (neighbours[h] >= 0 && label[neighbours[h]] is var l and >= 0 && Math.Abs(shapes[l].Shape.Distance(center)) is var d && d < nearest)
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
        var order = Enumerable.Range(0, all.Count).Where(f => members[f].Length > 0).OrderByDescending(f => members[f].Sum(scan.TriangleArea)).ThenBy(f => f).ToArray();
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
