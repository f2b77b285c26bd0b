using Bostel.Core;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Scanner;

/// <summary>
/// Where a device looks from. Light and camera stand a baseline apart, and a point gives data only where both see it: that is what
/// occlusion is for structured light and laser lines alike.
/// </summary>
internal sealed class Viewpoints
{
    public static readonly IReadOnlyList<string> Devices = ["all-round", "turntable", "structured-light", "laser-line"];
    private readonly Vector3D[] _light;
    private readonly Vector3D[] _camera;

    private Viewpoints(Vector3D[] light, double baselineDegrees)
    {
        _light = light;
        _camera = [.. light.Select(v => RigidTransform.FromAxisAngle(v.Perpendicular(), baselineDegrees * Math.PI / 180).Rotate(v))];
        HasBaseline = baselineDegrees > 0;
    }

    public int Count => _light.Length;

    private bool HasBaseline { get; }

    public Vector3D Light(int view) => _light[view];

    public static Viewpoints For(ScanRecipe recipe)
    {
        if (recipe.Views is { } given)
        {
            return new([.. given.Select(v => Vector3D.FromArray(v).Normalized())], recipe.Baseline ?? 0);
        }

        return recipe.Device switch
        {
            "all-round" => new([.. AllRound()], recipe.Baseline ?? 0),

            // The part stands on the table: nothing is seen from below.
            "turntable" => new([.. Rings([25, 55], 12)], recipe.Baseline ?? 18),
            "structured-light" => new([.. Rings([-45, 10, 45], 6), Vector3D.UnitZ, -Vector3D.UnitZ], recipe.Baseline ?? 22),

            // Passes along both long sides and over the top, the line tilted either way.
            "laser-line" => new([.. Rings([-30, 30], 4), .. Rings([70], 4)], recipe.Baseline ?? 30),
            _ => throw new BadInputException($"device: '{recipe.Device}' is not one of {string.Join(", ", Devices)}."),
        };
    }

    /// <summary>The view that sees a point best, and the cosine of its incidence; −1 when none does.</summary>
    /// <param name="headOn">Views nearer to the normal than this cosine are blinded by the reflection; 2 for none.</param>
    public int Best(TriangleTree tree, Vector3D p, Vector3D normal, double steepest, double reach, double headOn, out double cosine)
    {
        Span<(double Cosine, int View)> order = stackalloc (double, int)[Count];
        for (var i = 0; i < Count; i++)
        {
            order[i] = (_light[i].Dot(normal), i);
        }

        order.Sort((a, b) => b.Cosine.CompareTo(a.Cosine));
        var start = p + (1e-3 * normal);
        foreach (var (c, i) in order)
        {
            cosine = c;
            if (c < steepest)
            {
                return -1;
            }

            if (c < headOn && !tree.Blocks(start, _light[i], 1e-6, reach) &&
                (!HasBaseline || (_camera[i].Dot(normal) >= steepest && !tree.Blocks(start, _camera[i], 1e-6, reach))))
            {
                return i;
            }
        }

        cosine = 0;
        return -1;
    }

    /// <summary>Views at several elevations all round, and along both ends of each axis.</summary>
    private static IEnumerable<Vector3D> AllRound()
    {
        foreach (var axis in (Vector3D[])[Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ])
        {
            yield return axis;
            yield return -axis;
        }

        foreach (var view in Rings([-72, -50, -22, 22, 50, 72], 10))
        {
            yield return view;
        }
    }

    private static IEnumerable<Vector3D> Rings(double[] elevations, int around)
    {
        foreach (var elevation in elevations)
        {
            var (s, c) = Math.SinCos(elevation * Math.PI / 180);
            for (var k = 0; k < around; k++)
            {
                var phi = (k + (elevation > 0 ? 0.5 : 0)) * 2 * Math.PI / around;
                yield return new(c * Math.Cos(phi), c * Math.Sin(phi), s);
            }
        }
    }
}
