using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// The smallest cylinder, nearly along a known direction, that holds the places of a line: to first order in its lean a linear program,
/// with the circle replaced by a polygon of 48 sides. What holds all places at its solution is given: 0.2 % too large at most.
/// </summary>
internal static class SmallestCylinder
{
    private const int Even = 24;

    /// <param name="off">How far each place lies beside a straight line, square to it.</param>
    /// <param name="heights">Where along that line.</param>
    /// <param name="direction">Of that line.</param>
    public static double Diameter(Vector3D[] off, double[] heights, Vector3D direction)
    {
        var (u, v) = (direction.Perpendicular(), direction.Cross(direction.Perpendicular()));
        var reach = Math.Max(1e-12, heights.Max(Math.Abs));
        var distances = new double[off.Length * Even];
        var gradients = new double[4 * distances.Length];
        for (var i = 0; i < off.Length; i++)
        {
            for (var k = 0; k < Even; k++)
            {
                var (cos, sin) = (Math.Cos(Math.PI * k / Even), Math.Sin(Math.PI * k / Even));
                var row = (i * Even) + k;
                var h = heights[i] / reach;
                distances[row] = (cos * off[i].Dot(u)) + (sin * off[i].Dot(v));
                (gradients[4 * row], gradients[(4 * row) + 1]) = (-cos, -sin);
                (gradients[(4 * row) + 2], gradients[(4 * row) + 3]) = (-h * cos, -h * sin);
            }
        }

        var trust = 4 * Math.Max(1e-12, off.Max(o => o.Length));
        var delta = ChebyshevProgram.Solve(distances, gradients, 4, trust, true, true)?.Delta ?? new double[4];
        return 2 * off.Select((o, i) => o
            - ((delta[0] + (heights[i] / reach * delta[2])) * u) - ((delta[1] + (heights[i] / reach * delta[3])) * v)).Max(o => o.Length);
    }
}
