using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Scanner;

/// <summary>A finished simulated scan, in the recipe's unit and the scanner's own frame, with what is true of it.</summary>
public sealed record SimulatedScan(TriangleMesh Mesh, ScanTruth Truth);

/// <summary>
/// The device's stand-in. A fused mesh of the nominal is deformed by the planted errors; each point is kept only if some view sees it (no
/// occlusion, not too steep) and gets noise along that view's line of sight; stray pieces and a table patch are added; all is put into an
/// unknown pose.
/// </summary>
public static class SimulatedScanner
{
    /// <summary>Within this angle of the normal a shiny face blinds the camera, degrees.</summary>
    private const double HeadOn = 20;

    /// <exception cref="BadInputException">The recipe names a face that the nominal does not have, or an error kind that is not
    /// known.</exception>
    public static SimulatedScan Scan(
        NominalModel nominal, ScanRecipe recipe, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        foreach (var face in recipe.Errors.SelectMany(e => e.Faces))
        {
            nominal.Face(face);
        }

        // The sampling grid lies askew to the part, so that no face coincides with grid planes.
        var askew = RigidTransform.FromAxisAngle(new Vector3D(0.31, 0.77, 0.56), 0.7 + (0.1 * recipe.Seed % 1));
        var turned = new TriangleTree(nominal.Mesh.Transformed(askew));
        var net = SurfaceNets.Extract(turned, recipe.Spacing).Transformed(askew.Inverse());
        progress?.Report(0.4);
        cancel.ThrowIfCancellationRequested();

        var tree = new TriangleTree(nominal.Mesh);
        var noise = new SeededNoise(recipe.Seed);
        var views = Viewpoints.For(recipe);
        var drift = Drift(views.Count, recipe.Misregistration, noise);
        var missing = recipe.Errors.Where(e => e.Kind == "missing").SelectMany(e => e.Faces)
            .Concat(TooNarrow(nominal, recipe.NarrowestFace)).ToHashSet();
        var blinding = Math.Cos(HeadOn * Math.PI / 180);
        var moved = new double[net.Coordinates.Length];
        var seen = new bool[net.VertexCount];
        var steepest = Math.Cos(recipe.MostIncidence * Math.PI / 180);
        var reach = nominal.Mesh.Bounds.Diagonal;
        Parallel.For(0, (net.VertexCount + 1023) / 1024, new ParallelOptions { CancellationToken = cancel }, chunk =>
        {
            var search = new ClosestSearch(tree);
            for (var v = chunk * 1024; v < Math.Min(net.VertexCount, (chunk + 1) * 1024); v++)
            {
                var hit = search.Closest(net.Vertex(v));
                var face = nominal.Faces[nominal.FaceOfTriangle[hit.Triangle]];
                var (p, normal) = OnExactSurface(hit.Point, hit.Triangle, tree.FaceNormal(hit.Triangle), nominal);
                var view = views.Best(
                    tree, hit.Point, normal, steepest, reach, recipe.Shiny.Contains(face.Id) ? blinding : 2, out var cosine);
                seen[v] = view >= 0 && !missing.Contains(face.Id);
                var sight = view >= 0 ? views.Light(view) : normal;
                var sigma = recipe.NoiseGrowth > 0 && view >= 0 ? recipe.Noise * Math.Pow(1 / cosine, recipe.NoiseGrowth) : recipe.Noise;
                var q = PlantedErrors.Deform(p, normal, face, recipe.Errors, nominal.Mesh.Bounds)
                    + (recipe.Coat * normal) + (sigma * noise.Normal(v) * sight) + (view >= 0 ? drift[view] : Vector3D.Zero);
                (moved[3 * v], moved[(3 * v) + 1], moved[(3 * v) + 2]) = q;
            }
        });
        progress?.Report(0.8);

        var part = new TriangleMesh(moved, net.Indices).KeepTriangles(t =>
            seen[net.Indices[3 * t]] && seen[net.Indices[(3 * t) + 1]] && seen[net.Indices[(3 * t) + 2]]);
        var all = Strays.Add(part, nominal.Mesh.Bounds, recipe, noise);
        var pose = recipe.RandomPose ? Pose(noise, nominal.Mesh.Bounds.Diagonal) : RigidTransform.Identity;
        var unit = 1 / LengthUnit.Factor(recipe.Unit);
        var truth = new ScanTruth(pose.Inverse().ToArray(), part.TriangleCount, all.TriangleCount - part.TriangleCount, recipe);
        var written = recipe.Cloud ? new TriangleMesh(all.Coordinates, []) : all;
        return new(written.Transformed(pose).Scaled(unit), truth);
    }

    /// <summary>The triangulation is off the exact surface by up to the chord error; a real part is not.</summary>
    private static (Vector3D Point, Vector3D Normal) OnExactSurface(Vector3D p, int triangle, Vector3D normal, NominalModel nominal) =>
        nominal.ExactFoot(triangle, p) is { } exact && Vector3D.Distance(exact.Point, p) <= 2 * nominal.ChordError ? exact : (p, normal);

    /// <summary>How far each view lies from where it should.</summary>
    private static Vector3D[] Drift(int views, double sigma, SeededNoise noise)
    {
        const long Base = 1L << 44;
        return [.. Enumerable.Range(0, views)
            .Select(v => sigma
            * new Vector3D(noise.Normal(Base + (10 * v)), noise.Normal(Base + (10 * v) + 2), noise.Normal(Base + (10 * v) + 4)))];
    }

    /// <summary>Faces whose width, twice the area over the border, is below a limit.</summary>
    private static IEnumerable<int> TooNarrow(NominalModel nominal, double width)
    {
        if (width <= 0)
        {
            return [];
        }

        var border = new double[nominal.Faces.Count];
        foreach (var edge in nominal.Edges)
        {
            double length = 0;
            for (var i = 3; i < edge.Points.Length; i += 3)
            {
                length += Vector3D.Distance(new(edge.Points[i - 3], edge.Points[i - 2], edge.Points[i - 1]),
                    new(edge.Points[i], edge.Points[i + 1], edge.Points[i + 2]));
            }

            foreach (var f in edge.Faces)
            {
                border[f] += length;
            }
        }

        return nominal.Faces.Where(f => border[f.Id] > 0 && 2 * f.Area / border[f.Id] < width).Select(f => f.Id);
    }

    private static RigidTransform Pose(SeededNoise noise, double size)
    {
        const long Base = 1L << 40;
        var axis = new Vector3D(noise.Normal(Base), noise.Normal(Base + 1), noise.Normal(Base + 2));
        var turn = RigidTransform.FromAxisAngle(axis, 2 * Math.PI * noise.Uniform(Base + 30));
        return turn with
        {
            Translation = 3 * size
            * new Vector3D(noise.Normal(Base + 10), noise.Normal(Base + 11), noise.Normal(Base + 12))
        };
    }
}
