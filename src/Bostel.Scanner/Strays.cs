using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Scanner;

/// <summary>Data that is not the part: small floating pieces and a patch of the table.</summary>
internal static class Strays
{
    public static TriangleMesh Add(TriangleMesh part, Box3D box, ScanRecipe recipe, SeededNoise noise)
    {
        var coordinates = new List<double>(part.Coordinates);
        var indices = new List<int>(part.Indices);
        if (recipe.TablePatch)
        {
            var corner = new Vector3D(box.Min.X, box.Min.Y, box.Min.Z - (0.03 * box.Diagonal));
            Sheet(corner, 0.45 * box.Size.X * Vector3D.UnitX, 0.4 * box.Size.Y * Vector3D.UnitY, 1L << 41);
        }

        for (var k = 0; recipe.Fixture && k < 3; k++)
        {
            // Square posts under the part, scanned on their four sides.
            var foot = new Vector3D(box.Min.X + ((0.2 + (0.3 * k)) * box.Size.X), box.Min.Y + ((k == 1 ? 0.75 : 0.2) * box.Size.Y),
                box.Min.Z - (0.02 * box.Diagonal));
            var side = 0.04 * box.Diagonal;
            var down = -0.2 * box.Diagonal * Vector3D.UnitZ;
            Sheet(foot, side * Vector3D.UnitX, down, (1L << 45) + (k * 1_000_000L));
            Sheet(foot + (side * Vector3D.UnitX), side * Vector3D.UnitY, down, (1L << 46) + (k * 1_000_000L));
            Sheet(foot + (side * (Vector3D.UnitX + Vector3D.UnitY)), -side * Vector3D.UnitX, down, (1L << 47) + (k * 1_000_000L));
            Sheet(foot + (side * Vector3D.UnitY), -side * Vector3D.UnitY, down, (1L << 48) + (k * 1_000_000L));
        }

        for (var k = 0; k < recipe.StrayPieces; k++)
        {
            var phi = 2 * Math.PI * noise.Uniform((1L << 42) + k);
            var away = new Vector3D(Math.Cos(phi), Math.Sin(phi), noise.Uniform((1L << 42) + 100 + k) - 0.3);
            var size = (2 + (3 * noise.Uniform((1L << 42) + 200 + k))) * recipe.Spacing;
            Sheet(box.Center + (0.65 * box.Diagonal * away), 2 * size * away.Perpendicular(), size * Vector3D.UnitZ,
                (1L << 43) + (k * 100_000L));
        }

        return new([.. coordinates], [.. indices]);

        void Sheet(Vector3D corner, Vector3D u, Vector3D v, long counter)
        {
            var (nu, nv) = (Math.Max(2, (int)(u.Length / recipe.Spacing)), Math.Max(2, (int)(v.Length / recipe.Spacing)));
            var up = u.Cross(v).Normalized();
            var first = coordinates.Count / 3;
            for (var j = 0; j <= nv; j++)
            {
                for (var i = 0; i <= nu; i++)
                {
                    var p = corner + ((double)i / nu * u) + ((double)j / nv * v) + (recipe.Noise * noise.Normal(counter++) * up);
                    coordinates.AddRange([p.X, p.Y, p.Z]);
                    if (i < nu && j < nv)
                    {
                        var a = first + (j * (nu + 1)) + i;
                        indices.AddRange([a, a + 1, a + nu + 2, a, a + nu + 2, a + nu + 1]);
                    }
                }
            }
        }
    }
}
