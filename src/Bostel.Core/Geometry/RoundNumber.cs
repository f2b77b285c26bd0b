namespace Bostel.Core.Geometry;

/// <summary>Numbers that a scale bar or a scale shows: 1, 2 or 5 times a power of ten.</summary>
public static class RoundNumber
{
    /// <summary>The largest that is no more than a number above 0.</summary>
    public static double AtMost(double number)
    {
        var power = Math.Pow(10, Math.Floor(Math.Log10(number)));
        return power * (number / power >= 5 ? 5 : number / power >= 2 ? 2 : 1);
    }
}
