using Bostel.Core;
using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Segmentation;
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
    /// <exception cref="BadInputException">The recipe names a face that the nominal does not have, or an error kind that is not known.</exception>
    public static SimulatedScan Scan(NominalModel nominal, ScanRecipe recipe, IProgress<double>? progress = null, CancellationToken cancel = default)
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
        var views = (recipe.Views?.Select(v => Vector3D.FromArray(v).Normalized()) ?? AllRound()).ToArray();
        var missing = recipe.Errors.Where(e => e.Kind == "missing").SelectMany(e => e.Faces).ToHashSet();
        var moved = new double[net.Coordinates.Length];
        var seen = new bool[net.VertexCount];
        var steepest = Math.Cos(recipe.MostIncidence * Math.PI / 180);
        var reach = nominal.Mesh.Bounds.Diagonal;
        Parallel.For(0, (net.VertexCount + 1023) / 1024, new ParallelOptions { CancellationToken = cancel }, chunk =>
        {
            for (var v = chunk * 1024; v < Math.Min(net.VertexCount, (chunk + 1) * 1024); v++)
            {
                var hit = tree.Closest(net.Vertex(v));
                var face = nominal.Faces[nominal.FaceOfTriangle[hit.Triangle]];
                var (p, normal) = OnExactSurface(hit.Point, tree.FaceNormal(hit.Triangle), face, nominal.ChordError);
                var view = SeenFrom(tree, hit.Point, normal, views, steepest, reach);
                seen[v] = view is not null && !missing.Contains(face.Id);
                var q = Deform(p, normal, face, recipe.Errors) + ((view ?? normal) * (recipe.Noise * noise.Normal(v)));
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
        return new(all.Transformed(pose).Scaled(unit), truth);
    }

    /// <summary>Views at several elevations all round, and along both ends of each axis.</summary>
    private static IEnumerable<Vector3D> AllRound()
    {
        foreach (var axis in (Vector3D[])[Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ])
        {
            yield return axis;
            yield return -axis;
        }

        foreach (var elevation in (double[])[-72, -50, -22, 22, 50, 72])
        {
            var (s, c) = Math.SinCos(elevation * Math.PI / 180);
            for (var k = 0; k < 10; k++)
            {
                var phi = (k + (elevation > 0 ? 0.5 : 0)) * Math.PI / 5;
                yield return new(c * Math.Cos(phi), c * Math.Sin(phi), s);
            }
        }
    }

    /// <summary>The triangulation is off the exact surface by up to the chord error; a real part is not.</summary>
    private static (Vector3D Point, Vector3D Normal) OnExactSurface(Vector3D p, Vector3D normal, NominalFace face, double chordError)
    {
        if (face.Shape is null || Math.Abs(face.Shape.Distance(p)) > 2 * chordError)
        {
            return (p, normal);
        }

        var gradient = NominalFaceBuilder.Gradient(face.Shape, p);
        return (p - (face.Shape.Distance(p) * gradient), face.Internal ? -gradient : gradient);
    }

    private static Vector3D? SeenFrom(TriangleTree tree, Vector3D p, Vector3D normal, Vector3D[] views, double steepest, double reach)
    {
        Span<(double Cosine, int View)> order = stackalloc (double, int)[views.Length];
        for (var i = 0; i < views.Length; i++)
        {
            order[i] = (views[i].Dot(normal), i);
        }

        order.Sort((a, b) => b.Cosine.CompareTo(a.Cosine));
        var start = p + (1e-3 * normal);
        foreach (var (cosine, i) in order)
        {
            if (cosine < steepest)
            {
                return null;
            }

            if (tree.FirstHit(start, views[i], 1e-6, reach, out _) < 0)
            {
                return views[i];
            }
        }

        return null;
    }

    private static Vector3D Deform(Vector3D p, Vector3D normal, NominalFace face, IReadOnlyList<PlantedError> errors)
    {
        var q = p;
        foreach (var error in errors)
        {
            if (!error.Faces.Contains(face.Id))
            {
                continue;
            }

            q += error.Kind switch
            {
                "offset" => error.Value * normal,
                "radius" => (face.Internal ? -error.Value : error.Value) * normal,
                "shift" => Needed(error),
                "tilt" => RigidTransform.FromAxisAngle(Needed(error), error.Value * Math.PI / 180).Rotate(p - face.Center) - (p - face.Center),
                "bow" => error.Value * Math.Max(0, 1 - ((p - face.Center).LengthSquared * Math.PI / Math.Max(1e-9, 1.5 * face.Area))) * normal,
                "missing" => Vector3D.Zero,
                _ => throw new BadInputException($"errors: the kind '{error.Kind}' is not known."),
            };
        }

        return q;
    }

    private static Vector3D Needed(PlantedError error) =>
        error.Vector is { Length: 3 } v ? Vector3D.FromArray(v) : throw new BadInputException($"errors: '{error.Kind}' needs a vector of three numbers.");

    private static RigidTransform Pose(SeededNoise noise, double size)
    {
        const long Base = 1L << 40;
        var axis = new Vector3D(noise.Normal(Base), noise.Normal(Base + 1), noise.Normal(Base + 2));
        var turn = RigidTransform.FromAxisAngle(axis, 2 * Math.PI * noise.Uniform(Base + 30));
        return turn with { Translation = 3 * size * new Vector3D(noise.Normal(Base + 10), noise.Normal(Base + 11), noise.Normal(Base + 12)) };
    }
}
