using Bostel.Core.Meshes;
using Bostel.Core.Segmentation;

namespace Bostel.Core.Selecting;

/// <summary>Selections that spread from a seed triangle over its neighbours.</summary>
internal static class GrowSelection
{
    /// <summary>
    /// Spreads while the surface turns by no more than an angle from one triangle to the next. The normal of a triangle is the mean of its
    /// corners' normals, which takes the noise of a scan out and leaves its edges in.
    /// </summary>
    public static bool[] ByTurn(SelectionItems items, int seed, double degrees)
    {
        var (turns, neighbours) = (items.Mesh.EdgeTurns, items.Mesh.Topology.Neighbours);
        var most = 2 * Math.Sin(Math.Min(degrees, 180) * Math.PI / 360) * MeshNormals.TurnSteps;
        var flags = new bool[items.Count];
        flags[seed] = true;

        // Depth first: what is looked at next lies beside what was looked at last, also in memory.
        var (stack, top) = (new int[1024], 1);
        stack[0] = seed;
        while (top > 0)
        {
            var t = stack[--top];
            if (top + 3 > stack.Length)
            {
                Array.Resize(ref stack, 2 * stack.Length);
            }

            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                var n = neighbours[h];
                if (n >= 0 && turns[h] <= most && !flags[n])
                {
                    flags[n] = true;
                    stack[top++] = n;
                }
            }
        }

        return flags;
    }

    /// <summary>
    /// Spreads over one surface, a plane, cylinder, sphere, cone or torus, see <see cref="PickedSurface"/>; the seed alone where none is
    /// told.
    /// </summary>
    /// <param name="band">Half width of the band, mm; four times the scatter when null.</param>
    public static bool[] SameSurface(SelectionItems items, int seed, double? band)
    {
        var flags = new bool[items.Count];
        flags[seed] = true;
        foreach (var t in new PickedSurface(items.Mesh).At(seed, band)?.Triangles ?? [])
        {
            flags[t] = true;
        }

        return flags;
    }
}
