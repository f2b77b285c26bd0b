namespace Bostel.Core.Plans;

/// <summary>
/// Colours of a map between two limits, safe for colour-blind readers and grey print. The same stops are used by the stage
/// (web/src/stage/ramp.ts).
/// </summary>
/// <param name="Lower">Where the ramp begins.</param>
/// <param name="Upper">Where it ends.</param>
public readonly record struct ColourScale(double Lower, double Upper, RampPlan Ramp)
{
    private static readonly (double At, int R, int G, int B)[] BlueRust =
    [
        (-1, 0x0B, 0x4F, 0x6C), (-0.5, 0x5F, 0xA3, 0xB8), (0, 0xF4, 0xEE, 0xDD), (0.5, 0xD9, 0x8E, 0x4A), (1, 0x8F, 0x2D, 0x14),
    ];

    private static readonly (double At, int R, int G, int B)[] GreenPlum =
    [
        (-1, 0x0B, 0x5A, 0x3C), (-0.5, 0x68, 0xAD, 0x86), (0, 0xF4, 0xEE, 0xDD), (0.5, 0xBE, 0x7F, 0xAE), (1, 0x63, 0x1C, 0x58),
    ];

    private static readonly (double At, int R, int G, int B)[] Grey =
    [
        (-1, 0x2A, 0x2E, 0x33), (0, 0x94, 0x98, 0x9C), (1, 0xFB, 0xFA, 0xF7),
    ];

    /// <summary>Whether what lies below <see cref="Lower"/> is beyond a limit; else the ramp only ends there.</summary>
    public bool LowerBinds { get; init; } = true;

    /// <summary>See <see cref="LowerBinds"/>.</summary>
    public bool UpperBinds { get; init; } = true;

    /// <summary>The middle of the ramp: 0 where that lies between the limits, else half way.</summary>
    private double Centre => Lower < 0 && Upper > 0 ? 0 : (Lower + Upper) / 2;

    /// <summary>−1 beyond the lower limit, 1 beyond the upper, 0 within.</summary>
    public int Beyond(double value) => LowerBinds && value < Lower ? -1 : UpperBinds && value > Upper ? 1 : 0;

    /// <summary>Colour of a value; beyond the limits the end colour.</summary>
    public (double R, double G, double B) Color(double value)
    {
        var t = Math.Clamp(value < Centre ? (value - Centre) / (Centre - Lower) : (value - Centre) / (Upper - Centre), -1, 1);
        if (Ramp.Steps is { } n)
        {
            t = (t < 0 ? -1 : 1) * ((Math.Min(n - 1, Math.Floor(Math.Abs(t) * n)) + 0.5) / n);
        }

        var stops = Ramp.Kind switch { RampKind.BlueRust => BlueRust, RampKind.GreenPlum => GreenPlum, _ => Grey };
        var i = 1;
        while (t > stops[i].At)
        {
            i++;
        }

        var (a, b) = (stops[i - 1], stops[i]);
        var f = (t - a.At) / (b.At - a.At);
        return (a.R + (f * (b.R - a.R)), a.G + (f * (b.G - a.G)), a.B + (f * (b.B - a.B)));
    }
}
