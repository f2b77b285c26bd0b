namespace Bostel.Core.Figures;

/// <summary>
/// Colours of the deviation map: material missing to material in excess, safe for colour-blind readers and grey print. The same stops are
/// used by the stage's shader (web/src/stage/ramp.ts).
/// </summary>
public static class DeviationRamp
{
    private static readonly (double At, int R, int G, int B)[] Stops =
    [
        (-1, 0x0B, 0x4F, 0x6C), (-0.5, 0x5F, 0xA3, 0xB8), (0, 0xF4, 0xEE, 0xDD), (0.5, 0xD9, 0x8E, 0x4A), (1, 0x8F, 0x2D, 0x14),
    ];

    /// <summary>Colour of a deviation between the limits; beyond them the end colour (the caller draws the hatch).</summary>
    public static (double R, double G, double B) Color(double deviation, double lower, double upper)
    {
        var t = deviation < 0 ? Math.Max(-1, -deviation / Math.Min(lower, -1e-9)) : Math.Min(1, deviation / Math.Max(upper, 1e-9));
        for (var i = 1; i < Stops.Length; i++)
        {
            if (t <= Stops[i].At)
            {
                var (a, b) = (Stops[i - 1], Stops[i]);
                var f = (t - a.At) / (b.At - a.At);
                return (a.R + (f * (b.R - a.R)), a.G + (f * (b.G - a.G)), a.B + (f * (b.B - a.B)));
            }
        }

        return (Stops[^1].R, Stops[^1].G, Stops[^1].B);
    }
}
