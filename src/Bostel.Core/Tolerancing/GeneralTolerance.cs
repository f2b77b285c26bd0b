namespace Bostel.Core.Tolerancing;

/// <summary>
/// Tolerances where the drawing gives none of its own: ISO 2768-1 class m for sizes and angles, ISO 2768-2 class K for form and
/// orientation. They are where an editor begins, never what a plan falls back to.
/// </summary>
internal static class GeneralTolerance
{
    private static readonly (double UpTo, double Deviation)[] Linear =
        [(6, 0.1), (30, 0.2), (120, 0.3), (400, 0.5), (1000, 0.8), (2000, 1.2), (double.PositiveInfinity, 2)];

    /// <summary>Degrees, by the length of the shorter side.</summary>
    private static readonly (double UpTo, double Deviation)[] Angular =
        [(10, 1), (50, 0.5), (120, 1 / 3.0), (400, 1 / 6.0), (double.PositiveInfinity, 1 / 12.0)];

    private static readonly (double UpTo, double Zone)[] Flat =
        [(10, 0.05), (30, 0.1), (100, 0.2), (300, 0.4), (1000, 0.6), (double.PositiveInfinity, 0.8)];

    private static readonly (double UpTo, double Zone)[] Perpendicular =
        [(100, 0.4), (300, 0.6), (1000, 0.8), (double.PositiveInfinity, 1)];

    /// <summary>Limit deviation of a length, mm.</summary>
    public static double OfLength(double nominal) => Of(Linear, Math.Abs(nominal));

    /// <summary>Limit deviation of an angle, degrees to four decimals.</summary>
    /// <param name="side">Length of the shorter side, mm.</param>
    public static double OfAngle(double side) => Math.Round(Of(Angular, side), 4);

    /// <summary>Zone of flatness for the longer side of a face, mm; the same for other forms.</summary>
    public static double OfForm(double length) => Of(Flat, length);

    /// <summary>Zone of perpendicularity for the shorter side, mm; the same for other orientations.</summary>
    public static double OfOrientation(double length) => Of(Perpendicular, length);

    /// <summary>Zone of circular run-out, mm (class K); the same where all of a surface is looked at.</summary>
    public const double OfRunOut = 0.2;

    private static double Of((double UpTo, double Value)[] table, double length) => table.First(t => length <= t.UpTo).Value;
}
